"""Doorway pairs: two sides crossed in an order count people in and out."""

from aldea.core.engine.layout import FOREVER, NEVER, NONE
from aldea.core.engine.scan.calendar import first_after
from aldea.core.engine.scan.inputs import is_high
from aldea.core.engine.tables.run import RunTables

OUTER, INNER = 0, 1


def rises(run: RunTables, i: int) -> bool:
    """Whether an input has just risen."""
    return run.now.inputs[i].moved == 1 and is_high(run, i)


def cross_doorways(run: RunTables, at_ms: int) -> None:
    """One side, then the other within the time counts once; both at once tell no order."""
    for d in range(len(run.plan.doorways)):
        spec, now = run.plan.doorways[d], run.now.doorways[d]
        rose_outer, rose_inner = rises(run, spec.outer), rises(run, spec.inner)
        if now.side != NONE and at_ms - now.side_ms >= spec.within_ms:
            now.side = NONE
        if rose_outer and rose_inner:
            now.side = NONE
        elif rose_outer or rose_inner:
            side = OUTER if rose_outer else INNER
            if now.side != NONE and now.side != side:
                now.count = max(0, now.count + (1 if side == INNER else -1))
                now.side = NONE
            else:
                now.side = side
                now.side_ms = at_ms


def reset_counts(run: RunTables, t_ms: int) -> None:
    """A count goes to 0 at a reset instant that the clock reaches or jumps over, once each."""
    for d in range(len(run.plan.doorways)):
        reset_count(run, d, t_ms)


def reset_count(run: RunTables, d: int, t_ms: int) -> None:
    """Set the count to 0 where the known clock has come to a reset instant, each once."""
    now, resets = run.now.doorways[d], run.calendar.resets[d]
    if run.now.head.clock_known == 0:
        now.clock_ms = NEVER
        return
    clock_ms = t_ms + run.now.head.clock_base_ms
    passed = first_after(run.calendar.reset_ms, resets.first, resets.end, clock_ms)
    if passed > now.reset:
        if now.clock_ms != NEVER:  # only what was passed while the clock was known
            now.count = 0
        now.reset = passed
    now.clock_ms = clock_ms


def next_reset(run: RunTables) -> int:
    """The first instant at which a count goes to 0."""
    first = FOREVER
    for d in range(len(run.plan.doorways)):
        resets = run.calendar.resets[d]
        at = max(run.now.doorways[d].reset, resets.first)
        if run.now.head.clock_known == 1 and at < resets.end:
            first = min(first, run.calendar.reset_ms[at] - run.now.head.clock_base_ms)
    return first


def boot_doorways(run: RunTables) -> None:
    """After a boot the count is known only where it was retained, and no side has risen."""
    for d in range(len(run.plan.doorways)):
        now = run.now.doorways[d]
        now.count = 0
        now.side = NONE
        now.reset = run.calendar.resets[d].first
        now.clock_ms = NEVER
