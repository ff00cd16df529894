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
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FREE,
    H_LINES,
)
from aldea.core.engine.scan.events import put_line
from aldea.core.engine.scan.views import (
    LOADS_COMBOS,
    LOADS_EXCLUSIVE,
    LOADS_EXCLUSIVE_LINES,
    LOADS_INTS,
    LOADS_LINES,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
    LOADS_NOW_TURNS,
    LOADS_PARTS_MS,
    LOADS_PATTERNS,
    RUN_HEAD,
    int_row,
    int_table,
)
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
)


@kernel
def opened_lately(run: int, line: int, dead_ms: int, t_ms: int, period_ms: int) -> bool:
    """Whether a relay may have opened within a dead time, or in this very scan."""
    if int_row(run, RUN_HEAD)[H_FREE] == 0 and t_ms - int_row(run, RUN_HEAD)[H_BOOTED_MS] < dead_ms:
        return True  # what stood before the boot is not known
    return t_ms - int_table(run, LOADS_NOW_LINES)[line, W_OPENED_MS] < max(dead_ms, period_ms)


@kernel
def barred(run: int, line: int, first: int, end: int, t_ms: int, period_ms: int) -> bool:
    """Whether another load's exclusive relay, or one that waits for its turn, bars a relay."""
    bars = False
    for g in range(int_table(run, LOADS_EXCLUSIVE).shape[0]):
        begin, over = (
            int_table(run, LOADS_EXCLUSIVE)[g, X_FIRST],
            int_table(run, LOADS_EXCLUSIVE)[g, X_END],
        )
        mine = False
        for index in range(begin, over):
            mine = mine or int_row(run, LOADS_EXCLUSIVE_LINES)[index] == line
        if not mine:
            continue
        if int_row(run, LOADS_NOW_TURNS)[g] == 1:
            return True
        for index in range(begin, over):
            other = int_row(run, LOADS_EXCLUSIVE_LINES)[index]
            if first <= other < end:
                continue
            if int_table(run, LOADS_NOW_LINES)[other, W_CLOSED] == 1 or opened_lately(
                run, other, int_table(run, LOADS_EXCLUSIVE)[g, X_DEAD_MS], t_ms, period_ms
            ):
                int_row(run, LOADS_NOW_TURNS)[g] = 1
                return True
    return bars


@kernel
def close_contacts(run: int, load: int, target: int, t_ms: int, period_ms: int) -> int:
    """Bring the relays of a load to a state; what is missing where they are not there yet."""
    li, lines = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_LINES)
    first, end = li[load, L_LINE], li[load, L_LINE_END]
    combo = li[load, L_COMBO] + (min(target, 1) if li[load, L_PATTERNS] > 0 else target)
    closes = False
    for line in range(first, end):
        if int_table(run, LOADS_COMBOS)[combo, line - first] > lines[line, W_CLOSED]:
            closes = True
            if int_table(run, LOADS_EXCLUSIVE).shape[0] > 0:
                if barred(run, line, first, end, t_ms, period_ms):
                    return INHIBIT_EXCLUSIVE
    for line in range(first, end):
        if int_table(run, LOADS_COMBOS)[combo, line - first] < lines[line, W_CLOSED]:
            lines[line, W_CLOSED] = 0
            int_row(run, RUN_HEAD)[H_LINES] = 1
            lines[line, W_OPENED_MS] = t_ms
    if not closes:
        return INHIBIT_NONE
    if li[load, L_BREAKS] == 1:
        for line in range(first, end):
            if opened_lately(run, line, li[load, L_DEAD_MS], t_ms, period_ms):
                return INHIBIT_BREAK
    for line in range(first, end):
        if int_table(run, LOADS_COMBOS)[combo, line - first] == 1:
            lines[line, W_CLOSED] = 1
            int_row(run, RUN_HEAD)[H_LINES] = 1
    return INHIBIT_NONE


@kernel
def part_of_pattern(run: int, pattern: int, since_ms: int) -> int:
    """Twice the time left of the present part of a pattern, plus one where that part is on."""
    first, end = (
        int_table(run, LOADS_PATTERNS)[pattern, 0],
        int_table(run, LOADS_PATTERNS)[pattern, 1],
    )
    whole = 0
    for index in range(first, end):
        whole += int_row(run, LOADS_PARTS_MS)[index]
    left = since_ms % whole
    on = 1
    for index in range(first, end):
        if left < int_row(run, LOADS_PARTS_MS)[index]:
            return 2 * (int_row(run, LOADS_PARTS_MS)[index] - left) + on
        left -= int_row(run, LOADS_PARTS_MS)[index]
        on = 1 - on
    return 2 * whole


@kernel
def dark_part(run: int, oi: IntArray, load: int, t_ms: int) -> bool:
    """Whether a load that shows a pattern is in a dark part of it."""
    pattern = oi[load, O_STATE] - 2
    if int_table(run, LOADS_INTS)[load, L_PATTERNS] == 0 or pattern < 0:
        return False
    row = int_table(run, LOADS_INTS)[load, L_PATTERN] + pattern
    return part_of_pattern(run, row, t_ms - oi[load, O_PATTERN_MS]) % 2 == 0


@kernel
def drive_lines(run: int, t_ms: int) -> None:
    """The level of every relay's line: contact kind, polarity and pattern."""
    oi, lines = int_table(run, LOADS_NOW_INTS), int_table(run, LOADS_NOW_LINES)
    for load in range(oi.shape[0]):
        first, end = (
            int_table(run, LOADS_INTS)[load, L_LINE],
            int_table(run, LOADS_INTS)[load, L_LINE_END],
        )
        dark = dark_part(run, oi, load, t_ms)
        for line in range(first, end):
            conducts = lines[line, W_CLOSED] == 1 and not dark
            coil = conducts != (int_table(run, LOADS_LINES)[line, R_NC] == 1)
            level = 1 if coil != (int_table(run, LOADS_LINES)[line, R_LOW] == 1) else 0
            if level != lines[line, W_SHOWN]:
                lines[line, W_SHOWN] = level
                put_line(run, t_ms, line, level)


@kernel
def next_of_contacts(run: int, t_ms: int, period_ms: int) -> int:
    """The first instant after `t_ms` at which a dead time is over or a pattern changes."""
    oi, lines = int_table(run, LOADS_NOW_INTS), int_table(run, LOADS_NOW_LINES)
    first = FOREVER
    for load in range(oi.shape[0]):
        pattern = oi[load, O_STATE] - 2
        if int_table(run, LOADS_INTS)[load, L_PATTERNS] > 0 and pattern >= 0:
            row = int_table(run, LOADS_INTS)[load, L_PATTERN] + pattern
            left_ms = part_of_pattern(run, row, t_ms - oi[load, O_PATTERN_MS]) // 2
            first = min(first, t_ms + left_ms)
        if (
            oi[load, O_KEPT] == INHIBIT_BREAK
            and int_table(run, LOADS_INTS)[load, L_KIND] == KIND_STEADY
        ):
            booted = (
                int_row(run, RUN_HEAD)[H_BOOTED_MS]
                if int_row(run, RUN_HEAD)[H_FREE] == 0
                else NEVER
            )
            latest = booted
            for line in range(
                int_table(run, LOADS_INTS)[load, L_LINE],
                int_table(run, LOADS_INTS)[load, L_LINE_END],
            ):
                latest = max(latest, lines[line, W_OPENED_MS])
            first = min(
                first, max(latest + int_table(run, LOADS_INTS)[load, L_DEAD_MS], t_ms + period_ms)
            )
    for g in range(int_table(run, LOADS_EXCLUSIVE).shape[0]):
        if int_row(run, LOADS_NOW_TURNS)[g] == 0:
            continue
        dead_ms = max(int_table(run, LOADS_EXCLUSIVE)[g, X_DEAD_MS], period_ms)
        if (
            int_row(run, RUN_HEAD)[H_FREE] == 0
            and int_row(run, RUN_HEAD)[H_BOOTED_MS] + dead_ms > t_ms
        ):
            first = min(first, int_row(run, RUN_HEAD)[H_BOOTED_MS] + dead_ms)
        for index in range(
            int_table(run, LOADS_EXCLUSIVE)[g, X_FIRST], int_table(run, LOADS_EXCLUSIVE)[g, X_END]
        ):
            at = lines[int_row(run, LOADS_EXCLUSIVE_LINES)[index], W_OPENED_MS] + dead_ms
            if at > t_ms:
                first = min(first, at)
    return first
