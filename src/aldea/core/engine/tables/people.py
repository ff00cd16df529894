"""What people work: buttons, selectors, codes, their actions; modes, doorways and schedules."""

from typing import NamedTuple

import numpy as np

from aldea.core.base.arrays import IntArray

# buttons
(
    B_INPUT,
    B_DEBOUNCE_MS,
    B_LONG_MS,
    B_DOUBLE_MS,
    B_LOCKOUT_MS,
    B_SHORT,
    B_SHORT_END,
    B_LONG,
    B_LONG_END,
    B_DOUBLE,
    B_DOUBLE_END,
    B_AUTHOR,
) = range(12)
B_INTS = 12
# selectors, and wall switches as selectors of two positions
S_INPUT, S_SETTLE_MS, S_FIRST, S_END, S_AUTHOR, S_AT_BOOT, S_LOAD = range(7)
S_INTS = 7
# positions: the pattern of contacts, the actions
T_PATTERN, T_FIRST, T_END = range(3)
T_INTS = 3
ANY_PATTERN = -1
# codes
G_LOCKOUT_MS, G_FIRST, G_END, G_AUTHOR = range(4)
G_INTS = 4
# actions
(
    A_KIND,
    A_WHO,
    A_WANT,
    A_SCHOOL,
    A_FOR_MS,
    A_UNTIL_MS,
    A_BY,
    A_DELAY_MS,
) = range(8)
A_INTS = 8
ACT_ONLY, ACT_HAND, ACT_TOGGLE, ACT_GIVE_BACK, ACT_STEP, ACT_MODE, ACT_RESET = range(7)
NEXT_VALUE = -1  # of a mode
ALL_TRIPS = -1
# modes, doorways
M_START, M_VALUES = range(2)
W_OUTER, W_INNER, W_WITHIN_MS = range(3)

# state of buttons
(
    U_RAW,
    U_RAW_MS,
    U_DOWN,
    U_STATE,
    U_PRESS_MS,
    U_RELEASE_MS,
    U_FIRED_MS,
) = range(7)
U_INTS = 7
IDLE, PRESSED, RELEASED, DONE = range(4)
# state of selectors
Y_RAW, Y_RAW_MS, Y_SPOKEN = range(3)
Y_INTS = 3
UNREAD = -(2**40)
# state of doorways
D_COUNT, D_SIDE, D_SIDE_MS, D_OUTER, D_INNER, D_RESET, D_CLOCK_MS = range(7)
D_INTS = 7
# schedules in a calendar
C_FIRST, C_END, C_MOMENT, C_MOMENT_END, C_FOR_MS, C_UNKNOWN, C_BEGUN = range(7)
C_INTS = 7
# state of schedules
H_UNTIL_MS, H_NEXT, H_ACTIVE, H_HELD = range(4)
H_INTS = 4
# the sun in a calendar: its instants, whether it is up before the first
U_FIRST, U_END, U_UP = range(3)


class PeoplePlan(NamedTuple):
    """Parameters of all that people work."""

    buttons: IntArray
    selectors: IntArray
    positions: IntArray
    codes: IntArray
    actions: IntArray
    modes: IntArray
    doorways: IntArray


class PeopleState(NamedTuple):
    """State of all that people work; `inputs` is the level of every digital input."""

    inputs: IntArray
    buttons: IntArray
    selectors: IntArray
    codes: IntArray
    modes: IntArray
    doorways: IntArray


class Calendar(NamedTuple):
    """Schedules, resets and the sun as instants of the board's clock, in order of time."""

    schedules: IntArray
    spans: IntArray
    moments: IntArray
    suns: IntArray
    sun_instants: IntArray
    resets: IntArray  # by doorway: first and end
    reset_instants: IntArray


class CalendarState(NamedTuple):
    """Where each schedule stands; `begun` holds the moments of the last day that have begun."""

    schedules: IntArray
    begun: IntArray


def fresh_people(plan: PeoplePlan, inputs: int) -> PeopleState:
    """State of a run that has not begun."""
    return PeopleState(
        inputs=np.zeros(inputs, dtype=np.int64),
        buttons=np.zeros((len(plan.buttons), U_INTS), dtype=np.int64),
        selectors=np.zeros((len(plan.selectors), Y_INTS), dtype=np.int64),
        codes=np.zeros(len(plan.codes), dtype=np.int64),
        modes=np.zeros(len(plan.modes), dtype=np.int64),
        doorways=np.zeros((len(plan.doorways), D_INTS), dtype=np.int64),
    )


def fresh_calendar(calendar: Calendar, held: int) -> CalendarState:
    """State of a run that has not begun; `held` moments of a day at most for each schedule."""
    return CalendarState(
        schedules=np.zeros((len(calendar.schedules), H_INTS), dtype=np.int64),
        begun=np.zeros((len(calendar.schedules), held), dtype=np.int64),
    )
