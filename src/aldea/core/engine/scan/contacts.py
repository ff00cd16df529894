"""The last stage: relays that open first and close after, exclusive ones, patterns, lines."""

from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_BREAK,
    INHIBIT_EXCLUSIVE,
    INHIBIT_NONE,
    KIND_STEADY,
    NEVER,
)
from aldea.core.engine.scan.events import put_line
from aldea.core.engine.tables.run import RunTables


def opened_lately(run: RunTables, line: int, dead_ms: int, t_ms: int, period_ms: int) -> bool:
    """Whether a relay may have opened within a dead time, or in this very scan."""
    if run.now.head.free == 0 and t_ms - run.now.head.booted_ms < dead_ms:
        return True  # what stood before the boot is not known
    return t_ms - run.now.lines[line].opened_ms < max(dead_ms, period_ms)


def barred(run: RunTables, line: int, first: int, end: int, t_ms: int, period_ms: int) -> bool:
    """Whether another load's exclusive relay, or one that waits for its turn, bars a relay."""
    for g in range(len(run.plan.exclusive)):
        group = run.plan.exclusive[g]
        mine = False
        for index in range(group.first, group.end):
            if run.plan.exclusive_lines[index] == line:
                mine = True
        if not mine:
            continue
        if run.now.turns[g] == 1:
            return True
        for index in range(group.first, group.end):
            other = run.plan.exclusive_lines[index]
            if first <= other < end:
                continue
            closed = run.now.lines[other].closed == 1
            if closed or opened_lately(run, other, group.dead_ms, t_ms, period_ms):
                run.now.turns[g] = 1
                return True
    return False


def close_contacts(run: RunTables, load: int, target: int, t_ms: int, period_ms: int) -> int:
    """Bring the relays of a load to a state; what is missing where they are not there yet."""
    spec = run.plan.loads[load]
    first, end = spec.line, spec.line_end
    state = min(target, 1) if spec.patterns > 0 else target
    combo = spec.combo + state * (end - first)
    closes = False
    for line in range(first, end):
        if run.plan.combos[combo + line - first] > run.now.lines[line].closed:
            closes = True
            if len(run.plan.exclusive) > 0:
                if barred(run, line, first, end, t_ms, period_ms):
                    return INHIBIT_EXCLUSIVE
    for line in range(first, end):
        relay = run.now.lines[line]
        if run.plan.combos[combo + line - first] < relay.closed:
            relay.closed = 0
            relay.opened_ms = t_ms
            run.now.head.lines = 1
    if not closes:
        return INHIBIT_NONE
    if spec.breaks == 1:
        for line in range(first, end):
            if opened_lately(run, line, spec.dead_ms, t_ms, period_ms):
                return INHIBIT_BREAK
    for line in range(first, end):
        if run.plan.combos[combo + line - first] == 1:
            run.now.lines[line].closed = 1
            run.now.head.lines = 1
    return INHIBIT_NONE


def part_of_pattern(run: RunTables, pattern: int, since_ms: int) -> int:
    """Twice the time left of the present part of a pattern, plus one where that part is on.

    A pattern of no length is dark and stays as it is.
    """
    spec = run.plan.patterns[pattern]
    whole_ms = 0
    for index in range(spec.first, spec.end):
        whole_ms += run.plan.parts_ms[index]
    if whole_ms <= 0:
        return FOREVER
    left_ms = since_ms % whole_ms
    on = 1
    for index in range(spec.first, spec.end):
        if left_ms < run.plan.parts_ms[index]:
            return 2 * (run.plan.parts_ms[index] - left_ms) + on
        left_ms -= run.plan.parts_ms[index]
        on = 1 - on
    return 2 * whole_ms


def dark_part(run: RunTables, load: int, t_ms: int) -> bool:
    """Whether a load that shows a pattern is in a dark part of it."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    pattern = now.state - 2
    if spec.patterns == 0 or pattern < 0:
        return False
    return part_of_pattern(run, spec.pattern + pattern, t_ms - now.pattern_ms) % 2 == 0


def drive_lines(run: RunTables, t_ms: int) -> None:
    """The level of every relay's line: contact kind, polarity and pattern."""
    for load in range(len(run.plan.loads)):
        spec = run.plan.loads[load]
        dark = dark_part(run, load, t_ms)
        for line in range(spec.line, spec.line_end):
            wired, relay = run.plan.lines[line], run.now.lines[line]
            conducts = relay.closed == 1 and not dark
            coil = conducts != (wired.nc == 1)
            level = 1 if coil != (wired.low == 1) else 0
            if level != relay.shown:
                relay.shown = level
                put_line(run, t_ms, line, level)


def next_of_contacts(run: RunTables, t_ms: int, period_ms: int) -> int:
    """The first instant after `t_ms` at which a dead time is over or a pattern changes."""
    first = FOREVER
    for load in range(len(run.plan.loads)):
        spec, now = run.plan.loads[load], run.now.loads[load]
        pattern = now.state - 2
        if spec.patterns > 0 and pattern >= 0:
            part = part_of_pattern(run, spec.pattern + pattern, t_ms - now.pattern_ms)
            first = min(first, t_ms + part // 2)
        if now.kept == INHIBIT_BREAK and spec.kind == KIND_STEADY:
            latest_ms = run.now.head.booted_ms if run.now.head.free == 0 else NEVER
            for line in range(spec.line, spec.line_end):
                latest_ms = max(latest_ms, run.now.lines[line].opened_ms)
            first = min(first, max(latest_ms + spec.dead_ms, t_ms + period_ms))
    for g in range(len(run.plan.exclusive)):
        group = run.plan.exclusive[g]
        if run.now.turns[g] == 0:
            continue
        dead_ms = max(group.dead_ms, period_ms)
        if run.now.head.free == 0 and run.now.head.booted_ms + dead_ms > t_ms:
            first = min(first, run.now.head.booted_ms + dead_ms)
        for index in range(group.first, group.end):
            at_ms = run.now.lines[run.plan.exclusive_lines[index]].opened_ms + dead_ms
            if at_ms > t_ms:
                first = min(first, at_ms)
    return first
