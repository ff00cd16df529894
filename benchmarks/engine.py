"""The engine in several shapes of plan, in turns, by thread time.

Beside it the twin by hand (`twin.c`), which knows bands alone: what a scan of nothing else takes.
"""

import time
from collections.abc import Callable
from ctypes import sizeof
from dataclasses import dataclass, fields
from functools import partial

import numpy as np

from aldea.core.base.instants import MS_PER_DAY
from aldea.core.engine.calendar import calendar_of
from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.engine.fresh import fresh_state, rooms_by_interval, tables_of_run
from aldea.core.engine.inputs import Inputs, compile_inputs
from aldea.core.engine.replay import run_replay
from aldea.core.engine.session import NO_SAMPLES
from aldea.core.plan.document import Plan, Rule, Smoothing
from aldea.core.readings.samples import Samples
from aldea.core.rehearse.faults import levels_of, merged_samples
from aldea.core.rehearse.rehearsal import as_recorded
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days
from benchmarks.figures import Timed, pace, report
from benchmarks.twin import twin_replay

TURNS = 5
INTERVAL_MS = 10_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """A plan to be run: how many probes and loads, whether their samples share instants."""

    name: str
    probes: int = 1
    loads: int = 1
    staggered: bool = False
    tau_s: float = 0.0


SHAPES = (
    Shape(name="1 x 1"),
    Shape(name="1 x 1, filtered", tau_s=60.0),
    Shape(name="8 x 8, same instants", probes=8, loads=8),
    Shape(name="8 x 8, staggered", probes=8, loads=8, staggered=True),
    Shape(name="8 x 8, staggered, filtered", probes=8, loads=8, staggered=True, tau_s=60.0),
    Shape(name="12 x 12, same instants", probes=12, loads=12),
    Shape(name="12 x 12, staggered", probes=12, loads=12, staggered=True),
    Shape(name="12 x 12, staggered, filtered", probes=12, loads=12, staggered=True, tau_s=60.0),
    Shape(name="50 loads on one probe", loads=50),
)


def shaped(shape: Shape) -> tuple[Plan, Samples]:
    """The plan of a shape, and thirty recorded days for each of its probes."""
    base = mill_plan(on=62.0, off=56.0, min_on_s=300.0, min_off_s=300.0)
    rule = base.rules[0]
    load, probe = base.load(rule.load), base.probe(rule.band.probe)
    assert load is not None
    assert probe is not None
    smoothing = Smoothing(tau_s=shape.tau_s) if shape.tau_s else None
    plan = Plan(
        format=base.format,
        house=base.house,
        places=base.places,
        probes=tuple(
            probe.model_copy(update={"id": f"p{p}", "smoothing": smoothing})
            for p in range(shape.probes)
        ),
        loads=tuple(load.model_copy(update={"id": f"l{row}"}) for row in range(shape.loads)),
        rules=tuple(
            Rule(
                id=f"c{row}",
                load=f"l{row}",
                condition=rule.band.model_copy(
                    update={
                        "probe": f"p{row % shape.probes}",
                        "on_threshold": rule.band.on_threshold + row / 10,
                        "off_threshold": rule.band.off_threshold + row / 10,
                    }
                ),
            )
            for row in range(shape.loads)
        ),
    )
    trace = recorded_days()[0].trace
    step_ms = INTERVAL_MS // shape.probes if shape.staggered else 0
    t_ms = np.concatenate([trace.t_ms + step_ms * p for p in range(shape.probes)])
    # Every probe lives through the days a little shifted, so that not all bands cross at once.
    value = np.concatenate([np.roll(trace.raw, 997 * p) for p in range(shape.probes)])
    owner = np.repeat(np.arange(shape.probes, dtype=np.int64), len(trace.t_ms))
    order = np.argsort(t_ms, kind="stable")
    return plan, Samples(t_ms=t_ms[order], probe=owner[order], value=value[order])


def spent_ms(work: Callable[[], object]) -> float:
    """Processor time of this thread for one call: a neighbour's work is not counted in."""
    began = time.thread_time()
    work()
    return (time.thread_time() - began) * 1000


def spent_on(compiled: CompiledPlan, samples: Samples, inputs: Inputs) -> tuple[float, float]:
    """One plan at every tick (once: it is slow) and skipping; the shortest times, ms."""

    def run(skipping: bool) -> object:
        return run_replay(
            compiled, samples, start_ms=START_MS, end_ms=END_MS, inputs=inputs, skipping=skipping
        )

    run(True)
    ticks = spent_ms(partial(run, False))
    return ticks, min(spent_ms(partial(run, True)) for _ in range(TURNS))


def of_shape(shape: Shape) -> None:
    """One shape: how far skipping carries, and what the twin by hand takes for it."""
    plan, samples = shaped(shape)
    ticks, skips = spent_on(compile_plan(plan), samples, Inputs())

    def by_override(skipping: bool) -> object:
        return twin_replay(plan, samples, start_ms=START_MS, end_ms=END_MS, skipping=skipping)

    twin_ticks = spent_ms(partial(by_override, False))
    twin_skips = min(spent_ms(partial(by_override, True)) for _ in range(TURNS))
    print(f"      {shape.name}: every tick {ticks:.1f} ms, skipping {skips:.1f};", end=" ")
    print(f"bands alone, by hand: {twin_ticks:.1f} and {twin_skips:.1f}")
    report(f"{shape.name}: skipping, times every tick", ticks / skips, at_least=4)
    report(f"{shape.name}: skipping, of the twin", twin_skips / skips, at_least=0.5)


def mill_house() -> None:
    """The thirty days of the mill house under all its rules."""
    traces = {row.probe: row.trace for row in recorded_days()}
    compiled = compile_plan(as_recorded(mill_plan()))
    samples = merged_samples(compiled, traces)
    inputs = Inputs(levels=levels_of(compiled, traces))
    ticks, skips = spent_on(compiled, samples, inputs)
    print(f"      mill house: every tick {ticks:.1f} ms, skipping {skips:.1f}")
    report("mill house: skipping, times every tick", ticks / skips, at_least=4)
    report("mill house, 30 days at 1 s, ms", Timed(skips, pace()), at_most=150)
    report("mill house, state on a board, KB", board_state_bytes(compiled) / 1000, at_most=40)


def board_state_bytes(compiled: CompiledPlan) -> int:
    """Memory of what a board keeps from scan to scan; it reads each probe at its interval."""
    inputs = compile_inputs(compiled, NO_SAMPLES, Inputs(), START_MS)
    tables = tables_of_run(compiled, inputs, rooms_by_interval(compiled))
    calendar = calendar_of(compiled, START_MS, START_MS + MS_PER_DAY)
    state = fresh_state(compiled, tables, calendar)
    return sum(sizeof(getattr(state, part.name)) for part in fields(state))


def engine() -> None:
    """Thirty days at 10 s, scanned once a second, in every shape; a house with all its rules."""
    for shape in SHAPES:
        of_shape(shape)
    mill_house()


if __name__ == "__main__":
    engine()
