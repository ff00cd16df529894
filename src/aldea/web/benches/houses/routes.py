"""The list of houses, and a new one from a plan file."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.datastructures import UploadFile

from aldea.core.base.errors import PlanError
from aldea.core.base.instants import known_zones
from aldea.core.base.quantities import QUANTITIES, Quantity
from aldea.core.plan.defaults import empty_house
from aldea.core.plan.document import House, Plan
from aldea.core.plan.edits import as_copy
from aldea.core.plan.text import MAX_BYTES, read_plan
from aldea.core.wiring.beginnings import STARTING_PROBLEMS
from aldea.store.documents import document_of
from aldea.store.drafts import begin_draft, read_draft
from aldea.store.houses import (
    add_log_entry,
    check_may_begin,
    create_house,
    house_for,
    houses_of,
    is_builder_somewhere,
    only_begun,
)
from aldea.web.shell.access import Sent, SignedIn, State, Visitor
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import render
from aldea.web.shell.state import AppState

FIRST = {
    "name": "",
    "time_zone": "Europe/Madrid",
    "mains_v": "230",
    "mains_hz": "50",
    "copy": "",
    "log_quantity": "relative_humidity",
    "log_way": "rising",
    "log_place": "",
    "log_load": "",
    "log_problem": "",
}  # what stands in the form of a new house
BANDED: tuple[Quantity, ...] = (
    "relative_humidity",
    "air_temperature",
    "air_pressure",
    "illuminance",
    "distance",
    "gas_hint",
)  # quantities that a band can follow
WAYS = {"rising": "when it is too high", "falling": "when it is too low"}
# The problems whose probe a log can become, with the quantities of their probes.
LOG_PROBLEMS: dict[str, tuple[Quantity, ...]] = {
    "damp": ("relative_humidity", "air_temperature"),
    "hot": ("air_temperature",),
    "stair": ("illuminance",),
}
ROOM_FOR_A_FORM = 100_000
router = APIRouter(include_in_schema=False)


@router.get("/")
def first(state: State, visitor: SignedIn) -> Response:
    """Straight into the first house."""
    with state.database.begin() as connection:
        houses = houses_of(connection, visitor.account)
    return RedirectResponse(f"/h/{houses[0][0].slug}" if houses else "/houses", status_code=303)


@router.get("/houses")
def houses(request: Request, state: State, visitor: SignedIn) -> Response:
    """Every house of the visitor."""
    return houses_page(request, state, visitor)


def houses_page(
    request: Request,
    state: AppState,
    visitor: Visitor,
    *,
    refusal: str = "",
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    """Every house of the visitor, and what another can be begun from."""
    with state.database.begin() as connection:
        rows = houses_of(connection, visitor.account)
        begun = only_begun(connection, [house.id for house, _, _ in rows])
        may_begin = is_builder_somewhere(connection, visitor.account)
    return render(
        request,
        "houses/houses.html",
        status=status,
        rows=[(house, role, document_of(text).plan) for house, role, text in rows],
        begun=begun,
        problems=STARTING_PROBLEMS,
        quantities=[(key, QUANTITIES[key].name) for key in BANDED],
        ways=tuple(WAYS.items()),
        log_problems=[
            ("", "one band, from the first rows of the log"),
            *((n.key, f"those of “{n.name}”") for n in STARTING_PROBLEMS if n.key in LOG_PROBLEMS),
        ],
        typed_zone="time_zone" in (typed or {}),
        may_begin=may_begin,
        refusal=refusal,
        errors=errors or {},
        typed={**FIRST, **(typed or {})},
        zones=sorted(known_zones()),
        visitor=visitor,
        form_token=visitor.form_token,
    )


@router.post("/houses", max_body_size=MAX_BYTES + ROOM_FOR_A_FORM)
def begin(request: Request, state: State, visitor: SignedIn, form: Sent) -> Response:
    """A new house from a plan file: the whole of it, or nothing."""
    upload = form.get("plan")
    if not isinstance(upload, UploadFile) or not upload.filename:
        refusal = "Choose a file first: a plan that Aldea exported."
        return houses_page(request, state, visitor, refusal=refusal, status=422)
    try:
        plan = read_plan(upload.file.read(MAX_BYTES + 1))
        now_ms = state.clock()
        with state.database.begin() as connection:
            check_may_begin(connection, visitor.account)
            house = create_house(
                connection, name=plan.house.name, owner=visitor.account, created_ms=now_ms
            )
            begin_draft(connection, house.id, plan, visitor.account, now_ms)
            add_log_entry(
                connection,
                house.id,
                account=visitor.account,
                at_ms=now_ms,
                what=f"House created from the plan file {upload.filename}.",
            )
    except PlanError as exc:
        refusal = f"The plan was not imported. At {exc.where}: {exc.at_field}"
        return houses_page(request, state, visitor, refusal=refusal, status=422)
    return RedirectResponse(f"/h/{house.slug}/record", status_code=303)


@router.post("/houses/new")
def begin_empty(request: Request, state: State, visitor: SignedIn, form: Sent) -> Response:
    """A new house from nothing, or as a copy of one of one's own."""
    typed = typed_of(form)
    fields = Fields(typed)
    name = fields.text("name", most=80)
    if not name:
        fields.refuse("name", "nothing", "a name for the house")
    copied = typed.get("copy", "")
    zone = typed.get("time_zone", "")
    if zone not in known_zones():
        fields.refuse("time_zone", repr(zone), "a zone of the list, such as Europe/Madrid")
    mains_v = fields.number("mains_v", low=90, high=260, unit="V")
    mains_hz = fields.number("mains_hz", low=45, high=65, unit="Hz")
    if fields.errors:
        return houses_page(request, state, visitor, errors=fields.errors, typed=typed, status=422)
    facts = House(name=name, time_zone=zone, mains_v=mains_v, mains_hz=mains_hz)
    now_ms = state.clock()
    with state.database.begin() as connection:
        check_may_begin(connection, visitor.account)
        if copied:
            source, _ = house_for(connection, copied, visitor.account)
            old = read_draft(connection, source.id).plan
            plan = as_copy(old, facts)
            what = f"House created as a copy of {old.house.name}."
        else:
            plan = Plan.model_validate(empty_house(facts))
            what = "Empty house created."
        house = create_house(connection, name=name, owner=visitor.account, created_ms=now_ms)
        begin_draft(connection, house.id, plan, visitor.account, now_ms)
        add_log_entry(connection, house.id, account=visitor.account, at_ms=now_ms, what=what)
    return RedirectResponse(f"/h/{house.slug}/layout", status_code=303)
