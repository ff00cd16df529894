"""What the days before say of the next change: between when it is expected, how long all is quiet.

Readings hang on weather and people; that a day goes like those before is the most that a record can
say. Of each day before, at about this time and in this state, it is taken how long it took until
the next change; the spread of these times is what is announced.
"""

from dataclasses import replace

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.base.instants import MS_PER_DAY, MS_PER_MINUTE
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.rehearse.ahead import Ahead, HangsOn

MOST_DAYS, LEAST_TIMES = 28, 12
AROUND_MIN = (-40, -20, 0, 20, 40)
FROM_1, TO_1 = 0.05, 0.95  # of the times of the days before; eight of ten are to come true
QUIET_1 = 0.9  # of the shortest of them
TOLD_MS = 5 * MS_PER_MINUTE  # nobody can tell such times to the second
CERTAIN = (HangsOn.NOTHING, HangsOn.STRONGER, HangsOn.STEADY)


def changes_of(compiled: CompiledPlan, rows: IntArray, load: str, at_ms: int) -> IntArray:
    """The changes of a load up to an instant: (n, 3) of instant, state before, state after."""
    mine = (
        (rows[:, lay.E_TYPE] == lay.EVENT_LOAD)
        & (rows[:, lay.E_WHO] == compiled.load_index(load))
        & (rows[:, lay.E_T_MS] <= at_ms)
        & (rows[:, lay.E_FROM] != rows[:, lay.E_TO])
    )
    changes: IntArray = rows[mine][:, (lay.E_T_MS, lay.E_FROM, lay.E_TO)]
    return changes


def waits_before(changes: IntArray, *, start_ms: int, at_ms: int) -> IntArray:
    """How long the state of now lasted on, from about this time of each day before; ms.

    A time that ran into now is as long as is known of it.
    """
    if not len(changes):
        return np.zeros(0, dtype=np.int64)
    state = int(changes[-1, 2])
    days = np.arange(1, MOST_DAYS + 1, dtype=np.int64)[:, None] * MS_PER_DAY
    around = np.array(AROUND_MIN, dtype=np.int64)[None, :] * MS_PER_MINUTE
    instants = (at_ms - days + around).ravel()
    instants = instants[instants >= start_ms]
    after = np.searchsorted(changes[:, 0], instants, side="right")
    states = np.where(after > 0, changes[after - 1, 2], changes[0, 1])
    ends = np.append(changes[:, 0], at_ms)[after]
    waits: IntArray = (ends - instants)[states == state]
    return waits


def quiet_for(waits: IntArray, horizon_ms: int) -> int:
    """For how long nothing is foreseen, ms; 0 where the days before do not tell."""
    if len(waits) < LEAST_TIMES:
        return 0
    return min(horizon_ms, int(QUIET_1 * waits.min()))


def as_before(
    next_change: Ahead | None, waits: IntArray, at_ms: int, horizon_ms: int
) -> Ahead | None:
    """A change as it is announced: one that hangs on readings with the spread of the days before.

    None where they do not tell that it comes within the horizon.
    """
    if next_change is None or next_change.hangs_on in CERTAIN:
        return next_change
    if len(waits) < LEAST_TIMES:
        return replace(next_change, hangs_on=HangsOn.HELD)
    early, late = (int(np.quantile(waits, share)) for share in (FROM_1, TO_1))
    if late > horizon_ms:
        return None
    return replace(
        next_change,
        hangs_on=HangsOn.USUAL,
        early_ms=(at_ms + early) // TOLD_MS * TOLD_MS,
        late_ms=-(-(at_ms + late) // TOLD_MS) * TOLD_MS,
    )
