"""What comes into a run and what comes out of it, a row each."""

from aldea.core.engine.tables.rows import I16, I32, I64, Real, Row, row


@row
class Level(Row):
    """The level that a digital input takes on."""

    t_ms: I64
    level: I32
    input: I16


@row
class MessageRow(Row):
    """A page's or a remote's: its code (or −1), or its actions and their author."""

    t_ms: I64
    first: I32
    end: I32
    code: I16
    author: I16


@row
class ClockRow(Row):
    """What the clock says at an instant, and whether it is known."""

    t_ms: I64
    says_ms: I64
    known: I16


@row
class CutRow(Row):
    """A power cut; `torn` bytes of the last write before it were written (−1: all)."""

    from_ms: I64
    to_ms: I64
    boot_ms: I64
    torn: I32
    kept: I16  # whether the clock went on


@row
class Cursor(Row):
    """Where each kind of input has been read up to.

    `feeds` says that the next scan is only for derived signals.
    """

    sample: I64
    level: I64
    message: I64
    clock: I64
    cut: I64
    feeds: I64


@row
class Counts(Row):
    """How many rows of each kind came out, also those for which there was no room."""

    events: I64
    lines: I64
    writes: I64


@row
class EventRow(Row):
    """One event; what its columns mean stands in `core.engine.layout`."""

    t_ms: I64
    type: I64
    who: I64
    state_from: I64
    state_to: I64
    rule: I64
    author: I64
    decider: I64
    decided_by: I64
    want: I64
    inhibit: I64
    kept: I64
    cited: I64
    value: Real


@row
class LineRow(Row):
    """The new level of a relay's line."""

    t_ms: I64
    line: I64
    level: I64


@row
class WriteRow(Row):
    """A record written into memory."""

    t_ms: I64
    slot: I64
    sequence: I64
