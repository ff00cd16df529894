"""The data behind the pages, for programs: typed answers, RFC 9457 problems."""

from typing import Annotated, Any

import numpy as np
import psycopg
from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from aldea.core.errors import InputError
from aldea.core.plan.codec import plan_schema
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.rehearse.trace import Trace
from aldea.core.wire.conductors import conductors
from aldea.core.wire.findings import findings
from aldea.core.words.figures import UNIT, figure
from aldea.core.words.reasons import say
from aldea.store.readings import series_id, store_readings
from aldea.web.pages import asked_window, open_bench, rail_of, running_replay
from aldea.web.security import AnyDoor, BuilderDoor, State

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
    rank: int
    state: str
    holder: str
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
    mend: str
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
def wiring(state: State, door: AnyDoor) -> Wiring:
    """Every conductor of the draft and what is wrong with it."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return Wiring(
        version=bench.draft.version,
        conductors=[
            ConductorOut(
                number=wire.number,
                start=wire.start,
                end=wire.end,
                feed=wire.feed,
                section=wire.section,
                colour=wire.colour,
                owner=wire.owner,
                note=wire.note,
                current_a=round(wire.current_a, 3),
            )
            for wire in conductors(bench.plan)
        ],
        findings=[
            FindingOut(
                key=f.key,
                weight=f.weight,
                head=f.head,
                why=f.why,
                mend=f.mend,
                at=f.at,
                pins=list(f.pins),
            )
            for f in findings(bench.plan)
        ],
    )


@router.post("/api/v1/houses/{slug}/readings", tags=["replay"])
def readings_in(body: ReadingsIn, state: State, door: BuilderDoor) -> ReadingsStored:
    """Store readings as they come; a live bench shows them two seconds later."""
    with state.database.begin() as connection:
        plan = open_bench(connection, door).plan
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
        series = series_id(connection, door.house.id, body.probe)
        driver = connection.connection.driver_connection
        if not isinstance(driver, psycopg.Connection):
            raise TypeError(driver)
        stored = store_readings(driver, series, Trace(t_ms=t_ms, raw=raw))
    return ReadingsStored(stored=stored)


@router.get("/schema/plan.json", tags=["formats"])
def schema() -> dict[str, Any]:
    """JSON Schema of the plan document `aldea-plan/1`."""
    return plan_schema()


@router.get("/api/v1/houses/{slug}/plan", tags=["plan"])
def plan(state: State, door: AnyDoor) -> dict[str, Any]:
    """The draft with its version."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return {
        "version": bench.draft.version,
        "program": bench.program.number if bench.program else None,
        "plan": bench.plan.model_dump(mode="json"),
    }


@router.get("/api/v1/houses/{slug}/rail", tags=["replay"])
def rail(request: Request, state: State, door: AnyDoor) -> dict[str, Any]:
    """Stretches of every working load in a window (`hours`, `end`, `at` in UTC epoch ms)."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        replayed, mode, shown = running_replay(state, connection, bench)
    window = asked_window(request, door.now_ms, replayed)
    return {"mode": mode, **rail_of(shown, replayed, window, mode).data}


@router.get("/api/v1/houses/{slug}/at", tags=["replay"])
def at(state: State, door: AnyDoor, t: int, plan: str = "program") -> At:
    """Readings and states at `t` (UTC epoch ms), by the running program or by the draft."""
    if plan not in ("program", "draft"):
        raise InputError("plan", got=repr(plan), allowed="program or draft")
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        if plan == "draft":
            state.engine.check()
            shown = bench.plan
            replayed = state.desk.replay(
                connection, door.house.id, shown, bench.draft.text, now_ms=door.now_ms
            )
        else:
            replayed, _, shown = running_replay(state, connection, bench)
        readings = []
        for probe in shown.probes:
            if probe.stage != "working":
                continue
            trace = state.desk.trace(connection, door.house.id, probe.id, door.now_ms)
            found = trace.at(t)
            if found is None:
                continue
            value = probe.calibration.intercept + probe.calibration.slope * found[1]
            readings.append(
                ReadingAt(
                    probe=probe.id,
                    t_ms=found[0],
                    value=round(value, 4),
                    unit=UNIT[probe.quantity],
                    text=figure(value),
                    expanded_uncertainty=probe.calibration.expanded_uncertainty,
                )
            )
    loads = []
    for load in shown.loads:
        timeline = replayed.rehearsal.timelines.get(load.id) if replayed else None
        stretch = stretch_at(timeline, t) if timeline else None
        if stretch is None:
            continue
        said = say(stretch, load=load, plan=shown)
        loads.append(
            LoadAt(
                load=load.id,
                on=bool(stretch.state),
                rank=said.rank,
                state=said.state,
                holder=said.holder,
                why=said.why,
                until=said.until,
                next_change=said.next_change,
            )
        )
    return At(t_ms=t, readings=readings, loads=loads)
