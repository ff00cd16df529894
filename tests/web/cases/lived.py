"""A house lives through hours: readings, contacts, presses and power cuts go in as they come."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.inputs import Code, Inputs, PowerCut
from aldea.core.engine.replay import run_replay
from aldea.core.plan.document import Plan
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.faults import Faults, as_brought, as_sampled
from aldea.core.rehearse.wall import run_with_throws

MIDNIGHT = round(datetime(2026, 6, 1, tzinfo=UTC).timestamp() * 1000)
HOUR = 3_600_000
Reading = Callable[[float], float]


def at(clock: str) -> int:
    """The instant of a time of the day, UTC."""
    hour, minute, second = (float(part) for part in f"{clock}:0:0".split(":")[:3])
    return MIDNIGHT + round((hour * 3600 + minute * 60 + second) * 1000)


def read_every(step_s: int, until_hour: float, /, **values: Reading) -> dict[str, Trace]:
    """Readings of some probes at equal steps, each told by the hour of the day; NaN is none."""
    t_ms = MIDNIGHT + np.arange(0, round(until_hour * HOUR), step_s * 1000, dtype=np.int64)
    traces = {}
    for name, value in values.items():
        raw = np.array([value((t - MIDNIGHT) / HOUR) for t in t_ms.tolist()])
        there = ~np.isnan(raw)
        traces[name] = Trace(t_ms=t_ms[there], raw=raw[there])
    return traces


def steps(*rows: tuple[float, float]) -> Reading:
    """A value that stands from each hour on."""
    return lambda hour: [value for start, value in rows if start <= hour][-1]


def pressed(control: str, clock: str, hold_s: float = 0.25) -> list[tuple[int, str, int]]:
    """One press of a button: its contact closes and opens."""
    start = at(clock)
    name = f"control:{control}"
    return [(start, name, 1), (start + round(hold_s * 1000), name, 0)]


def events_of(
    plan: Plan,
    until_hour: float,
    traces: Mapping[str, Trace],
    *,
    levels: Sequence[tuple[int, str, int]] = (),
    codes: Sequence[Code] = (),
    cuts: Sequence[PowerCut] = (),
    throws: Sequence[tuple[str, int]] = (),
) -> list[tuple[str, str, int]]:
    """What each load did from its start on: time of the day, load, state.

    `throws` are those of wall switches of two-way lamps, whose lamp burns as both stand.
    """
    compiled = compile_plan(plan)
    none = Faults()
    brought = as_brought(compiled, traces, none)
    inputs: Inputs = replace(
        brought,
        levels=sorted([*brought.levels, *levels], key=lambda row: row[0]),
        messages=[*brought.messages, *codes],
        cuts=list(cuts),
    )
    samples, end_ms = as_sampled(compiled, traces, none), MIDNIGHT + round(until_hour * HOUR)
    if throws:
        run = run_with_throws(
            compiled, samples, inputs, throws, start_ms=MIDNIGHT, end_ms=end_ms, boots=True
        )
    else:
        run = run_replay(
            compiled, samples, start_ms=MIDNIGHT, end_ms=end_ms, inputs=inputs, boots=True
        )
    told = []
    for event in run.events():
        if event.event_type != lay.EVENT_LOAD or event.state_from == event.state_to:
            continue
        clock = datetime.fromtimestamp(event.t_ms / 1000, tz=UTC)
        told.append((f"{clock:%H:%M:%S}", compiled.load_ids[event.who], event.state_to))
    return told
