"""Loads, the claims on them, their relays: parameters and state."""

from typing import NamedTuple

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray

# claims, int64, by load and then strongest first; the last rows of a load are what it is at idle
(
    K_LOAD,
    K_RANK,
    K_WANT,
    K_NODE,
    K_PROBE,
    K_AFTER_MS,
    K_QUALITIES,
    K_PULSE_MS,
    K_SIGNAL,
) = range(9)
K_INTS = 9
# load parameters, int64
(
    L_KIND,
    L_FIRST,
    L_HAND,
    L_REST,
    L_LAST,
    L_LOWEST,
    L_VALVE,
    L_MIN_ON_MS,
    L_MIN_OFF_MS,
    L_MAX_ON_MS,
    L_REST_MS,
    L_STARTS,
    L_POLICY,
    L_BOOT_MS,
    L_SCHOOL,
    L_HAND_MS,
    L_UNPOWERED,
    L_LINE,
    L_LINE_END,
    L_COMBO,
    L_STATES,
    L_DEAD_MS,
    L_BREAKS,
    L_PULSE_MS,
    L_TRAVEL_MS,
    L_OPEN_INPUT,
    L_SHUT_INPUT,
    L_POSITION,
    L_SENSE,
    L_RING,
    L_PATTERN,
    L_PATTERNS,
    L_STEPS,
) = range(33)
L_INTS = 33
L_OPEN_AT, L_SHUT_AT = range(2)
# relays, int64
R_NC, R_LOW, R_BOOT = range(3)
R_INTS = 3
# exclusive groups
X_FIRST, X_END, X_DEAD_MS = range(3)

# claim state
Q_TRIPPED, Q_BEGAN_MS, Q_WAS, Q_FRESH, Q_ACTIVE, Q_ASKING, Q_NOTED, Q_RESET, Q_STILL = range(9)
Q_INTS = 9
# load state
(
    O_STATE,
    O_ON_MS,
    O_OFF_MS,
    O_DECIDER,
    O_AUTHOR,
    O_WANT,
    O_INHIBIT,
    O_CITED,
    O_ASKED,
    O_KEPT,
    O_KEPT_FOR,
    O_LOCKED,
    O_LOCK_MS,
    O_RELOCK,
    O_LOCK_AUTHOR,
    O_HAND,
    O_HAND_AUTHOR,
    O_HAND_SCHOOL,
    O_HAND_END_MS,
    O_HAND_UNTIL_MS,
    O_HAND_ASLEEP,
    O_HAND_STORED_MS,
    O_BELOW,
    O_LAST,
    O_DECIDED,
    O_FREE,
    O_PATTERN_MS,
    O_PULSE_MS,
    O_SENSED,
    O_TOGGLED_MS,
    O_TRIED,
    O_UNASKED,
    O_BLOCKED,
    O_BLOCKED_WHO,
    O_BLOCKED_AUTHOR,
    O_MOVE_MS,
    O_MOVE_FROM,
    O_MOVE_LEFT,
    O_MOVE_PULSED,
    O_MOVE_WHO,
    O_MOVE_AUTHOR,
    O_MOVE_WANT,
    O_AT_OPEN,
    O_AT_SHUT,
    O_STARTS_NEXT,
    O_STARTS_HELD,
    O_WAIT_MS,
    O_WAIT,
    O_WAIT_AUTHOR,
    O_WAIT_SCHOOL,
    O_WAIT_FOR_MS,
    O_WAIT_UNTIL_MS,
) = range(52)
O_INTS = 52
# relay state
W_CLOSED, W_OPENED_MS, W_SHOWN = range(3)
W_INTS = 3


class LoadPlan(NamedTuple):
    """Parameters of loads, claims and relays."""

    ints: IntArray
    floats: FloatArray
    claims: IntArray
    lines: IntArray
    combos: IntArray  # a row for each state of each load, a column for each of its own relays
    patterns: IntArray  # first and end of each pattern's parts
    parts_ms: IntArray
    exclusive: IntArray
    exclusive_lines: IntArray


class LoadState(NamedTuple):
    """State of loads, claims and relays."""

    ints: IntArray
    claims: IntArray
    lines: IntArray
    starts_ms: IntArray
    turns: IntArray


def fresh_loads(plan: LoadPlan) -> LoadState:
    """State of a run that has not begun."""
    return LoadState(
        ints=np.zeros((len(plan.ints), O_INTS), dtype=np.int64),
        claims=np.zeros((len(plan.claims), Q_INTS), dtype=np.int64),
        lines=np.zeros((len(plan.lines), W_INTS), dtype=np.int64),
        starts_ms=np.zeros(int(np.maximum(plan.ints[:, L_STARTS], 0).sum()), dtype=np.int64),
        turns=np.zeros(len(plan.exclusive), dtype=np.int64),
    )
