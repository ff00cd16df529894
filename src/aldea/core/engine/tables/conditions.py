"""Conditions as a table in which members stand before what is made of them."""

from aldea.core.engine.tables.rows import I8, I32, I64, Real, Row, row

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
# What a condition counts as without a reading: its last result, or a stated one.
KEEP, STATED_FALSE, STATED_TRUE = range(3)
# Of the value that a condition looks at: good, not good and kept, not good and stated.
LIT, KEPT, STATED = range(3)
ON_STATED = 2  # added to what a member says while that is stated
UNSEEN = -1  # of a member before the first scan after a boot


@row
class ConditionSpec(Row):
    """A condition: what it looks at, its thresholds, its delays, its members."""

    on: Real
    off: Real
    on_ms: I64
    off_ms: I64
    keep_ms: I64  # how long a result is kept without a reading before another is stated
    first: I32  # its members: first and end in `condition_members`
    end: I32
    signal: I32
    a: I32
    b: I32
    kind: I8
    rising: I8
    named: I8
    without: I8


@row
class ConditionNow(Row):
    """What a condition says, what its member said, since when, whether it has been false since.

    `good` says whether every value that it reads is good, `dark` whether its own is not, and
    whether a stated result stands then; `own` is what it says by itself.
    """

    since_ms: I64
    now: I8
    own: I8
    member: I8
    let_go: I8
    good: I8
    dark: I8
    seen: I8
    letting: I8
