"""Loads, the rules on them, their relays: parameters and state."""

from aldea.core.engine.tables.rows import I8, I16, I32, I64, Real, Row, row

NO_STATE = -2  # in the place of a state: there is none


@row
class RuleSpec(Row):
    """A rule; those of a load stand together, strongest first, what it is at idle last."""

    after_ms: I64
    pulse_ms: I64
    load: I16
    want: I16
    node: I16
    probe: I16
    signal: I16
    qualities: I16
    priority: I8


@row
class RuleNow(Row):
    """Where a rule stands."""

    began_ms: I64
    reset: I16  # one more than the author of a reset; 0 where nobody asked for one
    tripped: I8
    was: I8
    fresh: I8
    active: I8
    asking: I8
    noted: I8
    still: I8


@row
class LoadSpec(Row):
    """A load: its rules, its times, its relays, what it does without power."""

    open_at: Real
    shut_at: Real
    min_on_ms: I64
    min_off_ms: I64
    max_on_ms: I64
    rest_ms: I64
    boot_ms: I64
    override_ms: I64
    dead_ms: I64
    pulse_ms: I64
    travel_ms: I64
    ring: I32  # the first cell of its starts
    combo: I32  # the first cell of its combinations: `line_end` − `line` for each state
    first: I16
    override: I16
    rest: I16
    last: I16
    lowest: I16
    starts: I16
    line: I16
    line_end: I16
    states: I16
    open_input: I16
    shut_input: I16
    position: I16
    sense: I16
    pattern: I16
    patterns: I16
    steps: I16
    kind: I8
    valve: I8
    policy: I8
    ends_by: I8
    unpowered: I8
    dial: I16  # a selector whose position rules it, or −1
    tries: I8  # pulses in a row that may fail to arrive before the drive is locked out; 0: any
    breaks: I8


@row
class LoadNow(Row):
    """Where a load stands."""

    commanded_ms: I64  # the scan that took its override rule
    on_ms: I64
    off_ms: I64
    lock_ms: I64
    override_end_ms: I64
    override_until_ms: I64
    override_stored_ms: I64
    pattern_ms: I64
    pulse_ms: I64
    toggled_ms: I64
    pulsed_ms: I64  # when the last pulse began
    move_ms: I64
    wait_ms: I64
    wait_for_ms: I64
    wait_until_ms: I64
    state: I16
    chosen: I16  # the rule that decides in this scan, and the state that it wants
    chosen_want: I16
    decider: I16  # what was written last: who decided, who that was, what was wanted
    author: I16
    want: I16
    cited: I16
    asker: I16
    kept_for: I16
    lock_author: I16
    override: I16
    override_mode: I16  # the mode, and its value, with which the override ends
    override_value: I16
    wait_group: I16
    wait_mode: I16
    wait_value: I16
    override_author: I16
    below: I16
    last: I16
    tried: I16
    blocked: I16
    blocked_who: I16
    blocked_author: I16
    move_from: I16
    move_who: I16
    move_author: I16
    move_want: I16
    starts_next: I16
    starts_held: I16
    wait: I16
    wait_author: I16
    inhibit: I8
    kept: I8
    locked: I8
    relock: I8
    override_ends_by: I8
    override_asleep: I8
    decided: I8
    sensed: I8
    unasked: I8
    move_left: I8
    move_pulsed: I8
    failed: I8  # pulses in a row that did not arrive
    not_arriving: I8
    late: I8  # the end that the last pulse wanted has not answered, nor any other since
    late_want: I8
    unplaced: I8  # at neither end since the boot
    measured: I8  # a distance was good since the boot
    outside: I8  # in this scan others moved it
    at_open: I8
    at_shut: I8
    wait_ends_by: I8


@row
class LineSpec(Row):
    """The line of a relay: its contact opens by the coil (nc), it draws at low, level at boot."""

    nc: I8
    low: I8
    boot: I8


@row
class LineNow(Row):
    """Whether the contact of a relay conducts, since when it does not, the level of its line."""

    opened_ms: I64
    closed: I8
    shown: I8


@row
class PatternSpec(Row):
    """A pattern's parts: first and end in `parts_ms`, on and off in turn."""

    first: I32
    end: I32


@row
class ExclusiveSpec(Row):
    """Relays that never conduct together: first and end in `exclusive_lines`."""

    dead_ms: I64
    first: I32
    end: I32
