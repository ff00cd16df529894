"""What outlives the power: fields, the cells that each takes, two slots."""

from aldea.core.engine.tables.rows import I8, I16, I32, I64, Row, row

(
    FIELD_LOAD,
    FIELD_MODE,
    FIELD_COUNT,
    FIELD_BAND,
    FIELD_OVERRIDE,
    FIELD_LOCK,
    FIELD_MOMENTS,
    FIELD_TRIP,
    FIELD_NOT_ARRIVING,
    FIELD_GROUP,
) = range(10)
ABSENT = -1  # a load's state that the slot does not hold
# cells of an override rule and of a lock-out
(
    OVERRIDE_THERE,
    OVERRIDE_WANT,
    OVERRIDE_AUTHOR,
    OVERRIDE_ENDS_BY,
    OVERRIDE_END,
    OVERRIDE_MODE,
    OVERRIDE_VALUE,
) = range(7)
OVERRIDE_CELLS = 7
# cells of what is left of a group command; of each member 0, or its want and 1
(
    GROUP_AUTHOR,
    GROUP_ENDS_BY,
    GROUP_FOR,
    GROUP_UNTIL,
    GROUP_MODE,
    GROUP_VALUE,
    GROUP_FIRST,
) = range(7)
NO_END = -(2**60)
LOCK_THERE, LOCK_AUTHOR, LOCK_FIRST = range(3)
MOMENTS_HELD, MOMENTS_FIRST = range(2)


@row
class FieldSpec(Row):
    """A field: what it retains, of whom, in which cells."""

    cell: I32
    end: I32
    who: I16
    kind: I8


@row
class PolicySpec(Row):
    """When what changed is written, and how long a record is."""

    quiet_ms: I64
    latest_ms: I64
    least_ms: I64
    bytes: I32
    on: I8


@row
class MemoryNow(Row):
    """The slot that was written last, and what waits to be written."""

    written_ms: I64
    changed_ms: I64
    first_ms: I64
    sequence: I32
    before_sequence: I32
    slot: I8
    known: I8
    last_slot: I8
    before_valid: I8


@row
class SlotNow(Row):
    """Whether a slot holds a valid record, and its sequence number."""

    sequence: I32
    valid: I8
