"""What is retained, gathered into its cells once a scan."""

from aldea.core.engine.layout import FOREVER, NONE
from aldea.core.engine.tables.memory import (
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
    OVERRIDE_AUTHOR,
    OVERRIDE_END,
    OVERRIDE_ENDS_BY,
    OVERRIDE_MODE,
    OVERRIDE_THERE,
    OVERRIDE_VALUE,
    OVERRIDE_WANT,
)
from aldea.core.engine.tables.run import RunTables


def put_cell(run: RunTables, cell: int, value: int) -> int:
    """Write a cell; 1 where it was another."""
    changed = 1 if run.now.cells[cell] != value else 0
    run.now.cells[cell] = value
    return changed


def gather_override(run: RunTables, load: int, cell: int) -> int:
    """The override rule of a load into its cells; 1 where one of them was another."""
    now = run.now.loads[load]
    there = now.override != NONE
    changed = put_cell(run, cell + OVERRIDE_THERE, 1 if there else 0)
    changed |= put_cell(run, cell + OVERRIDE_WANT, now.override if there else 0)
    changed |= put_cell(run, cell + OVERRIDE_AUTHOR, now.override_author if there else 0)
    changed |= put_cell(run, cell + OVERRIDE_ENDS_BY, now.override_ends_by if there else 0)
    changed |= put_cell(run, cell + OVERRIDE_END, now.override_stored_ms if there else 0)
    changed |= put_cell(run, cell + OVERRIDE_MODE, now.override_mode if there else 0)
    changed |= put_cell(run, cell + OVERRIDE_VALUE, now.override_value if there else 0)
    return changed


def gather_group(run: RunTables, g: int, cell: int) -> int:
    """What is left of a command of a group; 1 where a cell was another."""
    spec, changed, left = run.plan.groups[g], 0, NONE
    for i in range(spec.first, spec.end):
        load = run.plan.group_members[i]
        now = run.now.loads[load]
        waits = now.wait_ms != FOREVER and now.wait_group == g
        if waits:
            left = load
        at = cell + GROUP_FIRST + i - spec.first
        changed |= put_cell(run, at, now.wait + 1 if waits else 0)
    if spec.first == spec.end:
        return changed  # of a group whose members are all only planned
    there = left != NONE
    next_one = run.now.loads[left if there else run.plan.group_members[spec.first]]
    changed |= put_cell(run, cell + GROUP_AUTHOR, next_one.wait_author if there else 0)
    changed |= put_cell(run, cell + GROUP_ENDS_BY, next_one.wait_ends_by if there else 0)
    changed |= put_cell(run, cell + GROUP_FOR, next_one.wait_for_ms if there else 0)
    changed |= put_cell(run, cell + GROUP_UNTIL, next_one.wait_until_ms if there else 0)
    changed |= put_cell(run, cell + GROUP_MODE, next_one.wait_mode if there else 0)
    changed |= put_cell(run, cell + GROUP_VALUE, next_one.wait_value if there else 0)
    return changed


def gather_lock(run: RunTables, load: int, cell: int, end: int) -> int:
    """The lock-out of a load, with the rules that it waits for; 1 where it was another."""
    now, first = run.now.loads[load], run.plan.loads[load].first
    locked = now.locked == 1
    changed = put_cell(run, cell + LOCK_THERE, now.locked)
    changed |= put_cell(run, cell + LOCK_AUTHOR, now.lock_author if locked else 0)
    for at in range(cell + LOCK_FIRST, end):
        noted = run.now.rules[first + at - cell - LOCK_FIRST].noted
        changed |= put_cell(run, at, noted if locked else 0)
    return changed


def gather_moments(run: RunTables, s: int, cell: int, end: int) -> int:
    """The begun moments of a schedule; 1 where one was another."""
    held, first = run.now.schedules[s].held, run.plan.begun[s].first
    changed = put_cell(run, cell + MOMENTS_HELD, held)
    for at in range(cell + MOMENTS_FIRST, end):
        i = at - cell - MOMENTS_FIRST
        changed |= put_cell(run, at, run.now.begun_ms[first + i] if i < held else 0)
    return changed


def gather(run: RunTables) -> bool:
    """Every field as it is now, into its cells; whether one is not as it was a scan ago."""
    changed = 0
    for f in range(len(run.plan.fields)):
        field = run.plan.fields[f]
        kind, who, cell = field.kind, field.who, field.cell
        if kind == FIELD_LOAD:
            changed |= put_cell(run, cell, run.now.loads[who].state)
        elif kind == FIELD_MODE:
            changed |= put_cell(run, cell, run.now.modes[who])
        elif kind == FIELD_COUNT:
            changed |= put_cell(run, cell, run.now.doorways[who].count)
        elif kind == FIELD_BAND:
            changed |= put_cell(run, cell, run.now.conditions[who].own)
        elif kind == FIELD_TRIP:
            changed |= put_cell(run, cell, run.now.rules[who].tripped)
        elif kind == FIELD_NOT_ARRIVING:
            changed |= put_cell(run, cell, run.now.loads[who].not_arriving)
        elif kind == FIELD_OVERRIDE:
            changed |= gather_override(run, who, cell)
        elif kind == FIELD_LOCK:
            changed |= gather_lock(run, who, cell, field.end)
        elif kind == FIELD_MOMENTS:
            changed |= gather_moments(run, who, cell, field.end)
        elif kind == FIELD_GROUP:
            changed |= gather_group(run, who, cell)
    return changed != 0
