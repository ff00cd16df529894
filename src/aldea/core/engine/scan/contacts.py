"""The last stage: relays that open first and close after, exclusive ones, patterns, lines."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_BREAK,
    INHIBIT_EXCLUSIVE,
    INHIBIT_NONE,
    KIND_STEADY,
    NEVER,
)
from aldea.core.engine.scan.arrays import H_BOOTED_MS, H_FREE, OutArrays, PlanArrays, StateArrays
from aldea.core.engine.scan.events import put_line
from aldea.core.engine.tables.loads import (
    L_BREAKS,
    L_COMBO,
    L_DEAD_MS,
    L_KIND,
    L_LINE,
    L_LINE_END,
    L_PATTERN,
    L_PATTERNS,
    O_KEPT,
    O_PATTERN_MS,
    O_STATE,
    R_LOW,
    R_NC,
    W_CLOSED,
    W_OPENED_MS,
    W_SHOWN,
    X_DEAD_MS,
    X_END,
    X_FIRST,
    LoadPlan,
)


@kernel
def opened_lately(state: StateArrays, line: int, dead_ms: int, t_ms: int, period_ms: int) -> bool:
    """Whether a relay may have opened within a dead time, or in this very scan."""
    if state.head[H_FREE] == 0 and t_ms - state.head[H_BOOTED_MS] < dead_ms:
        return True  # what stood before the boot is not known
    return t_ms - state.loads.lines[line, W_OPENED_MS] < max(dead_ms, period_ms)


@kernel
def barred(
    plan: LoadPlan, state: StateArrays, line: int, first: int, end: int, t_ms: int, period_ms: int
) -> bool:
    """Whether another load's exclusive relay, or one that waits for its turn, bars a relay."""
    bars = False
    for g in range(plan.exclusive.shape[0]):
        begin, over = plan.exclusive[g, X_FIRST], plan.exclusive[g, X_END]
        mine = False
        for index in range(begin, over):
            mine = mine or plan.exclusive_lines[index] == line
        if not mine:
            continue
        if state.loads.turns[g] == 1:
            return True
        for index in range(begin, over):
            other = plan.exclusive_lines[index]
            if first <= other < end:
                continue
            if state.loads.lines[other, W_CLOSED] == 1 or opened_lately(
                state, other, plan.exclusive[g, X_DEAD_MS], t_ms, period_ms
            ):
                state.loads.turns[g] = 1
                return True
    return bars


@kernel
def close_contacts(
    plan: PlanArrays, state: StateArrays, load: int, target: int, t_ms: int, period_ms: int
) -> int:
    """Bring the relays of a load to a state; what is missing where they are not there yet."""
    li, lines = plan.loads.ints, state.loads.lines
    first, end = li[load, L_LINE], li[load, L_LINE_END]
    combo = li[load, L_COMBO] + (min(target, 1) if li[load, L_PATTERNS] > 0 else target)
    closes = False
    for line in range(first, end):
        if plan.loads.combos[combo, line - first] > lines[line, W_CLOSED]:
            closes = True
            if plan.loads.exclusive.shape[0] > 0:
                if barred(plan.loads, state, line, first, end, t_ms, period_ms):
                    return INHIBIT_EXCLUSIVE
    for line in range(first, end):
        if plan.loads.combos[combo, line - first] < lines[line, W_CLOSED]:
            lines[line, W_CLOSED] = 0
            lines[line, W_OPENED_MS] = t_ms
    if not closes:
        return INHIBIT_NONE
    if li[load, L_BREAKS] == 1:
        for line in range(first, end):
            if opened_lately(state, line, li[load, L_DEAD_MS], t_ms, period_ms):
                return INHIBIT_BREAK
    for line in range(first, end):
        if plan.loads.combos[combo, line - first] == 1:
            lines[line, W_CLOSED] = 1
    return INHIBIT_NONE


@kernel
def part_of_pattern(plan: LoadPlan, pattern: int, since_ms: int) -> int:
    """Twice the time left of the present part of a pattern, plus one where that part is on."""
    first, end = plan.patterns[pattern, 0], plan.patterns[pattern, 1]
    whole = 0
    for index in range(first, end):
        whole += plan.parts_ms[index]
    left = since_ms % whole
    on = 1
    for index in range(first, end):
        if left < plan.parts_ms[index]:
            return 2 * (plan.parts_ms[index] - left) + on
        left -= plan.parts_ms[index]
        on = 1 - on
    return 2 * whole


@kernel
def dark_part(plan: LoadPlan, oi: IntArray, load: int, t_ms: int) -> bool:
    """Whether a load that shows a pattern is in a dark part of it."""
    pattern = oi[load, O_STATE] - 2
    if plan.ints[load, L_PATTERNS] == 0 or pattern < 0:
        return False
    row = plan.ints[load, L_PATTERN] + pattern
    return part_of_pattern(plan, row, t_ms - oi[load, O_PATTERN_MS]) % 2 == 0


@kernel
def drive_lines(plan: LoadPlan, state: StateArrays, t_ms: int, out: OutArrays) -> None:
    """The level of every relay's line: contact kind, polarity and pattern."""
    oi, lines = state.loads.ints, state.loads.lines
    for load in range(oi.shape[0]):
        first, end = plan.ints[load, L_LINE], plan.ints[load, L_LINE_END]
        dark = dark_part(plan, oi, load, t_ms)
        for line in range(first, end):
            conducts = lines[line, W_CLOSED] == 1 and not dark
            coil = conducts != (plan.lines[line, R_NC] == 1)
            level = 1 if coil != (plan.lines[line, R_LOW] == 1) else 0
            if level != lines[line, W_SHOWN]:
                lines[line, W_SHOWN] = level
                put_line(out, t_ms, line, level)


@kernel
def next_of_contacts(plan: LoadPlan, state: StateArrays, t_ms: int, period_ms: int) -> int:
    """The first instant after `t_ms` at which a dead time is over or a pattern changes."""
    oi, lines = state.loads.ints, state.loads.lines
    first = FOREVER
    for load in range(oi.shape[0]):
        pattern = oi[load, O_STATE] - 2
        if plan.ints[load, L_PATTERNS] > 0 and pattern >= 0:
            row = plan.ints[load, L_PATTERN] + pattern
            left_ms = part_of_pattern(plan, row, t_ms - oi[load, O_PATTERN_MS]) // 2
            first = min(first, t_ms + left_ms)
        if oi[load, O_KEPT] == INHIBIT_BREAK and plan.ints[load, L_KIND] == KIND_STEADY:
            booted = state.head[H_BOOTED_MS] if state.head[H_FREE] == 0 else NEVER
            latest = booted
            for line in range(plan.ints[load, L_LINE], plan.ints[load, L_LINE_END]):
                latest = max(latest, lines[line, W_OPENED_MS])
            first = min(first, max(latest + plan.ints[load, L_DEAD_MS], t_ms + period_ms))
    for g in range(plan.exclusive.shape[0]):
        if state.loads.turns[g] == 0:
            continue
        dead_ms = max(plan.exclusive[g, X_DEAD_MS], period_ms)
        if state.head[H_FREE] == 0 and state.head[H_BOOTED_MS] + dead_ms > t_ms:
            first = min(first, state.head[H_BOOTED_MS] + dead_ms)
        for index in range(plan.exclusive[g, X_FIRST], plan.exclusive[g, X_END]):
            at = lines[plan.exclusive_lines[index], W_OPENED_MS] + dead_ms
            if at > t_ms:
                first = min(first, at)
    return first
