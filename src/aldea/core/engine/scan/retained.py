"""What is retained, gathered into its cells once a scan."""

from aldea.core.engine.layout import NONE
from aldea.core.engine.tables.memory import (
    FIELD_BAND,
    FIELD_COUNT,
    FIELD_HAND,
    FIELD_LOAD,
    FIELD_LOCK,
    FIELD_MODE,
    FIELD_MOMENTS,
    FIELD_NOT_ARRIVING,
    FIELD_TRIP,
    HAND_AUTHOR,
    HAND_END,
    HAND_SCHOOL,
    HAND_THERE,
    HAND_WANT,
    LOCK_AUTHOR,
    LOCK_FIRST,
    LOCK_THERE,
    MOMENTS_FIRST,
    MOMENTS_HELD,
)
from aldea.core.engine.tables.run import RunTables


def put_cell(run: RunTables, cell: int, value: int) -> int:
    """Write a cell; 1 where it was another."""
    changed = 1 if run.now.cells[cell] != value else 0
    run.now.cells[cell] = value
    return changed


def gather_hand(run: RunTables, load: int, cell: int) -> int:
    """The hand claim of a load into its cells; 1 where one of them was another."""
    now = run.now.loads[load]
    there = now.hand != NONE
    changed = put_cell(run, cell + HAND_THERE, 1 if there else 0)
    changed |= put_cell(run, cell + HAND_WANT, now.hand if there else 0)
    changed |= put_cell(run, cell + HAND_AUTHOR, now.hand_author if there else 0)
    changed |= put_cell(run, cell + HAND_SCHOOL, now.hand_school if there else 0)
    changed |= put_cell(run, cell + HAND_END, now.hand_stored_ms if there else 0)
    return changed


def gather_lock(run: RunTables, load: int, cell: int, end: int) -> int:
    """The lock-out of a load, with the claims that it waits for; 1 where it was another."""
    now, first = run.now.loads[load], run.plan.loads[load].first
    locked = now.locked == 1
    changed = put_cell(run, cell + LOCK_THERE, now.locked)
    changed |= put_cell(run, cell + LOCK_AUTHOR, now.lock_author if locked else 0)
    for at in range(cell + LOCK_FIRST, end):
        noted = run.now.claims[first + at - cell - LOCK_FIRST].noted
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
            changed |= put_cell(run, cell, run.now.claims[who].tripped)
        elif kind == FIELD_NOT_ARRIVING:
            changed |= put_cell(run, cell, run.now.loads[who].not_arriving)
        elif kind == FIELD_HAND:
            changed |= gather_hand(run, who, cell)
        elif kind == FIELD_LOCK:
            changed |= gather_lock(run, who, cell, field.end)
        elif kind == FIELD_MOMENTS:
            changed |= gather_moments(run, who, cell, field.end)
    return changed != 0
