"""Time beyond a limit, summed over a trace."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Beyond:
    """Running sum of the time beyond a limit; each reading stands until the next, at most a gap."""

    t_ms: IntArray
    total_ms: FloatArray  # at t_ms[i]: the time beyond the limit before it
    beyond_last: bool
    hold_ms: int

    @classmethod
    def of(
        cls, t_ms: IntArray, value: FloatArray, *, limit: float, rising: bool, hold_ms: int
    ) -> "Beyond":
        """Sum up a calibrated trace against a limit, above it when `rising`, else below."""
        over = value > limit if rising else value < limit
        stands = np.minimum(np.diff(t_ms), hold_ms) * over[:-1]
        total = np.concatenate(([0.0], np.cumsum(stands, dtype=np.float64)))
        return cls(
            t_ms=t_ms,
            total_ms=total if len(t_ms) else np.zeros(0),
            beyond_last=bool(len(over) and over[-1]),
            hold_ms=hold_ms,
        )

    def before(self, instants_ms: IntArray) -> FloatArray:
        """Time beyond the limit before each instant, ms; shape of the instants."""
        if not len(self.t_ms):
            return np.zeros(len(instants_ms))
        index = np.searchsorted(self.t_ms, instants_ms, side="right") - 1
        inside = np.maximum(index, 0)
        following = np.minimum(inside + 1, len(self.t_ms) - 1)
        over = self.total_ms[following] > self.total_ms[inside]
        over[inside == len(self.t_ms) - 1] = self.beyond_last
        since = np.minimum(instants_ms - self.t_ms[inside], self.hold_ms) * over
        return np.where(index < 0, 0.0, self.total_ms[inside] + since)
