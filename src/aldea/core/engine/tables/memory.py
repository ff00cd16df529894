"""What outlives the power: fields, the cells that each takes, two slots."""

from typing import NamedTuple

import numpy as np

from aldea.core.base.arrays import IntArray

F_KIND, F_WHO, F_CELL, F_END = range(4)
F_INTS = 4
(
    FIELD_LOAD,
    FIELD_MODE,
    FIELD_COUNT,
    FIELD_BAND,
    FIELD_HAND,
    FIELD_LOCK,
    FIELD_MOMENTS,
    FIELD_TRIP,
) = range(8)
ABSENT = -1  # a load's state that the slot does not hold
# cells of a hand claim and of a lock-out
HAND_THERE, HAND_WANT, HAND_AUTHOR, HAND_SCHOOL, HAND_END = range(5)
HAND_CELLS = 5
NO_END = -(2**60)
LOCK_THERE, LOCK_AUTHOR, LOCK_FIRST = range(3)
MOMENTS_HELD, MOMENTS_FIRST = range(2)

# policy of writing
Y_ON, Y_QUIET_MS, Y_LATEST_MS, Y_LEAST_MS, Y_BYTES = range(5)
Y_INTS = 5
# state
(
    Z_SLOT,
    Z_SEQUENCE,
    Z_WRITTEN_MS,
    Z_CHANGED_MS,
    Z_FIRST_MS,
    Z_KNOWN,
    Z_LAST_SLOT,
    Z_BEFORE_VALID,
    Z_BEFORE_SEQUENCE,
) = range(9)
Z_INTS = 9
SLOT_VALID, SLOT_SEQUENCE = range(2)


class MemoryPlan(NamedTuple):
    """Fields, and when they are written."""

    fields: IntArray
    policy: IntArray


class MemoryState(NamedTuple):
    """What stands in the slots, what stands now, what was last written."""

    heads: IntArray
    slots: IntArray
    slot_heads: IntArray
    before: IntArray
    now: IntArray
    base: IntArray
    snapshot: IntArray


def cells_of(plan: MemoryPlan) -> int:
    """How many cells the fields take together."""
    return int(plan.fields[-1, F_END]) if len(plan.fields) else 0


def fresh_memory(plan: MemoryPlan) -> MemoryState:
    """Two empty slots."""
    cells = cells_of(plan)

    def zeros() -> IntArray:
        return np.zeros(cells, dtype=np.int64)

    return MemoryState(
        heads=np.full(Z_INTS, -1, dtype=np.int64),
        slots=np.zeros((2, cells), dtype=np.int64),
        slot_heads=np.zeros((2, 2), dtype=np.int64),
        before=zeros(),
        now=zeros(),
        base=zeros(),
        snapshot=zeros(),
    )
