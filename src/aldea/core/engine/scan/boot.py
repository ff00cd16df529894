"""What a boot forgets, what it finds in memory, and how each load comes back."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_BOOT,
    FOREVER,
    NEVER,
    NOBODY,
    NONE,
    POLICY_LAST,
    POLICY_OFF,
    SCHOOL_TIME,
)
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FIRST,
    H_FREE,
    H_LINES,
    H_LISTENS,
    H_SEEDS,
)
from aldea.core.engine.scan.boot_state import boot_conditions, boot_loads, boot_probes
from aldea.core.engine.scan.doorways import boot_doorways
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.memory import as_found, choose_slot, never_written, seed
from aldea.core.engine.scan.people import boot_controls
from aldea.core.engine.scan.views import (
    CALENDAR_NOW_BEGUN,
    CALENDAR_NOW_SCHEDULES,
    CALENDAR_SCHEDULES,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    MEMORY_FIELDS,
    MEMORY_NOW_BASE,
    MEMORY_NOW_HEADS,
    MEMORY_NOW_SLOTS,
    PEOPLE_NOW_DOORWAYS,
    PEOPLE_NOW_MODES,
    RUN_CONDITIONS,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.conditions import C_NOW
from aldea.core.engine.tables.loads import (
    L_FIRST,
    L_POLICY,
    O_HAND,
    O_HAND_ASLEEP,
    O_HAND_AUTHOR,
    O_HAND_END_MS,
    O_HAND_SCHOOL,
    O_HAND_STORED_MS,
    O_HAND_UNTIL_MS,
    O_LAST,
    O_LOCK_AUTHOR,
    O_LOCK_MS,
    O_LOCKED,
    O_RELOCK,
    Q_NOTED,
    Q_TRIPPED,
)
from aldea.core.engine.tables.memory import (
    ABSENT,
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
    NO_END,
    Z_SEQUENCE,
    Z_SLOT,
)
from aldea.core.engine.tables.people import (
    C_MOMENT,
    D_COUNT,
    H_ACTIVE,
    H_HELD,
    H_NEXT,
    H_UNTIL_MS,
)


@kernel
def restore_hand(run: int, load: int, cell: int) -> None:
    """A hand claim that was retained; one for a time speaks once the clock is known."""
    oi, cells = int_table(run, LOADS_NOW_INTS), int_row(run, MEMORY_NOW_BASE)
    if cells[cell + HAND_THERE] == 0 or int_table(run, LOADS_INTS)[load, L_POLICY] == POLICY_OFF:
        return
    timed = cells[cell + HAND_SCHOOL] == SCHOOL_TIME
    if timed and cells[cell + HAND_END] == NO_END:
        return  # its end was not known when it was written
    oi[load, O_HAND] = cells[cell + HAND_WANT]
    oi[load, O_HAND_AUTHOR] = cells[cell + HAND_AUTHOR]
    oi[load, O_HAND_SCHOOL] = cells[cell + HAND_SCHOOL]
    oi[load, O_HAND_END_MS] = FOREVER
    oi[load, O_HAND_UNTIL_MS] = cells[cell + HAND_END]
    oi[load, O_HAND_STORED_MS] = cells[cell + HAND_END]
    oi[load, O_HAND_ASLEEP] = 1 if timed else 0


@kernel
def restore(run: int, t_ms: int) -> None:
    """Take from memory what was retained."""
    fields, cells, oi = (
        int_table(run, MEMORY_FIELDS),
        int_row(run, MEMORY_NOW_BASE),
        int_table(run, LOADS_NOW_INTS),
    )
    slot = int_row(run, MEMORY_NOW_HEADS)[Z_SLOT]
    for f in range(fields.shape[0]):
        kind, who, cell = fields[f, F_KIND], fields[f, F_WHO], fields[f, F_CELL]
        if kind == FIELD_LOAD:
            if int_table(run, LOADS_INTS)[who, L_POLICY] == POLICY_LAST and slot != NONE:
                if int_table(run, MEMORY_NOW_SLOTS)[slot, cell] != ABSENT:
                    oi[who, O_LAST] = cells[cell]
        elif kind == FIELD_MODE:
            int_row(run, PEOPLE_NOW_MODES)[who] = cells[cell]
        elif kind == FIELD_COUNT:
            int_table(run, PEOPLE_NOW_DOORWAYS)[who, D_COUNT] = cells[cell]
        elif kind == FIELD_BAND:
            int_table(run, RUN_CONDITIONS)[who, C_NOW] = cells[cell]
        elif kind == FIELD_TRIP:
            int_table(run, LOADS_NOW_CLAIMS)[who, Q_TRIPPED] = cells[cell]
        elif kind == FIELD_HAND:
            restore_hand(run, who, cell)
        elif kind == FIELD_LOCK and cells[cell + LOCK_THERE] == 1:
            oi[who, O_LOCKED] = 1
            oi[who, O_LOCK_MS] = t_ms
            oi[who, O_RELOCK] = 1
            oi[who, O_LOCK_AUTHOR] = cells[cell + LOCK_AUTHOR]
            first = int_table(run, LOADS_INTS)[who, L_FIRST]
            for at in range(cell + LOCK_FIRST, fields[f, F_END]):
                int_table(run, LOADS_NOW_CLAIMS)[first + at - cell - LOCK_FIRST, Q_NOTED] = cells[
                    at
                ]
        elif kind == FIELD_MOMENTS:
            held = cells[cell + MOMENTS_HELD]
            int_table(run, CALENDAR_NOW_SCHEDULES)[who, H_HELD] = held
            for i in range(held):
                int_table(run, CALENDAR_NOW_BEGUN)[who, i] = cells[cell + MOMENTS_FIRST + i]


@kernel
def boot(
    run: int,
    t_ms: int,
    running: bool,
) -> None:
    """State after power came back and the program began, at `t_ms`, or at the start of a run.

    A run that begins in the middle (`running`) obeys no boot rule: nothing is restored, nothing
    held at its start, and no boot is noted.
    """
    head = int_row(run, RUN_HEAD)
    head[H_BOOTED_MS] = t_ms
    head[H_FIRST] = 1
    head[H_FREE] = 1 if running else 0
    head[H_LISTENS] = 1
    head[H_LINES] = 1
    boot_probes(run, t_ms)
    boot_conditions(run, int_table(run, RUN_CONDITIONS))
    boot_controls(run)
    boot_doorways(run)
    for s in range(int_table(run, CALENDAR_SCHEDULES).shape[0]):
        int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_UNTIL_MS] = NEVER
        int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_NEXT] = int_table(run, CALENDAR_SCHEDULES)[
            s, C_MOMENT
        ]
        int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_ACTIVE] = 0
        int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_HELD] = 0
    boot_loads(run, t_ms)
    choose_slot(run)
    as_found(run)
    if running:
        return
    if head[H_SEEDS] == 1 and never_written(run):
        # In service, but without power from the run's first instant: it holds the defaults.
        seed(run, int_row(run, MEMORY_NOW_BASE))
    restore(run, t_ms)
    slot = int_row(run, MEMORY_NOW_HEADS)[Z_SLOT]
    sequence = int_row(run, MEMORY_NOW_HEADS)[Z_SEQUENCE]
    put_event(run, t_ms, EVENT_BOOT, 0, slot, sequence, 0, NOBODY, 0.0)
