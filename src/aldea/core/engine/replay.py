"""Running a compiled plan over samples: allocates, calls the kernel, names what came out."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.errors import InputError
from aldea.core.base.jit import plain
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import ClaimRow, CompiledPlan
from aldea.core.engine.scan.arrays import StateArrays
from aldea.core.engine.scan.replay_kernel import replay_kernel
from aldea.core.readings.samples import Samples

# Untouched room costs nothing; a run that needs more is made twice.
FIRST_ROOM_FOR_EVENTS = 1 << 17


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """A change of a load's state, decider or inhibit; of a probe's quality; or of the supply.

    `state_from` and `state_to` are 0 and 1 for a load, quality codes for a probe, 1 and 0 for
    power. `cited` is the claim that is the cause: the one that decides or, where nobody asks, the
    one that matters. `value` is the calibrated reading that it looks at, NaN where there is none.
    """

    t_ms: int
    event_type: int
    who: int
    state_from: int
    state_to: int
    claim: int
    inhibit: int
    cited: int
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """What a compiled plan did from `start_ms` up to `end_ms`."""

    compiled: CompiledPlan
    start_ms: int
    end_ms: int
    rows: IntArray
    values: FloatArray

    def events(self) -> list[Event]:
        """Every event in order of time."""
        return [
            Event(
                t_ms=row[lay.E_T_MS],
                event_type=row[lay.E_TYPE],
                who=row[lay.E_WHO],
                state_from=row[lay.E_FROM],
                state_to=row[lay.E_TO],
                claim=row[lay.E_CLAIM],
                inhibit=row[lay.E_INHIBIT],
                cited=row[lay.E_CITED],
                value=value,
            )
            for row, value in zip(self.rows.tolist(), self.values.tolist(), strict=True)
        ]

    def of_load(self, load: int) -> tuple[IntArray, FloatArray]:
        """Rows and values of the events of one load."""
        mine = (self.rows[:, lay.E_TYPE] == lay.EVENT_LOAD) & (self.rows[:, lay.E_WHO] == load)
        return self.rows[mine], self.values[mine]

    def claim_row(self, claim: int) -> ClaimRow | None:
        """What a claim's row means; None in the dark, and where nobody ever asks."""
        return None if claim < 0 else self.compiled.claim_rows[claim]


def run_replay(
    compiled: CompiledPlan,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    cuts: Sequence[tuple[int, int]] = (),
    skipping: bool = True,
    in_python: bool = False,
) -> Run:
    """Replay recorded samples through a compiled plan: open loop, the room does not answer.

    Times are UTC epoch milliseconds. `cuts` are power cuts [from, to); one that is over before the
    start is no cut of this run. With `in_python` the same
    source is run by the interpreter. Raises `InputError` where span or cuts are out of order.
    """
    if not start_ms < end_ms:
        raise InputError("replay", got=f"end {end_ms}", allowed=f"after the start {start_ms}")
    cut_rows = np.array(sorted(cuts), dtype=np.int64).reshape(len(cuts), 2)
    if len(cut_rows) and not (
        (cut_rows[:, 0] < cut_rows[:, 1]).all() and (cut_rows[1:, 0] >= cut_rows[:-1, 1]).all()
    ):
        raise InputError(
            "power cuts", got="cuts that overlap or end before they start", allowed="cuts apart"
        )
    cut_rows = cut_rows[cut_rows[:, 1] > start_ms]  # a cut that was over by then is none
    first = int(np.searchsorted(samples.t_ms, start_ms))
    kernel = plain(replay_kernel) if in_python else replay_kernel
    room = FIRST_ROOM_FOR_EVENTS
    while True:
        rows = np.empty((room, lay.E_INTS), dtype=np.int64)
        values = np.empty(room, dtype=np.float64)
        count = kernel(
            compiled.arrays,
            fresh_state(compiled),
            samples.t_ms[first:],
            samples.probe[first:],
            samples.value[first:],
            cut_rows,
            start_ms,
            end_ms,
            compiled.period_ms,
            skipping,
            rows,
            values,
        )
        if count <= room:
            return Run(
                compiled=compiled,
                start_ms=start_ms,
                end_ms=end_ms,
                rows=rows[:count].copy(),  # the room made for it is given back
                values=values[:count].copy(),
            )
        room = int(count)


def fresh_state(compiled: CompiledPlan) -> StateArrays:
    """The state of a run that has not begun."""
    plan = compiled.arrays
    probes, conditions, loads = len(plan.probe_ints), len(plan.marks), len(plan.loads)
    return StateArrays(
        probe_floats=np.zeros((probes, lay.S_FLOATS)),
        probe_ints=np.zeros((probes, lay.S_INTS), dtype=np.int64),
        conditions=np.zeros((conditions, lay.B_INTS), dtype=np.int64),
        loads=np.zeros((loads, lay.O_INTS), dtype=np.int64),
        quiet=np.zeros((probes, 2)),
    )
