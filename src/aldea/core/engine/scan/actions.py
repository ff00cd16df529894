"""What a press, a code, a position or a page does: override rules, modes, resets."""

from aldea.core.engine.layout import (
    ENDS_BY_AUTOMATIC,
    ENDS_BY_POSITION,
    ENDS_BY_TIME,
    EVENT_MISSED,
    EVENT_MODE,
    FOREVER,
    KIND_DRIVE,
    MISSED_RESET,
    NONE,
    PRIORITY_TRIP,
    WANT_LEVEL,
    WANT_OFF,
    WANT_ON,
    WANT_OPEN,
    WANT_SHUT,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.memory import NO_END
from aldea.core.engine.tables.people import (
    ACT_AUTOMATIC,
    ACT_GROUP,
    ACT_MODE,
    ACT_ONLY,
    ACT_OVERRIDE,
    ACT_RESET,
    ACT_STEP,
    ACT_TOGGLE,
    ALL_TRIPS,
    NEXT_VALUE,
    ActionSpec,
)
from aldea.core.engine.tables.run import RunTables


def is_selector(run: RunTables, author: int) -> bool:
    """Whether an author is a selector."""
    for s in range(len(run.plan.selectors)):
        if run.plan.selectors[s].author == author:
            return True
    return False


def command(
    run: RunTables,
    t_ms: int,
    load: int,
    want: int,
    author: int,
    asked_end: int,
    for_ms: int,
    until_ms: int,
    mode: int,
    value: int,
) -> None:
    """An override rule on a load, in place of the one that was there; it may end with a mode."""
    spec, now, head = run.plan.loads[load], run.now.loads[load], run.now.head
    ends_by = spec.ends_by if asked_end == NONE else asked_end
    if ends_by == ENDS_BY_POSITION and not is_selector(run, author):
        ends_by = ENDS_BY_AUTOMATIC
    end_ms, clock_end_ms = FOREVER, NO_END
    if ends_by == ENDS_BY_TIME:
        if until_ms != NO_END:
            clock_end_ms = until_ms
        else:
            end_ms = t_ms + (spec.override_ms if for_ms == NONE else for_ms)
    stored_ms = clock_end_ms
    if end_ms != FOREVER and head.clock_known == 1:
        stored_ms = end_ms + head.clock_base_ms
    now.override = want
    now.commanded_ms = t_ms
    now.override_author = author
    now.override_mode = mode
    now.override_value = value
    now.override_ends_by = ends_by
    now.override_end_ms = end_ms
    now.override_until_ms = clock_end_ms
    now.override_asleep = 0
    now.override_stored_ms = stored_ms
    now.below = NO_STATE
    now.blocked = NO_STATE
    now.wait_ms = FOREVER


def command_in_turn(
    run: RunTables, t_ms: int, load: int, want: int, author: int, action: ActionSpec
) -> None:
    """A command to a load, of a group in its turn."""
    now = run.now.loads[load]
    if action.delay_ms == 0:
        command(
            run, t_ms, load, want, author, action.ends_by, action.for_ms, action.until_ms,
            action.mode, action.value,
        )  # fmt: skip
        return
    if now.wait_group != action.group or now.wait_ms > t_ms:
        now.wait_ms = t_ms + action.delay_ms
    now.wait = want
    now.wait_author = author
    now.wait_ends_by = action.ends_by
    now.wait_for_ms = action.for_ms
    now.wait_until_ms = action.until_ms
    now.wait_mode = action.mode
    now.wait_value = action.value
    now.wait_group = action.group


def waiting_commands(run: RunTables, t_ms: int, at_ms: int) -> None:
    """What a group was told, taken by the loads whose turn has come."""
    for load in range(len(run.plan.loads)):
        now = run.now.loads[load]
        if at_ms >= now.wait_ms:
            command(
                run, t_ms, load, now.wait, now.wait_author, now.wait_ends_by, now.wait_for_ms,
                now.wait_until_ms, now.wait_mode, now.wait_value,
            )  # fmt: skip


def asked_level(run: RunTables, load: int, t_ms: int) -> int:
    """The state that a person goes by: the load's, or what was wanted earlier in this scan."""
    now = run.now.loads[load]
    if now.override == NONE or now.commanded_ms != t_ms:
        return now.state
    if now.override == WANT_OFF or now.override == WANT_SHUT:
        return 0
    if now.override >= WANT_LEVEL:
        return now.override - WANT_LEVEL
    return max(1, run.plan.loads[load].lowest)


def toggled_want(run: RunTables, load: int, t_ms: int) -> int:
    """The want that is the other one than a load's state now."""
    spec, off = run.plan.loads[load], asked_level(run, load, t_ms) == 0
    if spec.valve == 1 or spec.kind == KIND_DRIVE:
        return WANT_OPEN if off else WANT_SHUT
    return WANT_ON if off else WANT_OFF


def drop_turns(run: RunTables, group: int, t_ms: int) -> None:
    """A new command of a group takes the place of what is left of the one before.

    A member whose turn comes in this very scan keeps it, and takes the new command.
    """
    for load in range(len(run.plan.loads)):
        now = run.now.loads[load]
        if now.wait_group == group and now.wait_ms > t_ms:
            now.wait_ms = FOREVER


def leave_mode(run: RunTables, mode: int, value: int) -> None:
    """A mode is left: what was to end with it ends."""
    for load in range(len(run.plan.loads)):
        now = run.now.loads[load]
        if now.override != NONE and now.override_mode == mode and now.override_value != value:
            now.override = NONE
        if now.wait_ms != FOREVER and now.wait_mode == mode and now.wait_value != value:
            now.wait_ms = FOREVER


def leave_position(run: RunTables, author: int) -> None:
    """Another position of a selector acts: what its last one ruled is given back."""
    for load in range(len(run.plan.loads)):
        now = run.now.loads[load]
        if (
            now.override != NONE
            and now.override_ends_by == ENDS_BY_POSITION
            and now.override_author == author
        ):
            now.override = NONE
        if now.wait_ms != FOREVER and now.wait_author == author:
            ends_by = now.wait_ends_by
            if ends_by == NONE:
                ends_by = run.plan.loads[load].ends_by
            if ends_by == ENDS_BY_POSITION:
                now.wait_ms = FOREVER


def set_mode(run: RunTables, t_ms: int, mode: int, wanted: int, author: int) -> None:
    """A mode takes on a value, or its next one."""
    was = run.now.modes[mode]
    value = wanted
    if wanted == NEXT_VALUE:
        value = (was + 1) % run.plan.modes[mode].values
    run.now.modes[mode] = value
    if value != was:
        leave_mode(run, mode, value)
        put_event(run, t_ms, EVENT_MODE, mode, was, value, 0, author, 0.0)


def ask_reset(run: RunTables, load: int, trip: int, author: int, t_ms: int) -> None:
    """A person resets a trip of a load, or all of them and what else locks it out."""
    spec = run.plan.loads[load]
    for k in range(spec.first, spec.override):
        now = run.now.rules[k]
        if run.plan.rules[k].priority == PRIORITY_TRIP and (trip == ALL_TRIPS or trip == k):
            if now.tripped == 1:
                now.reset = 1 + author
    if trip == ALL_TRIPS and spec.tries > 0:
        free_drive(run, load, t_ms, author)


def free_drive(run: RunTables, load: int, t_ms: int, author: int) -> None:
    """A drive that did not arrive may try again."""
    now = run.now.loads[load]
    if now.not_arriving == 1:
        put_event(run, t_ms, EVENT_MISSED, load, now.state, MISSED_RESET, 0, author, 0.0)
    now.not_arriving = 0
    now.failed = 0
    now.blocked = NO_STATE


def act(run: RunTables, t_ms: int, first: int, end: int, author: int) -> None:
    """All that one press, code, position or message does."""
    first_asks = first
    for row in range(first, end):
        if row < first_asks:
            continue
        action = run.plan.actions[row]
        who = action.who
        if action.kind == ACT_ONLY:
            if run.now.modes[who] != action.want:
                first_asks = row + 1 + action.by
        elif action.kind == ACT_GROUP:
            drop_turns(run, who, t_ms)
        elif action.kind == ACT_OVERRIDE:
            command_in_turn(run, t_ms, who, action.want, author, action)
        elif action.kind == ACT_TOGGLE:
            command_in_turn(run, t_ms, who, toggled_want(run, who, t_ms), author, action)
        elif action.kind == ACT_AUTOMATIC:
            run.now.loads[who].override = NONE
            run.now.loads[who].wait_ms = FOREVER
        elif action.kind == ACT_STEP:
            stepped = max(asked_level(run, who, t_ms) + action.by, 0)
            level = min(stepped, run.plan.loads[who].steps)
            want = WANT_LEVEL + level if level > 0 else WANT_OFF
            command_in_turn(run, t_ms, who, want, author, action)
        elif action.kind == ACT_MODE:
            set_mode(run, t_ms, who, action.want, author)
        elif action.kind == ACT_RESET:
            ask_reset(run, who, action.want, author, t_ms)
    run.now.head.stirred = 1
