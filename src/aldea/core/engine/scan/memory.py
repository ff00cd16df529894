"""What is retained: the fields as they are, when they are written, what a boot finds."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import FOREVER, NONE
from aldea.core.engine.scan.arrays import (
    COUNT_WRITES,
    H_FREE,
    H_SEEDS,
)
from aldea.core.engine.scan.retained import gather
from aldea.core.engine.scan.views import (
    LOADS_INTS,
    MEMORY_FIELDS,
    MEMORY_NOW_BASE,
    MEMORY_NOW_BEFORE,
    MEMORY_NOW_HEADS,
    MEMORY_NOW_NOW,
    MEMORY_NOW_SLOT_HEADS,
    MEMORY_NOW_SLOTS,
    MEMORY_NOW_SNAPSHOT,
    MEMORY_POLICY,
    OUT_CELLS,
    OUT_COUNTS,
    OUT_WRITES,
    PEOPLE_MODES,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    L_UNPOWERED,
)
from aldea.core.engine.tables.memory import (
    ABSENT,
    F_CELL,
    F_END,
    F_KIND,
    F_WHO,
    FIELD_LOAD,
    FIELD_MODE,
    FIELD_TRIP,
    SLOT_SEQUENCE,
    SLOT_VALID,
    Y_LATEST_MS,
    Y_LEAST_MS,
    Y_ON,
    Y_QUIET_MS,
    Z_BEFORE_SEQUENCE,
    Z_BEFORE_VALID,
    Z_CHANGED_MS,
    Z_FIRST_MS,
    Z_KNOWN,
    Z_LAST_SLOT,
    Z_SEQUENCE,
    Z_SLOT,
    Z_WRITTEN_MS,
)


@kernel
def as_found(run: int) -> None:
    """What stands in the chosen slot, or the defaults, as what was last written."""
    fields, base = int_table(run, MEMORY_FIELDS), int_row(run, MEMORY_NOW_BASE)
    slot = int_row(run, MEMORY_NOW_HEADS)[Z_SLOT]
    for f in range(fields.shape[0]):
        for cell in range(fields[f, F_CELL], fields[f, F_END]):
            base[cell] = int_table(run, MEMORY_NOW_SLOTS)[slot, cell] if slot != NONE else 0
        kind, cell = fields[f, F_KIND], fields[f, F_CELL]
        if kind == FIELD_LOAD and (slot == NONE or base[cell] == ABSENT):
            base[cell] = int_table(run, LOADS_INTS)[fields[f, F_WHO], L_UNPOWERED]
        elif kind == FIELD_MODE and slot == NONE:
            base[cell] = int_table(run, PEOPLE_MODES)[fields[f, F_WHO], 0]


@kernel
def choose_slot(run: int) -> None:
    """The newest valid slot; NONE where none is valid."""
    heads = int_row(run, MEMORY_NOW_HEADS)
    heads[Z_SLOT] = NONE
    heads[Z_SEQUENCE] = 0
    for slot in range(2):
        if int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_VALID] == 1:
            if (
                heads[Z_SLOT] == NONE
                or int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_SEQUENCE] > heads[Z_SEQUENCE]
            ):
                heads[Z_SLOT] = slot
                heads[Z_SEQUENCE] = int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_SEQUENCE]
    heads[Z_WRITTEN_MS] = NONE
    heads[Z_CHANGED_MS] = NONE
    heads[Z_FIRST_MS] = NONE
    heads[Z_KNOWN] = 0
    heads[Z_LAST_SLOT] = NONE


@kernel
def tear(run: int, after_bytes: int, record_bytes: int) -> None:
    """Of the last write only its first bytes were written when the power went."""
    slot = int_row(run, MEMORY_NOW_HEADS)[Z_LAST_SLOT]
    if slot == NONE or after_bytes >= record_bytes:
        return
    if after_bytes > 0:
        int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_VALID] = 0
        return
    int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_VALID] = int_row(run, MEMORY_NOW_HEADS)[
        Z_BEFORE_VALID
    ]
    int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_SEQUENCE] = int_row(run, MEMORY_NOW_HEADS)[
        Z_BEFORE_SEQUENCE
    ]
    for cell in range(int_row(run, MEMORY_NOW_BEFORE).shape[0]):
        int_table(run, MEMORY_NOW_SLOTS)[slot, cell] = int_row(run, MEMORY_NOW_BEFORE)[cell]


@kernel
def write(run: int, t_ms: int) -> None:
    """Write all fields into the slot that does not hold the newest valid record."""
    heads = int_row(run, MEMORY_NOW_HEADS)
    slot = 1 if heads[Z_SLOT] == 0 else 0
    heads[Z_LAST_SLOT] = slot
    heads[Z_BEFORE_VALID] = int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_VALID]
    heads[Z_BEFORE_SEQUENCE] = int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_SEQUENCE]
    heads[Z_SEQUENCE] += 1
    int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_VALID] = 1
    int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_SEQUENCE] = heads[Z_SEQUENCE]
    n = int_row(run, OUT_COUNTS)[COUNT_WRITES]
    room = n < int_table(run, OUT_WRITES).shape[0]
    for cell in range(int_row(run, MEMORY_NOW_NOW).shape[0]):
        int_row(run, MEMORY_NOW_BEFORE)[cell] = int_table(run, MEMORY_NOW_SLOTS)[slot, cell]
        int_table(run, MEMORY_NOW_SLOTS)[slot, cell] = int_row(run, MEMORY_NOW_NOW)[cell]
        int_row(run, MEMORY_NOW_BASE)[cell] = int_row(run, MEMORY_NOW_NOW)[cell]
        if room:
            int_table(run, OUT_CELLS)[n, cell] = int_row(run, MEMORY_NOW_NOW)[cell]
    if room:
        int_table(run, OUT_WRITES)[n, 0] = t_ms
        int_table(run, OUT_WRITES)[n, 1] = slot
        int_table(run, OUT_WRITES)[n, 2] = heads[Z_SEQUENCE]
    int_row(run, OUT_COUNTS)[COUNT_WRITES] = n + 1
    heads[Z_SLOT] = slot
    heads[Z_WRITTEN_MS] = t_ms
    heads[Z_CHANGED_MS] = NONE
    heads[Z_FIRST_MS] = NONE


@kernel
def differ(some: IntArray, other: IntArray) -> bool:
    """Whether two rows of cells differ."""
    for cell in range(some.shape[0]):
        if some[cell] != other[cell]:
            return True
    return False


@kernel
def urgent(run: int) -> bool:
    """Whether a trip latched or was reset in this scan."""
    for f in range(int_table(run, MEMORY_FIELDS).shape[0]):
        cell = int_table(run, MEMORY_FIELDS)[f, F_CELL]
        if (
            int_table(run, MEMORY_FIELDS)[f, F_KIND] == FIELD_TRIP
            and int_row(run, MEMORY_NOW_NOW)[cell] != int_row(run, MEMORY_NOW_SNAPSHOT)[cell]
        ):
            return True
    return False


@kernel
def seed(run: int, cells: IntArray) -> None:
    """Let what a run finds at its beginning stand in memory, as a board in service has it."""
    int_row(run, MEMORY_NOW_HEADS)[Z_SLOT] = 0
    int_row(run, MEMORY_NOW_HEADS)[Z_SEQUENCE] = 1
    int_table(run, MEMORY_NOW_SLOT_HEADS)[0, SLOT_VALID] = 1
    int_table(run, MEMORY_NOW_SLOT_HEADS)[0, SLOT_SEQUENCE] = 1
    for cell in range(cells.shape[0]):
        int_table(run, MEMORY_NOW_SLOTS)[0, cell] = cells[cell]


@kernel
def never_written(run: int) -> bool:
    """Whether no record was ever written, not even one that is torn."""
    for slot in range(2):
        if int_table(run, MEMORY_NOW_SLOT_HEADS)[slot, SLOT_SEQUENCE] != 0:
            return False
    return True


@kernel
def remember(run: int, t_ms: int) -> None:
    """Note what changed, and write it when the plan's policy says so."""
    policy = int_row(run, MEMORY_POLICY)
    heads = int_row(run, MEMORY_NOW_HEADS)
    if int_row(run, MEMORY_NOW_NOW).shape[0] == 0 or policy[Y_ON] == 0:
        return
    changed = gather(run, int_row(run, MEMORY_NOW_NOW))
    if heads[Z_KNOWN] == 1 and not changed and heads[Z_FIRST_MS] == NONE:
        return  # as it was a scan ago, and written then
    if heads[Z_KNOWN] == 0:  # what was found is the base; a boot alone writes nothing
        heads[Z_KNOWN] = 1
        for cell in range(int_row(run, MEMORY_NOW_NOW).shape[0]):
            if int_row(run, RUN_HEAD)[H_FREE] == 1:
                int_row(run, MEMORY_NOW_BASE)[cell] = int_row(run, MEMORY_NOW_NOW)[cell]
            int_row(run, MEMORY_NOW_SNAPSHOT)[cell] = int_row(run, MEMORY_NOW_BASE)[cell]
        if int_row(run, RUN_HEAD)[H_FREE] == 1 and int_row(run, RUN_HEAD)[H_SEEDS] == 1:
            seed(run, int_row(run, MEMORY_NOW_NOW))
    at_once = urgent(run)
    if differ(int_row(run, MEMORY_NOW_NOW), int_row(run, MEMORY_NOW_SNAPSHOT)):
        heads[Z_CHANGED_MS] = t_ms
        for cell in range(int_row(run, MEMORY_NOW_NOW).shape[0]):
            int_row(run, MEMORY_NOW_SNAPSHOT)[cell] = int_row(run, MEMORY_NOW_NOW)[cell]
    if not differ(int_row(run, MEMORY_NOW_NOW), int_row(run, MEMORY_NOW_BASE)):
        heads[Z_CHANGED_MS] = NONE
        heads[Z_FIRST_MS] = NONE
        return
    if heads[Z_FIRST_MS] == NONE:
        heads[Z_FIRST_MS] = t_ms
    changed_ms = heads[Z_CHANGED_MS]
    due = changed_ms != NONE and t_ms - changed_ms >= policy[Y_QUIET_MS]
    if policy[Y_LATEST_MS] != NONE and t_ms - heads[Z_FIRST_MS] >= policy[Y_LATEST_MS]:
        due = True
    apart = heads[Z_WRITTEN_MS] == NONE or t_ms - heads[Z_WRITTEN_MS] >= policy[Y_LEAST_MS]
    if at_once or (due and apart):
        write(run, t_ms)


@kernel
def next_write(run: int, t_ms: int) -> int:
    """The first instant after `t_ms` at which what is not yet written may be."""
    heads, policy = int_row(run, MEMORY_NOW_HEADS), int_row(run, MEMORY_POLICY)
    first = FOREVER
    if heads[Z_FIRST_MS] == NONE:
        return first
    if heads[Z_CHANGED_MS] != NONE:
        at = heads[Z_CHANGED_MS] + policy[Y_QUIET_MS]
        first = min(first, at if at > t_ms else FOREVER)
    if policy[Y_LATEST_MS] != NONE:
        at = heads[Z_FIRST_MS] + policy[Y_LATEST_MS]
        first = min(first, at if at > t_ms else FOREVER)
    if heads[Z_WRITTEN_MS] != NONE:
        at = heads[Z_WRITTEN_MS] + policy[Y_LEAST_MS]
        first = min(first, at if at > t_ms else FOREVER)
    return first
