"""The input layer: digital inputs change at instants of their own, also between two scans.

A level counts when it has stood longer than the debounce time of its input; its edge has the
instant of the change plus that time. Who is about edges takes them in order of their instants; who
is about levels reads the one that counts at the scan.
"""

from aldea.core.engine.layout import FOREVER
from aldea.core.engine.tables.run import RunTables


def find_levels(run: RunTables, t_ms: int) -> None:
    """The levels found at a boot count at once and are no edges; what came before it is lost."""
    at, levels = run.now.cursor, run.inputs.levels
    while at.level < len(levels) and levels[at.level].t_ms <= t_ms:
        last_level = levels[at.level]
        run.now.inputs[last_level.input].raw = last_level.level
        at.level += 1
    for i in range(len(run.plan.inputs)):
        now = run.now.inputs[i]
        now.raw_ms = t_ms
        now.level = now.raw
        now.before = now.raw
        now.flipped = 0
        now.moved = 0


def level_at(run: RunTables, i: int, t_ms: int) -> int:
    """The level of an input that counts at an instant, before its edges are taken."""
    debounce_ms, now, levels = run.plan.inputs[i].debounce_ms, run.now.inputs[i], run.inputs.levels
    raw, raw_ms, level = now.raw, now.raw_ms, now.level
    row = run.now.cursor.level
    while row < len(levels) and levels[row].t_ms <= t_ms:
        change = levels[row]
        if change.input == i and change.level != raw:
            if raw_ms + debounce_ms < change.t_ms:
                level = raw
            raw = change.level
            raw_ms = change.t_ms
        row += 1
    return raw if raw_ms + debounce_ms <= t_ms else level


def begin_span(run: RunTables) -> None:
    """What a scan takes begins where the one before it ended."""
    for i in range(len(run.plan.inputs)):
        now = run.now.inputs[i]
        now.before = now.level
        now.flipped = 0


def next_edge(run: RunTables) -> int:
    """The first instant at which an input changes, or a level that stands begins to count."""
    at, first = run.now.cursor, FOREVER
    if at.level < len(run.inputs.levels):
        first = run.inputs.levels[at.level].t_ms
    for i in range(len(run.plan.inputs)):
        now = run.now.inputs[i]
        if now.raw != now.level:
            first = min(first, now.raw_ms + run.plan.inputs[i].debounce_ms)
    return first


def take_edges(run: RunTables, at_ms: int) -> None:
    """The changes of an instant, then the edges that it has; one left at it does not count."""
    at, levels = run.now.cursor, run.inputs.levels
    while at.level < len(levels) and levels[at.level].t_ms <= at_ms:
        change = levels[at.level]
        now = run.now.inputs[change.input]
        if change.level != now.raw:
            now.raw = change.level
            now.raw_ms = at_ms
        at.level += 1
    for i in range(len(run.plan.inputs)):
        now = run.now.inputs[i]
        now.moved = 0
        if now.raw != now.level and now.raw_ms + run.plan.inputs[i].debounce_ms <= at_ms:
            if (now.raw == 0) != (now.level == 0):
                now.flipped = 1
            now.level = now.raw
            now.moved = 1


def is_high(run: RunTables, i: int) -> bool:
    """The level that counts at the scan."""
    return run.now.inputs[i].level != 0


def shown_high(run: RunTables, i: int) -> bool:
    """The same for a condition: what was otherwise between two scans is so in one of them."""
    now = run.now.inputs[i]
    high = now.level != 0
    there_and_back = now.flipped == 1 and high == (now.before != 0)
    return not high if there_and_back else high


def end_span(run: RunTables) -> None:
    """A level that was otherwise in between is shown in this scan: the next one sees it back."""
    for i in range(len(run.plan.inputs)):
        now = run.now.inputs[i]
        now.moved = 0
        if now.flipped == 1 and (now.level != 0) == (now.before != 0):
            run.now.head.stirred = 1
