"""What a boot forgets, what it finds in memory, and how each load comes back."""

from aldea.core.engine.layout import (
    ENDS_BY_POSITION,
    ENDS_BY_TIME,
    EVENT_BOOT,
    FOREVER,
    NEVER,
    NOBODY,
    NONE,
    POLICY_LAST,
    POLICY_OFF,
)
from aldea.core.engine.scan.boot_state import boot_conditions, boot_loads, boot_probes
from aldea.core.engine.scan.doorways import boot_doorways
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.inputs import find_levels
from aldea.core.engine.scan.memory import as_found, choose_slot, never_written, seed
from aldea.core.engine.scan.mode_changes import boot_mode_changes
from aldea.core.engine.scan.people import boot_controls
from aldea.core.engine.tables.memory import (
    ABSENT,
    FIELD_BAND,
    FIELD_COUNT,
    FIELD_GROUP,
    FIELD_LOAD,
    FIELD_LOCK,
    FIELD_MODE,
    FIELD_MOMENTS,
    FIELD_NOT_ARRIVING,
    FIELD_OVERRIDE,
    FIELD_TRIP,
    GROUP_AUTHOR,
    GROUP_ENDS_BY,
    GROUP_FIRST,
    GROUP_FOR,
    GROUP_MODE,
    GROUP_UNTIL,
    GROUP_VALUE,
    LOCK_AUTHOR,
    LOCK_FIRST,
    LOCK_THERE,
    MOMENTS_FIRST,
    MOMENTS_HELD,
    NO_END,
    OVERRIDE_AUTHOR,
    OVERRIDE_END,
    OVERRIDE_ENDS_BY,
    OVERRIDE_MODE,
    OVERRIDE_THERE,
    OVERRIDE_VALUE,
    OVERRIDE_WANT,
)
from aldea.core.engine.tables.run import RunTables


def restore_override(run: RunTables, load: int, cell: int) -> None:
    """An override rule that was retained; one for a time speaks once the clock is known."""
    now, end_ms = run.now.loads[load], run.now.base[cell + OVERRIDE_END]
    if run.now.base[cell + OVERRIDE_THERE] == 0 or run.plan.loads[load].policy == POLICY_OFF:
        return
    ends_by = run.now.base[cell + OVERRIDE_ENDS_BY]
    if ends_by == ENDS_BY_POSITION:
        return  # its position is read first
    if ends_by == ENDS_BY_TIME and end_ms == NO_END:
        return  # its end was not known when it was written
    now.override = run.now.base[cell + OVERRIDE_WANT]
    now.override_author = run.now.base[cell + OVERRIDE_AUTHOR]
    now.override_ends_by = ends_by
    now.override_mode = run.now.base[cell + OVERRIDE_MODE]
    now.override_value = run.now.base[cell + OVERRIDE_VALUE]
    now.override_end_ms = FOREVER
    now.override_until_ms = end_ms
    now.override_stored_ms = end_ms
    now.override_asleep = 1 if ends_by == ENDS_BY_TIME else 0


def restore_load(run: RunTables, load: int, cell: int) -> None:
    """The state that a load had, where it returns to that."""
    slot = run.now.memory.slot
    if run.plan.loads[load].policy == POLICY_LAST and slot != NONE:
        if run.now.slot_cells[slot * len(run.now.cells) + cell] != ABSENT:
            run.now.loads[load].last = run.now.base[cell]


def restore_lock(run: RunTables, load: int, cell: int, end: int, t_ms: int) -> None:
    """A lock-out that was retained; its rest counts anew from the boot."""
    now, first = run.now.loads[load], run.plan.loads[load].first
    if run.now.base[cell + LOCK_THERE] == 0:
        return
    now.locked = 1
    now.lock_ms = t_ms
    now.relock = 1
    now.lock_author = run.now.base[cell + LOCK_AUTHOR]
    for at in range(cell + LOCK_FIRST, end):
        run.now.rules[first + at - cell - LOCK_FIRST].noted = run.now.base[at]


def restore_moments(run: RunTables, s: int, cell: int) -> None:
    """The moments of a schedule that had begun."""
    own = run.plan.begun[s]
    held = min(run.now.base[cell + MOMENTS_HELD], own.room)
    run.now.schedules[s].held = held
    run.now.schedules[s].resumes = 1 if run.calendar.schedules[s].catch_up == 1 else 0
    for i in range(held):
        run.now.begun_ms[own.first + i] = run.now.base[cell + MOMENTS_FIRST + i]


def restore_group(run: RunTables, g: int, cell: int, t_ms: int) -> None:
    """What a cut left of a group command: its members follow, the first after the boot delay."""
    spec, ends_by = run.plan.groups[g], run.now.base[cell + GROUP_ENDS_BY]
    if ends_by == ENDS_BY_POSITION:
        return
    at_ms = t_ms + spec.boot_ms
    for i in range(spec.first, spec.end):
        want = run.now.base[cell + GROUP_FIRST + i - spec.first] - 1
        load = run.plan.group_members[i]
        if want == NONE or run.plan.loads[load].policy == POLICY_OFF:
            continue
        now = run.now.loads[load]
        now.wait_ms = at_ms
        now.wait = want
        now.wait_group = g
        now.wait_author = run.now.base[cell + GROUP_AUTHOR]
        now.wait_ends_by = ends_by
        now.wait_for_ms = run.now.base[cell + GROUP_FOR]
        now.wait_until_ms = run.now.base[cell + GROUP_UNTIL]
        now.wait_mode = run.now.base[cell + GROUP_MODE]
        now.wait_value = run.now.base[cell + GROUP_VALUE]
        at_ms += spec.stagger_ms


def end_with_modes(run: RunTables) -> None:
    """What ends with a mode comes back only where the mode is that value."""
    for load in range(len(run.plan.loads)):
        now = run.now.loads[load]
        if now.override != NONE and now.override_mode != NONE:
            if run.now.modes[now.override_mode] != now.override_value:
                now.override = NONE
        if now.wait_ms != FOREVER and now.wait_mode != NONE:
            if run.now.modes[now.wait_mode] != now.wait_value:
                now.wait_ms = FOREVER


def restore(run: RunTables, t_ms: int) -> None:
    """Take from memory what was retained."""
    for f in range(len(run.plan.fields)):
        field = run.plan.fields[f]
        kind, who, cell = field.kind, field.who, field.cell
        if kind == FIELD_LOAD:
            restore_load(run, who, cell)
        elif kind == FIELD_MODE:
            run.now.modes[who] = run.now.base[cell]
        elif kind == FIELD_COUNT:
            run.now.doorways[who].count = run.now.base[cell]
        elif kind == FIELD_BAND:
            run.now.conditions[who].now = run.now.base[cell]
            run.now.conditions[who].own = run.now.base[cell]
        elif kind == FIELD_TRIP:
            run.now.rules[who].tripped = run.now.base[cell]
        elif kind == FIELD_NOT_ARRIVING:
            run.now.loads[who].not_arriving = run.now.base[cell]
        elif kind == FIELD_OVERRIDE:
            restore_override(run, who, cell)
        elif kind == FIELD_LOCK:
            restore_lock(run, who, cell, field.end, t_ms)
        elif kind == FIELD_MOMENTS:
            restore_moments(run, who, cell)
        elif kind == FIELD_GROUP:
            restore_group(run, who, cell, t_ms)
    end_with_modes(run)


def boot(run: RunTables, t_ms: int, running: bool) -> None:
    """State after power came back and the program began, at `t_ms`, or at the start of a run.

    A run that begins in the middle (`running`) obeys no boot rule: nothing is restored, nothing
    held at its start, and no boot is noted.
    """
    head = run.now.head
    head.booted_ms = t_ms
    head.clock_low_ms = t_ms + head.clock_base_ms
    head.first = 1
    head.free = 1 if running else 0
    head.listens = 1
    head.lines = 1
    boot_probes(run, t_ms)
    boot_conditions(run)
    boot_mode_changes(run)
    find_levels(run, t_ms)
    boot_controls(run, t_ms)
    boot_doorways(run)
    for s in range(len(run.calendar.schedules)):
        schedule = run.now.schedules[s]
        schedule.until_ms = NEVER
        schedule.next = run.calendar.schedules[s].moment
        schedule.active = 0
        schedule.held = 0
        schedule.resumes = 0
    boot_loads(run, t_ms)
    choose_slot(run)
    as_found(run)
    if running:
        return
    if head.seeds == 1 and never_written(run):
        # In service, but without power from the run's first instant: it holds the defaults.
        seed(run, run.now.base)
    restore(run, t_ms)
    memory = run.now.memory
    put_event(run, t_ms, EVENT_BOOT, 0, memory.slot, memory.sequence, 0, NOBODY, 0.0)
