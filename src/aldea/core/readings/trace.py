"""A recorded trace: thinned to what the pixels can show, and summed up."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.readings.samples import Samples


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

    def samples(self) -> Samples:
        """As the samples of probe 0 of a compiled plan."""
        return Samples(
            t_ms=self.t_ms, probe=np.zeros(len(self.t_ms), dtype=np.int64), value=self.raw
        )

    def at(self, t_ms: int) -> tuple[int, float] | None:
        """The last reading at or before an instant: its time and its raw value."""
        index = int(np.searchsorted(self.t_ms, t_ms, side="right")) - 1
        return None if index < 0 else (int(self.t_ms[index]), float(self.raw[index]))
