"""Samples of all probes of a compiled plan, in one order of time."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """Samples of all probes of a compiled plan, sorted by time; arrays of shape (n,)."""

    t_ms: IntArray
    probe: IntArray
    value: FloatArray

    def without(self, gaps: Sequence[tuple[int, int]], probe: int) -> "Samples":
        """The same without what `probe` said inside the gaps [from, to), in ms."""
        keep = np.ones(len(self.t_ms), dtype=bool)
        for start_ms, end_ms in gaps:
            first, last = np.searchsorted(self.t_ms, (start_ms, end_ms))
            keep[first:last] &= self.probe[first:last] != probe
        return Samples(t_ms=self.t_ms[keep], probe=self.probe[keep], value=self.value[keep])
