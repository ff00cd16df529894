"""What a plant is, and what the sensors make of it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np


@dataclass(frozen=True, slots=True, kw_only=True)
class Now:
    """The moment that a plant steps from: its instant, the step, the state of every load."""

    t_ms: int
    dt_s: float
    states: Mapping[str, int]


class Plant(Protocol):
    """A part of the house that loads act upon and probes look at."""

    def step(self, now: Now) -> None:
        """Go on by one step, the loads as they are."""

    def values(self) -> Mapping[str, float]:
        """What is truly there for each probe that looks at it."""

    def levels(self) -> Mapping[str, int]:
        """The level of each contact or motion line."""


@dataclass(slots=True, kw_only=True)
class SensorModel:
    """What a sensor makes of a true value: it lags, errs, drifts, adds noise and rounds.

    `lag_s` is the time constant of the lag; `slope` and `intercept` turn the true value into what
    it reads; `drift_per_day` in the unit of the quantity; `noise` a standard deviation; one reading
    in `drops` is lost (0: none).
    """

    probe: str
    interval_s: float
    lag_s: float = 0.0
    slope: float = 1.0
    intercept: float = 0.0
    drift_per_day: float = 0.0
    noise: float = 0.0
    resolution: float = 0.1
    drops: int = 0
    low: float = -math.inf
    high: float = math.inf
    felt: float = field(default=math.nan, init=False)
    begun_ms: int = field(default=-1, init=False)
    due_ms: int = field(default=-1, init=False)

    def feel(self, true: float, dt_s: float) -> None:
        """Follow the true value for a step."""
        if math.isnan(self.felt) or self.lag_s <= 0:
            self.felt = true
        else:
            self.felt += (true - self.felt) * (1 - math.exp(-dt_s / self.lag_s))

    def reading(self, t_ms: int, rng: np.random.Generator) -> float | None:
        """Its reading at an instant; None where none is due, or where it is lost."""
        if self.begun_ms < 0:
            self.begun_ms = self.due_ms = t_ms
        if t_ms < self.due_ms:
            return None
        self.due_ms = t_ms + round(self.interval_s * 1000)
        drifted = self.drift_per_day * (t_ms - self.begun_ms) / 86_400_000
        value = self.slope * self.felt + self.intercept + drifted
        value += self.noise * float(rng.standard_normal())
        if self.drops and rng.random() * self.drops < 1:
            return None
        rounded = round(round(value / self.resolution) * self.resolution, 6)
        return min(max(rounded, self.low), self.high)
