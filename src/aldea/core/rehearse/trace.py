"""A recorded trace: thinned to what the pixels can show, and summed up."""

from dataclasses import dataclass

import numpy as np

from aldea.core.engine.layout import FloatArray, IntArray
from aldea.core.engine.replay import Samples
from aldea.core.plan.document import Calibration

MS_PER_HOUR = 3_600_000
MS_PER_DAY = 86_400_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Trace:
    """Readings of one probe as they were recorded, sorted by time; arrays of shape (n,)."""

    t_ms: IntArray
    raw: FloatArray

    def __len__(self) -> int:
        return len(self.t_ms)

    def between(self, start_ms: int, end_ms: int) -> "Trace":
        """The readings from `start_ms` up to but not including `end_ms`."""
        first, last = np.searchsorted(self.t_ms, (start_ms, end_ms))
        return Trace(t_ms=self.t_ms[first:last], raw=self.raw[first:last])

    def calibrated(self, calibration: Calibration) -> FloatArray:
        """What the readings really were, by a line."""
        return calibration.intercept + calibration.slope * self.raw

    def samples(self) -> Samples:
        """As the samples of probe 0 of a program."""
        return Samples(
            t_ms=self.t_ms, probe=np.zeros(len(self.t_ms), dtype=np.int64), value=self.raw
        )

    def at(self, t_ms: int) -> tuple[int, float] | None:
        """The last reading at or before an instant: its time and its raw value."""
        index = int(np.searchsorted(self.t_ms, t_ms, side="right")) - 1
        return None if index < 0 else (int(self.t_ms[index]), float(self.raw[index]))


def thin(
    t_ms: IntArray, value: FloatArray, *, start_ms: int, end_ms: int, pixels: int, gap_ms: int
) -> list[tuple[IntArray, FloatArray]]:
    """At most four points a pixel column: its first, lowest, highest and last reading, in order.

    Every extreme survives. Returns pieces parted where no reading came for longer than `gap_ms`.
    Missing readings (NaN) are left out.
    """
    first, last = np.searchsorted(t_ms, (start_ms, end_ms))
    t_ms, value = t_ms[first:last], value[first:last]
    keep = ~np.isnan(value)
    t_ms, value = t_ms[keep], value[keep]
    if not len(t_ms):
        return []
    column = (t_ms - start_ms) * pixels // (end_ms - start_ms)
    after_gap = np.concatenate(([True], np.diff(t_ms) > gap_ms))
    starts = np.flatnonzero(np.concatenate(([True], np.diff(column) > 0)) | after_gap)
    ends = np.concatenate((starts[1:], [len(t_ms)])) - 1
    chosen = np.concatenate((starts, ends, _extreme(value, starts), _extreme(-value, starts)))
    index = np.unique(chosen)
    pieces = np.flatnonzero(after_gap[1:]) + 1
    cuts = np.searchsorted(index, pieces)
    return [(t_ms[part], value[part]) for part in np.split(index, cuts) if len(part)]


def _extreme(value: FloatArray, starts: IntArray) -> IntArray:
    """Index of the highest value in each run that begins at `starts`."""
    highest = np.maximum.reduceat(value, starts)
    lengths = np.diff(np.append(starts, len(value)))
    hits = np.flatnonzero(value == np.repeat(highest, lengths))
    run_of_hit = np.searchsorted(starts, hits, side="right") - 1
    first_of_run = np.unique(run_of_hit, return_index=True)[1]
    return hits[first_of_run].astype(np.int64)


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
