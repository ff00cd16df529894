"""One scan, its stages in the order of ENGINE.md; and when the next one can matter."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import KIND_DRIVE, KIND_TWO_WAY
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FIRST,
    H_LISTENS,
    H_STIRRED,
    OutArrays,
    PlanArrays,
    StateArrays,
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
from aldea.core.engine.tables.loads import L_KIND
from aldea.core.engine.tables.people import Calendar


@kernel
def trust(plan: PlanArrays, state: StateArrays, t_ms: int, out: OutArrays) -> None:
    """What the samples of this scan come to, and what is sensed; before people are heard."""
    judge_probes(plan.probes, state.probes, t_ms, state.head[H_BOOTED_MS], out)
    derive(plan.probes, state.probes, state.loads.ints)
    sense_two_way(plan, state, t_ms)


@kernel
def decide(
    plan: PlanArrays,
    state: StateArrays,
    calendar: Calendar,
    t_ms: int,
    period_ms: int,
    deciders: IntArray,
    out: OutArrays,
) -> None:
    """From what people do to what is written: the rest of the scan."""
    work_controls(plan, state, t_ms, out)
    count_doorways(plan.people, state.people, calendar, state.head, t_ms)
    judge_schedules(calendar, state.calendar, state.head, t_ms)
    judge_conditions(plan, state, calendar, t_ms, out)
    loads = plan.loads.ints
    for load in range(loads.shape[0]):
        decider = say(plan, state, load, t_ms, out)
        deciders[load, 0] = decider
        deciders[load, 1] = want_of(plan, state, load, decider)
    for g in range(state.loads.turns.shape[0]):
        state.loads.turns[g] = 0
    for load in range(loads.shape[0]):
        decider, want = deciders[load, 0], deciders[load, 1]
        kind = loads[load, L_KIND]
        if kind == KIND_TWO_WAY:
            hold_two_way(plan, state, load, decider, want, t_ms, out)
        elif kind == KIND_DRIVE:
            hold_drive(plan, state, load, decider, want, t_ms, out)
        else:
            hold_steady(plan, state, load, decider, want, t_ms, period_ms, out)
    drive_lines(plan.loads, state, t_ms, out)
    remember(plan, state, t_ms, out)
    state.head[H_FIRST] = 0


@kernel
def next_instant(
    plan: PlanArrays, state: StateArrays, calendar: Calendar, t_ms: int, period_ms: int
) -> int:
    """The first instant after the scan at `t_ms` at which something can change by itself.

    Where this scan changed something that the next one reads, that is the next one.
    """
    if state.head[H_STIRRED] == 1:
        state.head[H_STIRRED] = 0
        return t_ms + 1
    if state.head[H_LISTENS] == 1 and not somebody_listens(plan, state):
        state.head[H_LISTENS] = 0
    first = next_of_controls(plan, state, t_ms)
    first = min(first, next_reset(plan.people, state.people, calendar, state.head))
    first = min(first, next_of_calendar(calendar, state.calendar, state.head, t_ms))
    first = min(first, next_of_conditions(plan, state, calendar, t_ms))
    first = min(first, next_of_claims(plan, state, t_ms))
    first = min(first, next_of_holds(plan, state, t_ms))
    first = min(first, next_of_two_way(plan, state))
    first = min(first, next_of_drives(plan, state))
    first = min(first, next_of_contacts(plan.loads, state, t_ms, period_ms))
    return min(first, next_write(plan.memory, state.memory, t_ms))
