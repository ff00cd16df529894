"""One scan, its stages in the order of ENGINE.md; and when the next one can matter."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import KIND_DRIVE, KIND_TWO_WAY
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FIRST,
    H_HAS,
    H_LINES,
    H_LISTENS,
    H_STIRRED,
    HAS_CONTROLS,
    HAS_DERIVED,
    HAS_DOORWAYS,
    HAS_DRIVES,
    HAS_MEMORY,
    HAS_PATTERNS,
    HAS_SCHEDULES,
    HAS_TWO_WAY,
)
from aldea.core.engine.scan.calendar import judge_schedules, next_of_calendar
from aldea.core.engine.scan.conditions import judge_conditions, next_of_conditions
from aldea.core.engine.scan.contacts import drive_lines, next_of_contacts
from aldea.core.engine.scan.derived import derive
from aldea.core.engine.scan.doorways import count_doorways, next_reset
from aldea.core.engine.scan.drive import hold_drive, next_of_drives
from aldea.core.engine.scan.holds import hold_steady, next_of_holds
from aldea.core.engine.scan.memory import next_write, remember
from aldea.core.engine.scan.people import next_of_controls, work_controls
from aldea.core.engine.scan.say import say, want_of
from aldea.core.engine.scan.say_next import next_of_claims, somebody_listens
from aldea.core.engine.scan.trust import judge_probes
from aldea.core.engine.scan.two_way import hold_two_way, next_of_two_way, sense_two_way
from aldea.core.engine.scan.views import (
    LOADS_INTS,
    LOADS_NOW_INTS,
    LOADS_NOW_TURNS,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import L_KIND


@kernel
def trust(run: int, t_ms: int) -> None:
    """What the samples of this scan come to, and what is sensed; before people are heard."""
    judge_probes(run, t_ms, int_row(run, RUN_HEAD)[H_BOOTED_MS])
    if int_row(run, RUN_HEAD)[H_HAS] & HAS_DERIVED:
        derive(run, int_table(run, LOADS_NOW_INTS))
    if int_row(run, RUN_HEAD)[H_HAS] & HAS_TWO_WAY:
        sense_two_way(run, t_ms)


@kernel
def decide(
    run: int,
    t_ms: int,
    period_ms: int,
    deciders: IntArray,
) -> None:
    """From what people do to what is written: the rest of the scan."""
    head = int_row(run, RUN_HEAD)
    has = head[H_HAS]
    if has & HAS_CONTROLS:
        work_controls(run, t_ms)
    if has & HAS_DOORWAYS:
        count_doorways(run, head, t_ms)
    if has & HAS_SCHEDULES:
        judge_schedules(run, head, t_ms)
    judge_conditions(run, t_ms)
    loads = int_table(run, LOADS_INTS)
    for load in range(loads.shape[0]):
        decider = say(run, load, t_ms)
        deciders[load, 0] = decider
        deciders[load, 1] = want_of(run, load, decider)
    for g in range(int_row(run, LOADS_NOW_TURNS).shape[0]):
        int_row(run, LOADS_NOW_TURNS)[g] = 0
    for load in range(loads.shape[0]):
        decider, want = deciders[load, 0], deciders[load, 1]
        kind = loads[load, L_KIND]
        if kind == KIND_TWO_WAY:
            hold_two_way(run, load, decider, want, t_ms)
        elif kind == KIND_DRIVE:
            hold_drive(run, load, decider, want, t_ms)
        else:
            hold_steady(run, load, decider, want, t_ms, period_ms)
    if head[H_LINES] == 1 or has & HAS_PATTERNS:
        head[H_LINES] = 0
        drive_lines(run, t_ms)
    if has & HAS_MEMORY:
        remember(run, t_ms)
    if head[H_FIRST] == 1:
        head[H_STIRRED] = 1  # what a drive is found as is read by conditions in the next scan
    head[H_FIRST] = 0


@kernel
def next_instant(run: int, t_ms: int, period_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which something can change by itself.

    Where this scan changed something that the next one reads, that is the next one.
    """
    head = int_row(run, RUN_HEAD)
    if head[H_STIRRED] == 1:
        head[H_STIRRED] = 0
        return t_ms + 1
    if head[H_LISTENS] == 1 and not somebody_listens(run):
        head[H_LISTENS] = 0
    has = head[H_HAS]
    first = min(next_of_conditions(run, t_ms), next_of_claims(run, t_ms))
    first = min(first, next_of_holds(run, t_ms))
    first = min(first, next_of_contacts(run, t_ms, period_ms))
    if has & HAS_CONTROLS:
        first = min(first, next_of_controls(run, t_ms))
    if has & HAS_DOORWAYS:
        first = min(first, next_reset(run, head))
    if has & HAS_SCHEDULES:
        first = min(first, next_of_calendar(run, head, t_ms))
    if has & HAS_TWO_WAY:
        first = min(first, next_of_two_way(run))
    if has & HAS_DRIVES:
        first = min(first, next_of_drives(run))
    if has & HAS_MEMORY:
        first = min(first, next_write(run, t_ms))
    return first
