"""What a scan works on: the plan as arrays that are never written, the state as arrays that are."""

from typing import NamedTuple

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import inlined


class PlanArrays(NamedTuple):
    """A compiled plan; rows and columns are laid out as `core.engine.layout` says."""

    probe_floats: FloatArray
    probe_ints: IntArray
    marks: FloatArray
    condition_ints: IntArray
    claims: IntArray
    loads: IntArray


class StateArrays(NamedTuple):
    """Where a run stands; `quiet` holds per probe the values between which nothing changes."""

    probe_floats: FloatArray
    probe_ints: IntArray
    conditions: IntArray
    loads: IntArray
    quiet: FloatArray


@inlined
def signed(row: np.uint64) -> int:
    """The number of a row as it is written into tables."""
    return np.int64(row)  # type: ignore[return-value]  # of the compiler's numbers, not Python's
