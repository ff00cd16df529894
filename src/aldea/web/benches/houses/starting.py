"""A house started from a problem or a wiring to check; and taken back."""

from fastapi import APIRouter, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import NotAllowedError, NotFoundError
from aldea.core.base.instants import known_zones
from aldea.core.plan.defaults import empty_house, new_place
from aldea.core.plan.document import House, Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.panel import Board, Supply
from aldea.core.wiring.beginnings import begun_from, starting_problem
from aldea.store.drafts import begin_draft
from aldea.store.houses import (
    HouseRow,
    add_log_entry,
    check_may_begin,
    create_house,
    house_for,
    remove_house,
)
from aldea.web.benches.houses.routes import FIRST
from aldea.web.shell.access import Sent, SignedIn, State, Visitor
from aldea.web.shell.forms import typed_of
from aldea.web.shell.state import AppState

router = APIRouter(include_in_schema=False)


def house_facts(name: str, zone: str) -> House:
    """The facts of a new house: its name and its time zone."""
    return House(name=name, time_zone=zone)


def zone_of(typed: dict[str, str]) -> str:
    """The time zone that is chosen; the usual one where a form sends none, or one unknown."""
    zone = typed.get("time_zone", "")
    return zone if zone in known_zones() else FIRST["time_zone"]


def house_started(
    state: AppState, visitor: Visitor, plan: Plan, what: str, now_ms: int
) -> HouseRow:
    """A new house with a plan as its draft, and what it was started from in its history."""
    with state.database.begin() as connection:
        check_may_begin(connection, visitor.account)
        house = create_house(
            connection, name=plan.house.name, owner=visitor.account, created_ms=now_ms
        )
        begin_draft(connection, house.id, plan, visitor.account, now_ms)
        add_log_entry(connection, house.id, account=visitor.account, at_ms=now_ms, what=what)
    return house


@router.post("/houses/problem")
def begin_problem(state: State, visitor: SignedIn, form: Sent) -> Response:
    """A whole draft made of a problem, to change: laid out, wired, with its first rules."""
    key = str(form.get("problem", ""))
    problem = starting_problem(key)
    if problem is None:
        raise NotFoundError("problem", got=repr(key)[:80], allowed="one of the list")
    plan = begun_from(problem, house_facts(problem.name, zone_of(typed_of(form))))
    what = f"House created from a problem: {problem.name}."
    house = house_started(state, visitor, plan, what, state.clock())
    load = plan.loads[0].id
    return RedirectResponse(f"/h/{house.slug}/rule?load={load}", status_code=303)


@router.post("/houses/wiring")
def begin_wiring(state: State, visitor: SignedIn, form: Sent) -> Response:
    """A panel with a supply and a bare board; everything else is put in while it is checked."""
    plan = Plan.model_validate(empty_house(house_facts("A panel", zone_of(typed_of(form)))))
    place = new_place((), id="panel", name="Panel", kind="room", level=0)
    plan = put_part(plan, "place", place)
    supply = Supply(id="supply", name="Supply", place="panel", rating_ma=3000.0)
    plan = put_part(plan, "supply", supply)
    board = Board(id="board", name="Board", place="panel", board_type="wifi_38", supply="supply")
    plan = put_part(plan, "board", board)
    house = house_started(
        state, visitor, plan, "House created from a wiring to check.", state.clock()
    )
    return RedirectResponse(f"/h/{house.slug}/wire?part=board:board", status_code=303)


@router.post("/h/{slug}/take-back")
def take_back(state: State, visitor: SignedIn, slug: str) -> Response:
    """Take the beginning of a house back, with all that it made, unless anything was published."""
    with state.database.begin() as connection:
        house, role = house_for(connection, slug, visitor.account)
        if role != "builder":
            raise NotAllowedError(
                "house", text=f"You are a {role} of this house. Only a builder removes it."
            )
        remove_house(connection, house.id)
    return RedirectResponse("/houses", status_code=303)
