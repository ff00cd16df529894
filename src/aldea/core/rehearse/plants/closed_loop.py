"""A plan at work in a house: loads act on plants, sensors read them, the engine decides."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.inputs import Inputs
from aldea.core.engine.replay import Run
from aldea.core.engine.session import Session
from aldea.core.plan.document import Plan
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.plants.plant import Now, Plant, SensorModel


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """What a run in closed loop left: the trace of each probe, and what the engine did."""

    traces: Mapping[str, Trace]
    run: Run


def run_closed(
    plan: Plan,
    plants: Sequence[Plant],
    sensors: Sequence[SensorModel],
    *,
    start_ms: int,
    end_ms: int,
    step_s: float,
    seed: int,
    recorded: Mapping[str, Trace] | None = None,
    inputs: Inputs = Inputs(),  # noqa: B008  frozen
) -> Course:
    """Run a plan against plants; the same seed gives the same course, byte for byte.

    Plants step `step_s` at a time with the loads as the engine has them; readings reach the engine
    at the end of a step. `recorded` are readings that no plant makes. What senses a load itself (a
    drive's end contacts, a lamp's line) is left to the engine, where each load does as it is told.
    """
    compiled = compile_plan(plan)
    rng = np.random.default_rng(seed)
    step_ms = round(step_s * 1000)
    steps = (end_ms - start_ms) // step_ms
    rows = {probe: row for row, probe in enumerate(compiled.probe_ids)}
    fixed = {name: trace for name, trace in (recorded or {}).items() if name in rows}
    feed = sorted(
        (t_ms, rows[name], value)
        for name, trace in fixed.items()
        for t_ms, value in zip(trace.t_ms.tolist(), trace.raw.tolist(), strict=True)
        if start_ms <= t_ms < end_ms
    )
    levels = {name: now for plant in plants for name, now in plant.levels().items()}
    session = Session(
        compiled,
        start_ms=start_ms,
        end_ms=end_ms,
        samples=steps * len(sensors) + len(feed),
        levels=2 * steps * max(1, len(levels)),
        sensed={f"probe:{name}": now for name, now in levels.items()},
        inputs=inputs,
    )
    read: dict[str, list[tuple[int, float]]] = {sensor.probe: [] for sensor in sensors}
    changes: dict[str, list[tuple[int, int]]] = {
        name: [(start_ms, now)] for name, now in levels.items()
    }
    fed = 0
    for step in range(steps):
        t_ms = start_ms + step * step_ms
        now = Now(t_ms=t_ms, dt_s=step_s, states=session.states())
        there: dict[str, float] = {}
        for plant in plants:
            plant.step(now)
            there.update(plant.values())
            for name, level in plant.levels().items():
                if level != levels[name]:
                    levels[name] = level
                    changes[name].append((t_ms, level))
                    session.level(t_ms, f"probe:{name}", level)
        due: list[tuple[int, int, float]] = []
        for sensor in sensors:
            sensor.feel(there[sensor.probe], step_s)
            reading = sensor.reading(t_ms, rng)
            if reading is not None:
                read[sensor.probe].append((t_ms, reading))
                if sensor.probe in rows:
                    due.append((t_ms, rows[sensor.probe], reading))
        while fed < len(feed) and feed[fed][0] < t_ms + step_ms:
            due.append(feed[fed])
            fed += 1
        if due:
            at_ms, probe, value = zip(*sorted(due), strict=True)
            session.samples(np.array(at_ms), np.array(probe), np.array(value))
        session.advance(t_ms + step_ms)
    traces = {name: _trace(rows_of) for name, rows_of in read.items()}
    traces |= {
        name: _trace([(t, float(now)) for t, now in rows_of]) for name, rows_of in changes.items()
    }
    return Course(traces=traces, run=session.run())


def _trace(rows: list[tuple[int, float]]) -> Trace:
    return Trace(
        t_ms=np.array([t for t, _ in rows], dtype=np.int64),
        raw=np.array([value for _, value in rows]),
    )
