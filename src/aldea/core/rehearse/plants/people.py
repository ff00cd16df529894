"""People: a seeded chain of stays and gaps, and what motion lines make of them."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.rehearse.plants.plant import Now


def stays(
    rng: np.random.Generator,
    *,
    start_ms: int,
    end_ms: int,
    by_hour: Mapping[int, float],
    stay_s: float,
    zone_offset_h: float,
) -> IntArray:
    """Stays [from, to) in a place, shape (n, 2).

    `by_hour` is how many begin in each hour of the day (Poisson), `stay_s` their mean length
    (exponential); stays that touch are one.
    """
    spans: list[list[int]] = []
    at_ms = start_ms
    while at_ms < end_ms:
        hour = int((at_ms / 3_600_000 + zone_offset_h) % 24)
        for _ in range(int(rng.poisson(by_hour.get(hour, 0.0)))):
            begun = at_ms + int(rng.integers(3_600_000))
            spans.append([begun, begun + 5000 + int(rng.exponential(stay_s) * 1000)])
        at_ms += 3_600_000
    joined: list[list[int]] = []
    for begun, ended in sorted(spans):
        if joined and begun <= joined[-1][1]:
            joined[-1][1] = max(joined[-1][1], ended)
        elif begun < end_ms:
            joined.append([begun, ended])
    return np.array(joined, dtype=np.int64).reshape(-1, 2)


@dataclass(slots=True, kw_only=True)
class Comings:
    """A motion line that is high while somebody is there; `shift_ms` later than the stay itself."""

    line: str
    stays: IntArray
    shift_ms: int = 0
    now: int = 0
    at: int = 0

    def step(self, now: Now) -> None:
        """Whether anybody is there at the end of the step."""
        t_ms = now.t_ms + round(now.dt_s * 1000) - self.shift_ms
        while self.at < len(self.stays) and self.stays[self.at, 1] <= t_ms:
            self.at += 1
        self.now = int(self.at < len(self.stays) and self.stays[self.at, 0] <= t_ms)

    def values(self) -> dict[str, float]:
        """Motion is a level, not a value."""
        return {}

    def levels(self) -> dict[str, int]:
        """High while somebody is there."""
        return {self.line: self.now}
