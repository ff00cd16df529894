"""What is retained, gathered into its cells once a scan."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import inlined, kernel
from aldea.core.engine.layout import NONE
from aldea.core.engine.scan.views import (
    CALENDAR_NOW_BEGUN,
    CALENDAR_NOW_SCHEDULES,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    MEMORY_FIELDS,
    PEOPLE_NOW_DOORWAYS,
    PEOPLE_NOW_MODES,
    RUN_CONDITIONS,
    int_row,
    int_table,
)
from aldea.core.engine.tables.conditions import C_NOW
from aldea.core.engine.tables.loads import (
    L_FIRST,
    O_HAND,
    O_HAND_AUTHOR,
    O_HAND_SCHOOL,
    O_HAND_STORED_MS,
    O_LOCK_AUTHOR,
    O_LOCKED,
    O_STATE,
    Q_NOTED,
    Q_TRIPPED,
)
from aldea.core.engine.tables.memory import (
    F_CELL,
    F_END,
    F_KIND,
    F_WHO,
    FIELD_BAND,
    FIELD_COUNT,
    FIELD_HAND,
    FIELD_LOAD,
    FIELD_LOCK,
    FIELD_MODE,
    FIELD_MOMENTS,
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
from aldea.core.engine.tables.people import D_COUNT, H_HELD


@inlined
def put_cell(now: IntArray, cell: int, value: int) -> int:
    """Write a cell; 1 where it was another."""
    changed = 1 if now[cell] != value else 0
    now[cell] = value
    return changed


@kernel
def gather(run: int, now: IntArray) -> bool:
    """Every field as it is now, into its cells; whether one is not as it was a scan ago."""
    oi, claims = int_table(run, LOADS_NOW_INTS), int_table(run, LOADS_NOW_CLAIMS)
    fields = int_table(run, MEMORY_FIELDS)
    changed = 0
    for f in range(fields.shape[0]):
        kind, who, cell = fields[f, F_KIND], fields[f, F_WHO], fields[f, F_CELL]
        if kind == FIELD_LOAD:
            changed |= put_cell(now, cell, oi[who, O_STATE])
        elif kind == FIELD_MODE:
            changed |= put_cell(now, cell, int_row(run, PEOPLE_NOW_MODES)[who])
        elif kind == FIELD_COUNT:
            changed |= put_cell(now, cell, int_table(run, PEOPLE_NOW_DOORWAYS)[who, D_COUNT])
        elif kind == FIELD_BAND:
            changed |= put_cell(now, cell, int_table(run, RUN_CONDITIONS)[who, C_NOW])
        elif kind == FIELD_TRIP:
            changed |= put_cell(now, cell, claims[who, Q_TRIPPED])
        elif kind == FIELD_HAND:
            there = oi[who, O_HAND] != NONE
            changed |= put_cell(now, cell + HAND_THERE, 1 if there else 0)
            changed |= put_cell(now, cell + HAND_WANT, oi[who, O_HAND] if there else 0)
            changed |= put_cell(now, cell + HAND_AUTHOR, oi[who, O_HAND_AUTHOR] if there else 0)
            changed |= put_cell(now, cell + HAND_SCHOOL, oi[who, O_HAND_SCHOOL] if there else 0)
            changed |= put_cell(now, cell + HAND_END, oi[who, O_HAND_STORED_MS] if there else 0)
        elif kind == FIELD_LOCK:
            locked = oi[who, O_LOCKED]
            changed |= put_cell(now, cell + LOCK_THERE, locked)
            changed |= put_cell(
                now, cell + LOCK_AUTHOR, oi[who, O_LOCK_AUTHOR] if locked == 1 else 0
            )
            first = int_table(run, LOADS_INTS)[who, L_FIRST]
            for at in range(cell + LOCK_FIRST, fields[f, F_END]):
                changed |= put_cell(
                    now, at, claims[first + at - cell - LOCK_FIRST, Q_NOTED] if locked == 1 else 0
                )
        elif kind == FIELD_MOMENTS:
            held = int_table(run, CALENDAR_NOW_SCHEDULES)[who, H_HELD]
            changed |= put_cell(now, cell + MOMENTS_HELD, held)
            for at in range(cell + MOMENTS_FIRST, fields[f, F_END]):
                i = at - cell - MOMENTS_FIRST
                changed |= put_cell(
                    now, at, int_table(run, CALENDAR_NOW_BEGUN)[who, i] if i < held else 0
                )
    return changed != 0
