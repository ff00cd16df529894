"""What people work: buttons, selectors, codes, their actions; modes, doorways and schedules."""

from aldea.core.engine.tables.rows import I8, I16, I32, I64, Row, row

ANY_PATTERN = -1
(
    ACT_ONLY,
    ACT_OVERRIDE,
    ACT_TOGGLE,
    ACT_AUTOMATIC,
    ACT_STEP,
    ACT_MODE,
    ACT_RESET,
    ACT_GROUP,
) = range(8)
NEXT_VALUE = -1  # of a mode
ALL_TRIPS = -1
IDLE, PRESSED, RELEASED, DONE = range(4)
CATCH_UP_ABSENT = -1
UNREAD = -1  # in the place of a level: not looked at since the boot


@row
class InputSpec(Row):
    """A digital input: how long a level must stand to count."""

    debounce_ms: I64


@row
class InputNow(Row):
    """Where a digital input stands: its level, since when, and the one that counts.

    `before` is what counted at the scan before, `flipped` whether it was otherwise since then,
    `moved` whether it has an edge at the instant that is being taken.
    """

    raw_ms: I64
    raw: I32
    level: I32
    before: I32
    flipped: I8
    moved: I8


@row
class ButtonSpec(Row):
    """A button: its input, its times, what each kind of press does."""

    long_ms: I64
    double_ms: I64
    lockout_ms: I64
    short_first: I32
    short_end: I32
    long_first: I32
    long_end: I32
    double_first: I32
    double_end: I32
    input: I16
    author: I16


@row
class ButtonNow(Row):
    """Where a button stands."""

    press_ms: I64
    release_ms: I64
    fired_ms: I64
    state: I8


@row
class SelectorSpec(Row):
    """A selector, or a wall switch as one of two positions: first and end in `positions`."""

    settle_ms: I64
    first: I32
    end: I32
    input: I16
    author: I16
    load: I16
    at_boot: I8


@row
class SelectorNow(Row):
    """The pattern of contacts that acted last; whether and since when another one waits."""

    since_ms: I64
    spoken: I32
    waits: I8


@row
class PositionSpec(Row):
    """A position: the pattern of contacts, its actions."""

    pattern: I32
    first: I32
    end: I32


@row
class CodeSpec(Row):
    """A code of a remote: its actions, and how long the same code is the same press."""

    lockout_ms: I64
    first: I32
    end: I32
    author: I16


@row
class ActionSpec(Row):
    """One thing that a press, a code, a position or a page does.

    `by` is how many steps it takes; of a mode that must hold, how many rows depend on it. `mode`
    and `value` are those with which the override that it makes ends.
    """

    for_ms: I64
    until_ms: I64
    delay_ms: I64
    who: I16
    want: I16
    by: I16
    mode: I16
    value: I16
    group: I16
    kind: I8
    ends_by: I8


@row
class GroupSpec(Row):
    """A group: how far apart its members are commanded, and after a boot the first of them."""

    stagger_ms: I64
    boot_ms: I64
    first: I32  # its members: first and end in `group_members`
    end: I32


@row
class ModeSpec(Row):
    """A mode: the value it starts with, how many there are."""

    start: I16
    values: I16


@row
class ModeChangeSpec(Row):
    """A condition that sets a mode when it becomes true (`begin`) and false (`end`); −1 where not.

    `before` is how many rows of conditions are judged before a mode is set, the same in each.
    """

    node: I32
    before: I32
    mode: I16
    begin: I16
    end: I16
    author: I16
    on_boot: I8  # whether it sets the mode, too, where the condition is found true after a boot


@row
class ModeChangeNow(Row):
    """What the condition of a mode change was in the scan before; −1 before the first."""

    seen: I8


@row
class DoorwaySpec(Row):
    """Two sides that are crossed one after the other; its resets: first and end in `reset_ms`."""

    within_ms: I64
    outer: I16
    inner: I16


@row
class DoorwayNow(Row):
    """How many are in by a doorway, and which side rose last."""

    side_ms: I64
    clock_ms: I64
    count: I32
    reset: I32
    side: I8


@row
class BegunSpec(Row):
    """Where a schedule keeps its moments of a day that have begun: first cell, how many fit."""

    first: I32
    room: I16


@row
class ScheduleSpec(Row):
    """A schedule in a calendar: its spans, its moments, how long each moment lasts."""

    for_ms: I64
    first: I32
    end: I32
    moment: I32
    moment_end: I32
    unknown: I8
    catch_up: I8  # whether a moment that a cut hid begins late: CATCH_UP_ABSENT, 0 or 1


@row
class ScheduleNow(Row):
    """Where a schedule stands, and how many of its moments of a day have begun.

    `resumes` says that what a cut broke off goes on when the clock is known.
    """

    until_ms: I64
    next: I32
    held: I16
    active: I8
    resumes: I8


@row
class SunSpec(Row):
    """The sun in a calendar: its instants, whether it is up before the first."""

    first: I32
    end: I32
    up: I8


@row
class ResetSpec(Row):
    """The resets of a doorway in a calendar: first and end in `reset_ms`."""

    first: I32
    end: I32
