"""The data behind the pages, for programs: typed answers, RFC 9457 problems."""

from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, Request
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel, Field, ValidationError

from aldea.core.base.errors import InputError
from aldea.core.base.figures import figure
from aldea.core.base.instants import MS_PER_HOUR
from aldea.core.base.quantities import unit_of
from aldea.core.plan.document import Plan
from aldea.core.plan.text import plan_schema
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.words.reasons import load_words
from aldea.store.database import driver_of
from aldea.store.readings import series_id, store_readings
from aldea.web.shell.access import BuilderAccess, MemberAccess, State
from aldea.web.shell.page import asked_window, open_house, running_replay
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.timeline import timeline_data

router = APIRouter()
LAST_MS = 4_102_444_800_000  # the year 2100


class ReadingAt(BaseModel):
    """A probe's last reading at an instant, calibrated; `t_ms` is when it was taken."""

    probe: str
    t_ms: int
    value: float
    unit: str
    text: str
    expanded_uncertainty: float


class LoadAt(BaseModel):
    """A load's state at an instant, who decided it, why, and what comes next."""

    load: str
    on: bool
    priority: int
    state: str
    decided_by: str
    why: str
    until: str
    next_change: str


class At(BaseModel):
    """Everything at one instant."""

    t_ms: int
    readings: list[ReadingAt]
    loads: list[LoadAt]


class ConductorOut(BaseModel):
    """One conductor of the wiring schedule; `current_a` is the load's where it flows, else 0."""

    number: str
    start: str
    end: str
    net: str
    feed: str
    section: str
    colour: str
    owner: str
    note: str
    current_a: float


class FindingOut(BaseModel):
    """One thing that is wrong with the wiring; `pins` are board and pin."""

    key: str
    weight: str
    head: str
    why: str
    fix: str
    at: str
    pins: list[tuple[str, str]]


class ReadingsIn(BaseModel):
    """Readings of one probe: rows of (time in ms since 1970 UTC, raw value)."""

    probe: str
    rows: Annotated[list[tuple[int, float]], Field(min_length=1, max_length=10_000)]


class ReadingsStored(BaseModel):
    """How many of the rows were new; an instant that is there already is left as it is."""

    stored: int


class Wiring(BaseModel):
    """The wiring of the draft."""

    version: int
    conductors: list[ConductorOut]
    findings: list[FindingOut]


@router.get("/api/v1/houses/{slug}/wiring", tags=["plan"])
def wiring(state: State, access: MemberAccess) -> Wiring:
    """Every conductor of the draft and what is wrong with it."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return Wiring(
        version=opened.draft.version,
        conductors=[
            ConductorOut(
                number=wire.number,
                start=wire.start,
                end=wire.end,
                net=wire.net,
                feed=wire.feed,
                section=wire.section,
                colour=wire.colour,
                owner=wire.owner,
                note=wire.note,
                current_a=round(wire.current_a, 3),
            )
            for wire in conductors(opened.plan)
        ],
        findings=[
            FindingOut(
                key=f.key,
                weight=f.weight,
                head=f.head,
                why=f.why,
                fix=f.fix,
                at=f.at,
                pins=list(f.pins),
            )
            for f in findings(opened.plan)
        ],
    )


async def sent_readings(request: Request, _access: BuilderAccess) -> ReadingsIn:
    """The body, read only for somebody who may store it."""
    kind = request.headers.get("content-type", "")
    if not kind.startswith("application/json"):
        raise InputError("content-type", got=repr(kind)[:80], allowed="application/json")
    try:
        return ReadingsIn.model_validate_json(await request.body())
    except ValidationError as exc:
        raise RequestValidationError(exc.errors(include_url=False)) from exc


@router.post(
    "/api/v1/houses/{slug}/readings",
    tags=["replay"],
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/json": {"schema": ReadingsIn.model_json_schema()}},
        }
    },
)
def readings_in(
    body: Annotated[ReadingsIn, Depends(sent_readings)], state: State, access: BuilderAccess
) -> ReadingsStored:
    """Store readings as they come; a live bench shows them two seconds later."""
    with state.database.begin() as connection:
        plan = open_house(connection, access).plan
        if plan.probe(body.probe) is None:
            raise InputError("probe", got=repr(body.probe), allowed="a probe of this house")
        rows = dict(sorted(body.rows))
        t_ms = np.array(list(rows), dtype=np.int64)
        raw = np.array(list(rows.values()), dtype=np.float64)
        if not np.isfinite(raw).all() or t_ms[0] < 0 or t_ms[-1] > LAST_MS:
            raise InputError(
                "rows",
                got="a value that is no number, or a time out of range",
                allowed="finite values, times from 1970 to 2100 in ms",
            )
        series = series_id(connection, access.house.id, body.probe)
        stored = store_readings(driver_of(connection), series, Trace(t_ms=t_ms, raw=raw))
    return ReadingsStored(stored=len(stored))


@router.get("/schema/plan.json", tags=["formats"])
def schema() -> dict[str, Any]:
    """JSON Schema of the plan document `aldea-plan/2`."""
    return plan_schema()


@router.get("/api/v1/houses/{slug}/plan", tags=["plan"])
def plan(state: State, access: MemberAccess) -> dict[str, Any]:
    """The draft with its version."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return {
        "version": opened.draft.version,
        "revision": opened.revision.number if opened.revision else None,
        "plan": opened.plan.model_dump(mode="json"),
    }


@router.get("/api/v1/houses/{slug}/timeline", tags=["replay"])
def timeline(request: Request, state: State, access: MemberAccess) -> dict[str, Any]:
    """Stretches of every working load in a window (`hours`, `end`, `at` in UTC epoch ms)."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        replayed, mode, shown = running_replay(state, connection, opened)
    window = asked_window(request, access.now_ms, replayed)
    return {"mode": mode, **timeline_data(shown, replayed, window)}


@router.get("/api/v1/houses/{slug}/at", tags=["replay"])
def at(state: State, access: MemberAccess, t: int, plan: str = "revision") -> At:
    """Readings and states at `t` (UTC epoch ms), by the running revision or by the draft."""
    if plan not in ("revision", "draft"):
        raise InputError("plan", got=repr(plan), allowed="revision or draft")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        if plan == "draft":
            shown = opened.plan
            replayed = state.replays.replay(
                connection, access.house.id, shown, now_ms=access.now_ms
            )
        else:
            replayed, _, shown = running_replay(state, connection, opened)
        working = [probe for probe in shown.probes if probe.stage == "working"]
        until_ms = min(max(t, 0), access.now_ms)
        traces = state.replays.latest(
            connection,
            access.house.id,
            [probe.id for probe in working],
            until_ms - MS_PER_HOUR,
            until_ms,
        )
        readings = []
        for probe in working:
            reading = traces[probe.id].at(t) if probe.id in traces else None
            if reading is None:
                continue
            value = probe.calibration.at(reading[1])
            readings.append(
                ReadingAt(
                    probe=probe.id,
                    t_ms=reading[0],
                    value=round(value, 4),
                    unit=unit_of(probe.quantity),
                    text=figure(value),
                    expanded_uncertainty=probe.calibration.expanded_uncertainty,
                )
            )
    return At(t_ms=t, readings=readings, loads=_loads_at(shown, replayed, t))


@router.get("/api/v1/houses/{slug}/states", tags=["replay"])
def states(state: State, access: MemberAccess, t: int) -> list[LoadAt]:
    """States of the loads at `t` (UTC epoch ms) by the running revision, without the readings."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        replayed, _, shown = running_replay(state, connection, opened)
    return _loads_at(shown, replayed, t)


def _loads_at(plan: Plan, replayed: Replayed | None, t_ms: int) -> list[LoadAt]:
    loads = []
    for load in plan.loads:
        stretch = stretch_at(replayed.stretches(load.id), t_ms) if replayed else None
        if stretch is None:
            continue
        words = load_words(stretch, load=load, plan=plan)
        loads.append(
            LoadAt(
                load=load.id,
                on=bool(stretch.state),
                priority=words.priority,
                state=words.state,
                decided_by=words.decided_by,
                why=words.why,
                until=words.until,
                next_change=words.next_change,
            )
        )
    return loads
