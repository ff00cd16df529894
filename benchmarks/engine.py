"""The engine against plain C: several shapes of plan, in turns, by thread time.

Against the same scan in C (`scan_in_c`), which does all that the engine does; and beside it against
the twin by hand, which knows bands alone and so is a bound and no match.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.engine.inputs import Inputs
from aldea.core.engine.replay import Scans, run_replay
from aldea.core.engine.scan.replay_kernel import replay_kernel
from aldea.core.plan.document import Claim, Plan, Smoothing
from aldea.core.readings.samples import Samples
from aldea.core.rehearse.faults import levels_of, merged_samples
from aldea.core.rehearse.rehearsal import as_recorded
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days
from benchmarks.said import said
from benchmarks.scan_in_c import kernel_in_c
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
    claim = base.claims[0]
    load, probe = base.load(claim.load), base.probe(claim.band.probe)
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
        claims=tuple(
            Claim(
                id=f"c{row}",
                load=f"l{row}",
                condition=claim.band.model_copy(
                    update={
                        "probe": f"p{row % shape.probes}",
                        "on": claim.band.on + row / 10,
                        "off": claim.band.off + row / 10,
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


def ratios(name: str, compiled: CompiledPlan, samples: Samples, inputs: Inputs) -> list[float]:
    """One plan by both, in turns, so that a noisy neighbour meets both; the shortest times."""

    def run(scans: Scans, skipping: bool) -> object:
        return run_replay(
            compiled, samples, start_ms=START_MS, end_ms=END_MS, inputs=inputs,
            scans=scans, skipping=skipping,
        )  # fmt: skip

    in_c = kernel_in_c()
    ways = [(scans, skips) for scans in (replay_kernel, in_c) for skips in (False, True)]
    for scans, _ in ways[::2]:
        run(scans, True)
    turns = [[spent_ms(partial(run, *way)) for way in ways] for _ in range(TURNS)]
    ticks, skips, c_ticks, c_skips = found = [min(turn[i] for turn in turns) for i in range(4)]
    print(f"      {name}: every tick {ticks:.1f} ms, C {c_ticks:.1f};", end=" ")
    print(f"skipping {skips:.1f} ms, C {c_skips:.1f}")
    said(f"{name}: every tick, of C", c_ticks / ticks, ">= 0.8", c_ticks / ticks >= 0.8)
    said(f"{name}: skipping, times C", c_ticks / skips, ">= 4", c_ticks / skips >= 4)
    said(f"{name}: skipping, of C so", c_skips / skips, ">= 0.65", c_skips / skips >= 0.65)
    return found


def of_shape(shape: Shape) -> None:
    """One shape, and what the twin by hand takes for it."""
    plan, samples = shaped(shape)
    found = ratios(shape.name, compile_plan(plan), samples, Inputs())

    def by_hand(skipping: bool) -> object:
        return twin_replay(plan, samples, start_ms=START_MS, end_ms=END_MS, skipping=skipping)

    times = [
        min(spent_ms(partial(by_hand, skips)) for _ in range(TURNS)) for skips in (False, True)
    ]
    shares = " and ".join(f"{own / ours:.2f}" for own, ours in zip(times, found, strict=False))
    print(f"      bands alone, by hand: {times[0]:.1f} and {times[1]:.1f} ms, so {shares} of it")


def mill_house() -> None:
    """The thirty days of the mill house under all its rules."""
    traces = {row.probe: row.trace for row in recorded_days()}
    compiled = compile_plan(as_recorded(mill_plan()))
    samples = merged_samples(compiled, traces)
    inputs = Inputs(levels=levels_of(compiled, traces))
    _, skips, *_ = ratios("mill house", compiled, samples, inputs)
    said("mill house, 30 days at 1 s", skips / 1000, "<= 0.15 s", skips <= 150)


def engine() -> None:
    """Thirty days at 10 s, scanned once a second, in every shape; a house with all its rules."""
    for shape in SHAPES:
        of_shape(shape)
    mill_house()


if __name__ == "__main__":
    engine()
