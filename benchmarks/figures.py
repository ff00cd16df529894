"""One line of a benchmark: what was measured, what it is on a calm machine, and its target."""

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

CALM_S = 0.6  # what five million additions take on a calm machine
SAMPLES = 5
LOOP = compile("i = 0\nwhile i < 500_000: i += 1", "<additions>", "exec")


@dataclass(frozen=True, slots=True)
class Timed:
    """A time, and how many times slower than calm the machine went while it was taken."""

    value: float
    pace: float

    @property
    def calm(self) -> float:
        """What it would have been on a calm machine."""
        return self.value / self.pace


def pace() -> float:
    """How many times slower than calm this machine goes now."""
    began = time.perf_counter()
    exec(LOOP, {})  # as a script adds, not as a function does
    return 10 * (time.perf_counter() - began) / CALM_S


def p95_ms(work: Callable[[int], object], times: int) -> Timed:
    """The time that 95 of a hundred runs do not exceed."""
    spent, paces = [], [pace()]
    for i in range(times):
        began = time.perf_counter()
        work(i)
        spent.append((time.perf_counter() - began) * 1000)
        if i % max(1, times // SAMPLES) == 0:
            paces.append(pace())
    return Timed(float(np.percentile(spent, 95)), float(np.median(paces)))


def best_ms(work: Callable[[], object], times: int = 3) -> Timed:
    """The shortest of some runs: what the machine can do when it is left alone."""
    spent, paces = [], []
    for _ in range(times):
        paces.append(pace())
        began = time.perf_counter()
        work()
        spent.append((time.perf_counter() - began) * 1000)
    return Timed(min(spent), float(np.median([*paces, pace()])))


def report(
    name: str,
    value: float | Timed,
    *,
    at_most: float | None = None,
    at_least: float | None = None,
) -> None:
    """Print a figure beside its target; a time is judged as it would be on a calm machine."""
    judged = value.calm if isinstance(value, Timed) else value
    good = (at_most is None or judged <= at_most) and (at_least is None or judged >= at_least)
    target = f"<= {at_most:g}" if at_most is not None else f">= {at_least:g}"
    now = (
        f"   ({value.value:.2f} at a pace of {value.pace:.2f})" if isinstance(value, Timed) else ""
    )
    print(f"{'ok  ' if good else 'MISS'}  {name:<58} {judged:9.2f}   {target:<9}{now}", flush=True)
