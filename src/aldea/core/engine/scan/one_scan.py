"""One scan, its stages in the order of ENGINE.md; and when the next one can matter."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import KIND_DRIVE, KIND_TWO_WAY
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FIRST,
    H_LISTENS,
    H_STIRRED,
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
from aldea.core.engine.scan.say import next_of_claims, say, somebody_listens, want_of
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
def trust(run: IntArray, t_ms: int) -> None:
    """What the samples of this scan come to, and what is sensed; before people are heard."""
    judge_probes(run, t_ms, int_row(run, RUN_HEAD)[H_BOOTED_MS])
    derive(run, int_table(run, LOADS_NOW_INTS))
    sense_two_way(run, t_ms)


@kernel
def decide(
    run: IntArray,
    t_ms: int,
    period_ms: int,
    deciders: IntArray,
) -> None:
    """From what people do to what is written: the rest of the scan."""
    work_controls(run, t_ms)
    count_doorways(run, int_row(run, RUN_HEAD), t_ms)
    judge_schedules(run, int_row(run, RUN_HEAD), t_ms)
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
    drive_lines(run, t_ms)
    remember(run, t_ms)
    int_row(run, RUN_HEAD)[H_FIRST] = 0


@kernel
def next_instant(run: IntArray, t_ms: int, period_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which something can change by itself.

    Where this scan changed something that the next one reads, that is the next one.
    """
    if int_row(run, RUN_HEAD)[H_STIRRED] == 1:
        int_row(run, RUN_HEAD)[H_STIRRED] = 0
        return t_ms + 1
    if int_row(run, RUN_HEAD)[H_LISTENS] == 1 and not somebody_listens(run):
        int_row(run, RUN_HEAD)[H_LISTENS] = 0
    first = next_of_controls(run, t_ms)
    first = min(first, next_reset(run, int_row(run, RUN_HEAD)))
    first = min(first, next_of_calendar(run, int_row(run, RUN_HEAD), t_ms))
    first = min(first, next_of_conditions(run, t_ms))
    first = min(first, next_of_claims(run, t_ms))
    first = min(first, next_of_holds(run, t_ms))
    first = min(first, next_of_two_way(run))
    first = min(first, next_of_drives(run))
    first = min(first, next_of_contacts(run, t_ms, period_ms))
    return min(first, next_write(run, t_ms))
