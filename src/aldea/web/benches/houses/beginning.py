"""A house begun from what there is: a log, a nuisance, a wiring to check; and taken back."""

from dataclasses import dataclass
from functools import partial

import numpy as np
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from aldea.core.base.errors import NotAllowedError, NotFoundError
from aldea.core.base.quantities import QUANTITIES, Quantity
from aldea.core.plan.conditions import Band
from aldea.core.plan.defaults import empty_house, new_load, new_place, new_probe
from aldea.core.plan.document import Claim, House, Plan
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.plan.panel import Board, Supply
from aldea.core.wiring.beginnings import begun_from, nuisance_of
from aldea.formats.log_options import (
    HEAD_BYTES,
    MOST_BYTES,
    LogOptions,
    column_values,
    guess_options,
    head_rows,
)
from aldea.formats.log_units import speaks_for
from aldea.jobs.uploads import upload_path, written
from aldea.store.drafts import begin_draft
from aldea.store.houses import (
    HouseRow,
    add_log_entry,
    check_may_begin,
    create_house,
    house_for,
    remove_house,
)
from aldea.store.imports import begin_import
from aldea.web.benches.houses.routes import BANDED, FIRST, WAYS, houses_page
from aldea.web.shell.access import Sent, SignedIn, State, Visitor
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.state import AppState

ROOM_FOR_A_FORM = 100_000
MOST_LOOKED_AT = 3000  # rows of the log's beginning
SILENT_AFTER = 3  # usual intervals
router = APIRouter(include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class _LogAsked:
    """What is asked of a log: what it measures, where, and what it switches, when."""

    quantity: Quantity
    place: str
    load: str
    way: str


def _facts(name: str) -> House:
    return House(name=name, time_zone=FIRST["time_zone"])


def _kept(state: AppState, visitor: Visitor, plan: Plan, what: str, now_ms: int) -> HouseRow:
    with state.database.begin() as connection:
        check_may_begin(connection, visitor.account)
        house = create_house(
            connection, name=plan.house.name, owner=visitor.account, created_ms=now_ms
        )
        begin_draft(connection, house.id, plan, visitor.account, now_ms)
        add_log_entry(connection, house.id, account=visitor.account, at_ms=now_ms, what=what)
    return house


@router.post("/houses/nuisance")
def begin_nuisance(state: State, visitor: SignedIn, form: Sent) -> Response:
    """A whole draft made of a nuisance, to change: laid out, wired, with its first rules."""
    key = str(form.get("nuisance", ""))
    nuisance = nuisance_of(key)
    if nuisance is None:
        raise NotFoundError("nuisance", got=repr(key)[:80], allowed="one of the list")
    plan = begun_from(nuisance, _facts(nuisance.name))
    what = f"House begun from a nuisance: {nuisance.name}."
    house = _kept(state, visitor, plan, what, state.clock())
    load = plan.loads[0].id
    return RedirectResponse(f"/h/{house.slug}/rule?load={load}", status_code=303)


@router.post("/houses/wiring")
def begin_wiring(state: State, visitor: SignedIn) -> Response:
    """A panel with a supply and a bare board; everything else is put in while it is checked."""
    plan = Plan.model_validate(empty_house(_facts("A panel")))
    place = new_place((), id="panel", name="Panel", kind="room", level=0)
    plan = put_part(plan, "place", place)
    supply = Supply(id="supply", name="Supply", place="panel", rating_ma=3000.0)
    plan = put_part(plan, "supply", supply)
    board = Board(id="board", name="Board", place="panel", board_type="wifi_38", supply="supply")
    plan = put_part(plan, "board", board)
    house = _kept(state, visitor, plan, "House begun from a wiring to check.", state.clock())
    return RedirectResponse(f"/h/{house.slug}/wire?part=board:board", status_code=303)


@router.post("/houses/log", max_body_size=MOST_BYTES + ROOM_FOR_A_FORM)
async def begin_log(request: Request, state: State, visitor: SignedIn, form: Sent) -> Response:
    """A house around a log: its probe, its place, a load with a first band; then the log."""
    sent = form.get("log")
    typed = typed_of(form)

    def take() -> Response:
        fields = Fields(typed)
        asked = _log_asked(fields)
        if not isinstance(sent, UploadFile) or not sent.filename:
            fields.refuse("log", "no file", "a CSV log")
        head = b""
        if isinstance(sent, UploadFile) and sent.filename:
            head = sent.file.read(HEAD_BYTES)
            if not head.strip():
                fields.refuse("log", "an empty file", "a CSV log with a time and a value")
        if fields.errors or not isinstance(sent, UploadFile):
            return houses_page(
                request, state, visitor, errors=fields.errors, typed=typed, status=422
            )
        plan, options = _around(asked, head)
        now_ms = state.clock()
        what = f"House begun from the log {(sent.filename or '')[-120:]}."
        house = _kept(state, visitor, plan, what, now_ms)
        with state.database.begin() as connection:
            run_id = begin_import(
                connection, house.id, by=visitor.account, probe=plan.probes[0].id,
                file_name=(sent.filename or "log.csv")[-120:], size_bytes=sent.size or 0,
                options=options, at_ms=now_ms,
            )  # fmt: skip
        sent.file.seek(0)
        with written(upload_path(state.uploads, run_id)) as target:
            while block := sent.file.read(1 << 20):
                target.write(block)
        return RedirectResponse(f"/h/{house.slug}/record/readings/{run_id}", status_code=303)

    return await run_in_threadpool(take)


def _log_asked(fields: Fields) -> _LogAsked:
    quantity = fields.choice("log_quantity", BANDED)
    way = fields.choice("log_way", tuple(WAYS))
    place, load = fields.text("log_place", most=80), fields.text("log_load", most=80)
    if not place:
        fields.refuse("log_place", "nothing", "where the probe is, such as Cellar")
    if not load:
        fields.refuse("log_load", "nothing", "what it is to switch, such as Fan")
    return _LogAsked(
        quantity=quantity if quantity in BANDED else "relative_humidity",
        place=place or "Place", load=load or "Load", way=way,
    )  # fmt: skip


def _around(asked: _LogAsked, head: bytes) -> tuple[Plan, LogOptions]:
    """The house around a log, with a band whose marks its first rows speak for."""
    plan = Plan.model_validate(empty_house(_facts(asked.place)))
    place = new_place((), id=fresh_id(asked.place, set()), name=asked.place, kind="room", level=0)
    plan = put_part(plan, "place", place)
    name = f"{asked.place} {QUANTITIES[asked.quantity].name}"[:80]
    probe = new_probe(
        probe_id=fresh_id(name, set()), name=name, place=place.id, quantity=asked.quantity
    ).model_copy(update={"stage": "working"})
    plan = put_part(plan, "probe", probe)
    load = new_load(
        load_id=fresh_id(asked.load, set()), name=asked.load, place=place.id, kind="relay"
    )
    plan = put_part(plan, "load", load.model_copy(update={"stage": "working"}))
    options = guess_options(head, plan.house.time_zone, partial(speaks_for, probe))
    rows = head_rows(head, options.delimiter, MOST_LOOKED_AT)
    every_s = _interval_s(rows, options)
    if every_s:
        # Else it would be called silent between two rows of its own log.
        often = {"reading_interval_s": every_s, "stale_after_s": max(60.0, SILENT_AFTER * every_s)}
        plan = put_part(plan, "probe", probe.model_copy(update=often))
    facts = QUANTITIES[asked.quantity]
    values = np.array(column_values(rows, options) or [(facts.low + facts.high) / 2])
    width = 2 * facts.uncertainty  # what such a probe can tell apart
    rising = asked.way == "rising"
    off = float(np.quantile(values, 0.4 if rising else 0.6))
    on = float(np.quantile(values, 0.75 if rising else 0.25))
    off = min(max(off, facts.low + width), facts.high - width)
    on = max(on, off + width) if rising else min(on, off - width)
    on, off = round(min(max(on, facts.low), facts.high), 1), round(off, 1)
    band = Band(probe=probe.id, direction=asked.way, on=on, off=off)  # type: ignore[arg-type]
    claim = Claim(
        id="band", load=load.id, rank="demand", want="on", condition=band, basis="assumed",
        note="marks to begin with, from the first rows of the log",
    )  # fmt: skip
    return plan.model_copy(update={"claims": (claim,)}), options


@router.post("/h/{slug}/take-back")
def take_back(state: State, visitor: SignedIn, slug: str) -> Response:
    """Take the beginning of a house back, with all that it made, unless anything was published."""
    with state.database.begin() as connection:
        house, role = house_for(connection, slug, visitor.account)
        if role != "builder":
            raise NotAllowedError(
                "house", said=f"You are a {role} of this house. Only a builder removes it."
            )
        remove_house(connection, house.id)
    return RedirectResponse("/houses", status_code=303)


def _interval_s(rows: list[list[str]], options: LogOptions) -> float:
    from aldea.formats.log_times import interval_s  # noqa: PLC0415  what reads logs is large

    return interval_s(rows, options)
