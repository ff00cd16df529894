"""What is retained: the fields as they are, when they are written, what a boot finds."""

from aldea.core.engine.layout import FOREVER, NONE
from aldea.core.engine.scan.retained import gather
from aldea.core.engine.tables.memory import (
    ABSENT,
    FIELD_LOAD,
    FIELD_MODE,
    FIELD_NOT_ARRIVING,
    FIELD_TRIP,
)
from aldea.core.engine.tables.rows import I64, Cells
from aldea.core.engine.tables.run import RunTables


def as_found(run: RunTables) -> None:
    """What stands in the chosen slot, or the defaults, as what was last written."""
    slot = run.now.memory.slot
    in_slot = slot * len(run.now.cells)
    for f in range(len(run.plan.fields)):
        field = run.plan.fields[f]
        for cell in range(field.cell, field.end):
            run.now.base[cell] = run.now.slot_cells[in_slot + cell] if slot != NONE else 0
        if field.kind == FIELD_LOAD and (slot == NONE or run.now.base[field.cell] == ABSENT):
            run.now.base[field.cell] = run.plan.loads[field.who].unpowered
        elif field.kind == FIELD_MODE and slot == NONE:
            run.now.base[field.cell] = run.plan.modes[field.who].start


def choose_slot(run: RunTables) -> None:
    """The newest valid slot; NONE where none is valid."""
    memory = run.now.memory
    memory.slot = NONE
    memory.sequence = 0
    for s in range(2):
        slot = run.now.slots[s]
        if slot.valid == 1:
            if memory.slot == NONE or slot.sequence > memory.sequence:
                memory.slot = s
                memory.sequence = slot.sequence
    memory.written_ms = NONE
    memory.changed_ms = NONE
    memory.first_ms = NONE
    memory.known = 0
    memory.last_slot = NONE


def tear(run: RunTables, after_bytes: int) -> None:
    """Of the last write only its first bytes were written when the power went."""
    memory = run.now.memory
    if memory.last_slot == NONE or after_bytes >= run.plan.policy.bytes:
        return
    slot = run.now.slots[memory.last_slot]
    if after_bytes > 0:
        slot.valid = 0
        return
    slot.valid = memory.before_valid
    slot.sequence = memory.before_sequence
    in_slot = memory.last_slot * len(run.now.cells)
    for cell in range(len(run.now.before)):
        run.now.slot_cells[in_slot + cell] = run.now.before[cell]


def write_record(run: RunTables, t_ms: int) -> None:
    """Write all fields into the slot that does not hold the newest valid record."""
    memory = run.now.memory
    s = 1 if memory.slot == 0 else 0
    slot = run.now.slots[s]
    memory.last_slot = s
    memory.before_valid = slot.valid
    memory.before_sequence = slot.sequence
    memory.sequence += 1
    slot.valid = 1
    slot.sequence = memory.sequence
    cells, in_slot = len(run.now.cells), s * len(run.now.cells)
    n = run.out.counts.writes
    room = n < len(run.out.writes)
    for cell in range(cells):
        value = run.now.cells[cell]
        run.now.before[cell] = run.now.slot_cells[in_slot + cell]
        run.now.slot_cells[in_slot + cell] = value
        run.now.base[cell] = value
        if room:
            run.out.cells[n * cells + cell] = value
    if room:
        record = run.out.writes[n]
        record.t_ms = t_ms
        record.slot = s
        record.sequence = memory.sequence
    run.out.counts.writes = n + 1
    memory.slot = s
    memory.written_ms = t_ms
    memory.changed_ms = NONE
    memory.first_ms = NONE


def differ(some: Cells[I64], other: Cells[I64], count: int) -> bool:
    """Whether two rows of cells differ."""
    for cell in range(count):
        if some[cell] != other[cell]:
            return True
    return False


def urgent(run: RunTables) -> bool:
    """Whether a trip latched or was reset in this scan, or a drive was locked out or freed."""
    for f in range(len(run.plan.fields)):
        field = run.plan.fields[f]
        changed = run.now.cells[field.cell] != run.now.snapshot[field.cell]
        if changed and (field.kind == FIELD_TRIP or field.kind == FIELD_NOT_ARRIVING):
            return True
    return False


def seed(run: RunTables, cells: Cells[I64]) -> None:
    """Let what a run finds at its beginning stand in memory, as a board in service has it."""
    run.now.memory.slot = 0
    run.now.memory.sequence = 1
    run.now.slots[0].valid = 1
    run.now.slots[0].sequence = 1
    for cell in range(len(run.now.cells)):
        run.now.slot_cells[cell] = cells[cell]


def never_written(run: RunTables) -> bool:
    """Whether no record was ever written, not even one that is torn."""
    return run.now.slots[0].sequence == 0 and run.now.slots[1].sequence == 0


def remember(run: RunTables, t_ms: int) -> None:
    """Note what changed, and write it when the plan's policy says so."""
    memory, policy, free = run.now.memory, run.plan.policy, run.now.head.free == 1
    cells = len(run.now.cells)
    if cells == 0 or policy.on == 0:
        return
    changed = gather(run)
    if memory.known == 1 and not changed and memory.first_ms == NONE:
        return  # as it was a scan ago, and written then
    if memory.known == 0:  # what was found is the base; a boot alone writes nothing
        memory.known = 1
        for cell in range(cells):
            if free:
                run.now.base[cell] = run.now.cells[cell]
            run.now.snapshot[cell] = run.now.base[cell]
        if free and run.now.head.seeds == 1:
            seed(run, run.now.cells)
    at_once = urgent(run)
    if differ(run.now.cells, run.now.snapshot, cells):
        memory.changed_ms = t_ms
        for cell in range(cells):
            run.now.snapshot[cell] = run.now.cells[cell]
    if not differ(run.now.cells, run.now.base, cells):
        memory.changed_ms = NONE
        memory.first_ms = NONE
        return
    if memory.first_ms == NONE:
        memory.first_ms = t_ms
    due = memory.changed_ms != NONE and t_ms - memory.changed_ms >= policy.quiet_ms
    if policy.latest_ms != NONE and t_ms - memory.first_ms >= policy.latest_ms:
        due = True
    apart = memory.written_ms == NONE or t_ms - memory.written_ms >= policy.least_ms
    if at_once or (due and apart):
        write_record(run, t_ms)


def next_write(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which what is not yet written may be."""
    memory, policy = run.now.memory, run.plan.policy
    first = FOREVER
    if memory.first_ms == NONE:
        return first
    if memory.changed_ms != NONE:
        quiet_ms = memory.changed_ms + policy.quiet_ms
        first = min(first, quiet_ms if quiet_ms > t_ms else FOREVER)
    if policy.latest_ms != NONE:
        latest_ms = memory.first_ms + policy.latest_ms
        first = min(first, latest_ms if latest_ms > t_ms else FOREVER)
    if memory.written_ms != NONE:
        least_ms = memory.written_ms + policy.least_ms
        first = min(first, least_ms if least_ms > t_ms else FOREVER)
    return first
