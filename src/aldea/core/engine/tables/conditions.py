"""Conditions as a table in which members stand before what is made of them."""

from typing import NamedTuple

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray

(
    N_KIND,
    N_SIGNAL,
    N_RISING,
    N_FIRST,
    N_END,
    N_ON_MS,
    N_OFF_MS,
    N_A,
    N_B,
    N_NAMED,
    N_FIELD,
    N_USED,
) = range(12)
N_INTS = 12
N_ON, N_OFF = range(2)
N_FLOATS = 2
(
    NODE_BAND,
    NODE_WITHIN,
    NODE_INPUT,
    NODE_FOR,
    NODE_PULSE,
    NODE_ALL,
    NODE_ANY,
    NODE_NOT,
    NODE_MODE,
    NODE_LOAD,
    NODE_COUNT,
    NODE_QUALITY,
    NODE_SCHEDULE,
    NODE_SUN,
    NODE_CLOCK,
    NODE_ALWAYS,
) = range(16)
# What a condition on a load's state looks for, beside a state itself.
LOAD_ANY_ON, LOAD_MISSED = 100, 101

# State: what it says; what its member said; since when; whether it has let go; whether every value
# it reads is good; whether its own value is dark.
C_NOW, C_MEMBER, C_SINCE_MS, C_LET_GO, C_GOOD, C_DARK, C_SEEN, C_LETTING = range(8)
C_INTS = 8
UNSEEN = -1  # of a member before the first scan after a boot


class ConditionPlan(NamedTuple):
    """Parameters, and the members of those that are made of others."""

    ints: IntArray
    floats: FloatArray
    members: IntArray


def fresh_conditions(plan: ConditionPlan) -> IntArray:
    """State of a run that has not begun."""
    state = np.zeros((len(plan.ints), C_INTS), dtype=np.int64)
    state[:, C_SEEN] = -1
    return state
