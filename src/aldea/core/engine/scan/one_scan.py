"""One scan, its stages in the order of ENGINE.md; and when the next one can matter."""

from aldea.core.engine.layout import KIND_DRIVE, KIND_TWO_WAY
from aldea.core.engine.scan.calendar import judge_schedules, next_of_calendar
from aldea.core.engine.scan.conditions import judge_conditions, next_of_conditions
from aldea.core.engine.scan.contacts import drive_lines, next_of_contacts
from aldea.core.engine.scan.derived import derive
from aldea.core.engine.scan.doorways import next_reset, reset_counts
from aldea.core.engine.scan.drive import hold_drive, next_of_drives
from aldea.core.engine.scan.holds import hold_steady, next_of_holds
from aldea.core.engine.scan.memory import next_write, remember
from aldea.core.engine.scan.movement import sense_drives
from aldea.core.engine.scan.people import hear_people, next_of_controls
from aldea.core.engine.scan.say import say, want_of
from aldea.core.engine.scan.say_next import next_of_rules, somebody_listens
from aldea.core.engine.scan.trust import judge_probes
from aldea.core.engine.scan.two_way import hold_two_way, next_of_two_way, sense_two_way
from aldea.core.engine.tables.run import (
    HAS_CONTROLS,
    HAS_DERIVED,
    HAS_DOORWAYS,
    HAS_DRIVES,
    HAS_MEMORY,
    HAS_PATTERNS,
    HAS_SCHEDULES,
    HAS_TWO_WAY,
    RunTables,
)


def trust(run: RunTables, t_ms: int) -> None:
    """What the samples of this scan come to, and what is sensed; before people are heard."""
    judge_probes(run, t_ms)
    if run.now.head.has & HAS_DERIVED:
        derive(run)
    if run.now.head.has & HAS_TWO_WAY:
        sense_two_way(run, t_ms)
    if run.now.head.has & HAS_DRIVES:
        sense_drives(run, t_ms)


def decide(run: RunTables, t_ms: int, period_ms: int) -> None:
    """From what people do to what is written: the rest of the scan."""
    head = run.now.head
    has = head.has
    if has & HAS_CONTROLS:
        hear_people(run, t_ms)
    if has & HAS_DOORWAYS:
        reset_counts(run, t_ms)
    if has & HAS_SCHEDULES:
        judge_schedules(run, t_ms)
    judge_conditions(run, t_ms)
    loads = len(run.plan.loads)
    for load in range(loads):
        decided = run.now.loads[load]
        decided.chosen = say(run, load, t_ms)
        decided.chosen_want = want_of(run, load, decided.chosen)
    for g in range(len(run.now.turns)):
        run.now.turns[g] = 0
    for load in range(loads):
        kind = run.plan.loads[load].kind
        if kind == KIND_TWO_WAY:
            hold_two_way(run, load, t_ms)
        elif kind == KIND_DRIVE:
            hold_drive(run, load, t_ms)
        else:
            hold_steady(run, load, t_ms, period_ms)
    if head.lines == 1 or has & HAS_PATTERNS:
        head.lines = 0
        drive_lines(run, t_ms)
    if has & HAS_MEMORY:
        remember(run, t_ms)
    if head.first == 1:
        head.stirred = 1  # what a drive is found as is read by conditions in the next scan
    head.first = 0


def next_instant(run: RunTables, t_ms: int, period_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which something can change by itself.

    Where this scan changed something that the next one reads, that is the next one.
    """
    head = run.now.head
    if head.stirred == 1:
        head.stirred = 0
        return t_ms + 1
    if head.listens == 1 and not somebody_listens(run):
        head.listens = 0
    has = head.has
    first = min(next_of_conditions(run, t_ms), next_of_rules(run, t_ms))
    first = min(first, next_of_holds(run, t_ms))
    first = min(first, next_of_contacts(run, t_ms, period_ms))
    if has & HAS_CONTROLS:
        first = min(first, next_of_controls(run, t_ms))
    if has & HAS_DOORWAYS:
        first = min(first, next_reset(run))
    if has & HAS_SCHEDULES:
        first = min(first, next_of_calendar(run, t_ms))
    if has & HAS_TWO_WAY:
        first = min(first, next_of_two_way(run))
    if has & HAS_DRIVES:
        first = min(first, next_of_drives(run))
    if has & HAS_MEMORY:
        first = min(first, next_write(run, t_ms))
    return first
