"""What a scan works on: the plan as tables that are never written, the state as those that are."""

from typing import NamedTuple

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.engine.tables.conditions import ConditionPlan
from aldea.core.engine.tables.loads import LoadPlan, LoadState
from aldea.core.engine.tables.memory import MemoryPlan, MemoryState
from aldea.core.engine.tables.people import CalendarState, PeoplePlan, PeopleState
from aldea.core.engine.tables.probes import ProbePlan, ProbeState

# the head of a run's state
(
    H_BOOTED_MS,
    H_FIRST,
    H_FREE,
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
    H_STIRRED,
    H_LISTENS,
    H_SEEDS,
    H_HAS,
    H_LINES,
) = range(10)
H_INTS = 10
# what a plan has at all; stages that it does not need are passed over
(
    HAS_CONTROLS,
    HAS_DOORWAYS,
    HAS_SCHEDULES,
    HAS_DERIVED,
    HAS_TWO_WAY,
    HAS_DRIVES,
    HAS_PATTERNS,
    HAS_MEMORY,
) = (1 << bit for bit in range(8))
# what has been written of each kind of row
COUNT_EVENTS, COUNT_LINES, COUNT_WRITES = range(3)


class PlanArrays(NamedTuple):
    """A compiled plan, by stage."""

    probes: ProbePlan
    conditions: ConditionPlan
    loads: LoadPlan
    people: PeoplePlan
    memory: MemoryPlan


class StateArrays(NamedTuple):
    """Where a run stands, by stage; `head` is what all stages know."""

    head: IntArray
    probes: ProbeState
    conditions: IntArray
    loads: LoadState
    people: PeopleState
    calendar: CalendarState
    memory: MemoryState


class InputArrays(NamedTuple):
    """What comes in during a run, each in order of time."""

    sample_ms: IntArray
    sample_probe: IntArray
    sample_value: FloatArray
    levels: IntArray  # instant, input, level
    messages: IntArray  # instant, code (or -1), first action, end, author
    clock: IntArray  # instant, what the clock says then, whether it is known
    cuts: IntArray  # from, to, boot time, whether the clock was kept, bytes of the last write


class OutArrays(NamedTuple):
    """What comes out; a row beyond the room is counted and not written."""

    counts: IntArray
    events: IntArray
    values: FloatArray
    lines: IntArray  # instant, relay, level
    writes: IntArray  # instant, slot, sequence number
    cells: IntArray
    trace: FloatArray  # by sample: filtered and calibrated; NaN where it did not enter the filter
    qualities: IntArray  # by sample: the quality in its wake


I_MS, I_WHO, I_TO = range(3)
J_MS, J_CODE, J_FIRST, J_END, J_AUTHOR = range(5)
Y_FROM_MS, Y_TO_MS, Y_BOOT_MS, Y_KEPT, Y_TORN = range(5)
# where each kind of input has been read up to; whether the next scan is only for derived signals
AT_SAMPLE, AT_LEVEL, AT_MESSAGE, AT_CLOCK, AT_CUT, AT_FEEDS = range(6)
AT_INTS = 6
