"""What is retained: the fields as they are, when they are written, what a boot finds."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import FOREVER, NONE
from aldea.core.engine.scan.arrays import (
    H_FREE,
    H_SEEDS,
    OUT_WRITES,
    OutArrays,
    PlanArrays,
    StateArrays,
)
from aldea.core.engine.tables.conditions import C_NOW
from aldea.core.engine.tables.loads import (
    L_FIRST,
    L_UNPOWERED,
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
    MemoryPlan,
    MemoryState,
)
from aldea.core.engine.tables.people import D_COUNT, H_HELD


@kernel
def gather(plan: PlanArrays, state: StateArrays, now: IntArray) -> None:
    """Every field as it is now, into its cells."""
    oi, claims = state.loads.ints, state.loads.claims
    fields = plan.memory.fields
    for f in range(fields.shape[0]):
        kind, who, cell = fields[f, F_KIND], fields[f, F_WHO], fields[f, F_CELL]
        if kind == FIELD_LOAD:
            now[cell] = oi[who, O_STATE]
        elif kind == FIELD_MODE:
            now[cell] = state.people.modes[who]
        elif kind == FIELD_COUNT:
            now[cell] = state.people.doorways[who, D_COUNT]
        elif kind == FIELD_BAND:
            now[cell] = state.conditions[who, C_NOW]
        elif kind == FIELD_TRIP:
            now[cell] = claims[who, Q_TRIPPED]
        elif kind == FIELD_HAND:
            there = oi[who, O_HAND] != NONE
            now[cell + HAND_THERE] = 1 if there else 0
            now[cell + HAND_WANT] = oi[who, O_HAND] if there else 0
            now[cell + HAND_AUTHOR] = oi[who, O_HAND_AUTHOR] if there else 0
            now[cell + HAND_SCHOOL] = oi[who, O_HAND_SCHOOL] if there else 0
            now[cell + HAND_END] = oi[who, O_HAND_STORED_MS] if there else 0
        elif kind == FIELD_LOCK:
            locked = oi[who, O_LOCKED]
            now[cell + LOCK_THERE] = locked
            now[cell + LOCK_AUTHOR] = oi[who, O_LOCK_AUTHOR] if locked == 1 else 0
            first = plan.loads.ints[who, L_FIRST]
            for at in range(cell + LOCK_FIRST, fields[f, F_END]):
                now[at] = claims[first + at - cell - LOCK_FIRST, Q_NOTED] if locked == 1 else 0
        elif kind == FIELD_MOMENTS:
            held = state.calendar.schedules[who, H_HELD]
            now[cell + MOMENTS_HELD] = held
            for at in range(cell + MOMENTS_FIRST, fields[f, F_END]):
                i = at - cell - MOMENTS_FIRST
                now[at] = state.calendar.begun[who, i] if i < held else 0


@kernel
def as_found(plan: PlanArrays, memory: MemoryState) -> None:
    """What stands in the chosen slot, or the defaults, as what was last written."""
    fields, base = plan.memory.fields, memory.base
    slot = memory.heads[Z_SLOT]
    for f in range(fields.shape[0]):
        for cell in range(fields[f, F_CELL], fields[f, F_END]):
            base[cell] = memory.slots[slot, cell] if slot != NONE else 0
        kind, cell = fields[f, F_KIND], fields[f, F_CELL]
        if kind == FIELD_LOAD and (slot == NONE or base[cell] == ABSENT):
            base[cell] = plan.loads.ints[fields[f, F_WHO], L_UNPOWERED]
        elif kind == FIELD_MODE and slot == NONE:
            base[cell] = plan.people.modes[fields[f, F_WHO], 0]


@kernel
def choose_slot(memory: MemoryState) -> None:
    """The newest valid slot; NONE where none is valid."""
    heads = memory.heads
    heads[Z_SLOT] = NONE
    heads[Z_SEQUENCE] = 0
    for slot in range(2):
        if memory.slot_heads[slot, SLOT_VALID] == 1:
            if heads[Z_SLOT] == NONE or memory.slot_heads[slot, SLOT_SEQUENCE] > heads[Z_SEQUENCE]:
                heads[Z_SLOT] = slot
                heads[Z_SEQUENCE] = memory.slot_heads[slot, SLOT_SEQUENCE]
    heads[Z_WRITTEN_MS] = NONE
    heads[Z_CHANGED_MS] = NONE
    heads[Z_FIRST_MS] = NONE
    heads[Z_KNOWN] = 0
    heads[Z_LAST_SLOT] = NONE


@kernel
def tear(memory: MemoryState, after_bytes: int, record_bytes: int) -> None:
    """Of the last write only its first bytes were written when the power went."""
    slot = memory.heads[Z_LAST_SLOT]
    if slot == NONE or after_bytes >= record_bytes:
        return
    if after_bytes > 0:
        memory.slot_heads[slot, SLOT_VALID] = 0
        return
    memory.slot_heads[slot, SLOT_VALID] = memory.heads[Z_BEFORE_VALID]
    memory.slot_heads[slot, SLOT_SEQUENCE] = memory.heads[Z_BEFORE_SEQUENCE]
    for cell in range(memory.before.shape[0]):
        memory.slots[slot, cell] = memory.before[cell]


@kernel
def write(memory: MemoryState, t_ms: int, out: OutArrays) -> None:
    """Write all fields into the slot that does not hold the newest valid record."""
    heads = memory.heads
    slot = 1 if heads[Z_SLOT] == 0 else 0
    heads[Z_LAST_SLOT] = slot
    heads[Z_BEFORE_VALID] = memory.slot_heads[slot, SLOT_VALID]
    heads[Z_BEFORE_SEQUENCE] = memory.slot_heads[slot, SLOT_SEQUENCE]
    heads[Z_SEQUENCE] += 1
    memory.slot_heads[slot, SLOT_VALID] = 1
    memory.slot_heads[slot, SLOT_SEQUENCE] = heads[Z_SEQUENCE]
    n = out.counts[OUT_WRITES]
    room = n < out.writes.shape[0]
    for cell in range(memory.now.shape[0]):
        memory.before[cell] = memory.slots[slot, cell]
        memory.slots[slot, cell] = memory.now[cell]
        memory.base[cell] = memory.now[cell]
        if room:
            out.cells[n, cell] = memory.now[cell]
    if room:
        out.writes[n, 0] = t_ms
        out.writes[n, 1] = slot
        out.writes[n, 2] = heads[Z_SEQUENCE]
    out.counts[OUT_WRITES] = n + 1
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
def urgent(plan: MemoryPlan, memory: MemoryState) -> bool:
    """Whether a trip latched or was reset in this scan."""
    for f in range(plan.fields.shape[0]):
        cell = plan.fields[f, F_CELL]
        if plan.fields[f, F_KIND] == FIELD_TRIP and memory.now[cell] != memory.snapshot[cell]:
            return True
    return False


@kernel
def seed(memory: MemoryState) -> None:
    """Let what a run finds at its beginning stand in memory, as a board in service has it."""
    memory.heads[Z_SLOT] = 0
    memory.heads[Z_SEQUENCE] = 1
    memory.slot_heads[0, SLOT_VALID] = 1
    memory.slot_heads[0, SLOT_SEQUENCE] = 1
    for cell in range(memory.now.shape[0]):
        memory.slots[0, cell] = memory.now[cell]


@kernel
def remember(plan: PlanArrays, state: StateArrays, t_ms: int, out: OutArrays) -> None:
    """Note what changed, and write it when the plan's policy says so."""
    memory, policy = state.memory, plan.memory.policy
    heads = memory.heads
    if memory.now.shape[0] == 0 or policy[Y_ON] == 0:
        return
    gather(plan, state, memory.now)
    if heads[Z_KNOWN] == 0:  # what was found is the base; a boot alone writes nothing
        heads[Z_KNOWN] = 1
        for cell in range(memory.now.shape[0]):
            if state.head[H_FREE] == 1:
                memory.base[cell] = memory.now[cell]
            memory.snapshot[cell] = memory.base[cell]
        if state.head[H_FREE] == 1 and state.head[H_SEEDS] == 1:
            seed(memory)
    at_once = urgent(plan.memory, memory)
    if differ(memory.now, memory.snapshot):
        heads[Z_CHANGED_MS] = t_ms
        for cell in range(memory.now.shape[0]):
            memory.snapshot[cell] = memory.now[cell]
    if not differ(memory.now, memory.base):
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
        write(memory, t_ms, out)


@kernel
def next_write(plan: MemoryPlan, memory: MemoryState, t_ms: int) -> int:
    """The first instant after `t_ms` at which what is not yet written may be."""
    heads, policy = memory.heads, plan.policy
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
