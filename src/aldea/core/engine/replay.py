"""Running a program over recorded samples: allocates, calls the kernel, names what came out."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.jit import plain
from aldea.core.engine.layout import FloatArray, IntArray
from aldea.core.engine.program import ClaimName, Program
from aldea.core.engine.scan import replay_kernel
from aldea.core.errors import InputError

FIRST_ROOM_FOR_EVENTS = 4096


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """Samples of all probes of a program, sorted by time; arrays of shape (n,)."""

    t_ms: IntArray
    probe: IntArray
    value: FloatArray

    def without(self, gaps: Sequence[tuple[int, int]], probe: int) -> "Samples":
        """The same without what `probe` said inside the gaps [from, to), in ms."""
        keep = np.ones(len(self.t_ms), dtype=bool)
        for start_ms, end_ms in gaps:
            first, last = np.searchsorted(self.t_ms, (start_ms, end_ms))
            keep[first:last] &= self.probe[first:last] != probe
        return Samples(t_ms=self.t_ms[keep], probe=self.probe[keep], value=self.value[keep])


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """A change of a load's state, holder or hold; of a probe's quality; or of the supply.

    `state_from` and `state_to` are 0 and 1 for a load, quality codes for a probe, 1 and 0 for
    power. `value` is the calibrated reading that the claim looks at, NaN where there is none.
    """

    t_ms: int
    kind: int
    who: int
    state_from: int
    state_to: int
    claim: int
    hold: int
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """What a program did from `start_ms` up to `end_ms`."""

    program: Program
    start_ms: int
    end_ms: int
    rows: IntArray
    values: FloatArray

    def events(self) -> list[Event]:
        """Every event in order of time."""
        return [
            Event(
                t_ms=row[lay.E_T_MS],
                kind=row[lay.E_KIND],
                who=row[lay.E_WHO],
                state_from=row[lay.E_FROM],
                state_to=row[lay.E_TO],
                claim=row[lay.E_CLAIM],
                hold=row[lay.E_HOLD],
                value=value,
            )
            for row, value in zip(self.rows.tolist(), self.values.tolist(), strict=True)
        ]

    def of_load(self, load: int) -> tuple[IntArray, FloatArray]:
        """Rows and values of the events of one load."""
        mine = (self.rows[:, lay.E_KIND] == lay.KIND_LOAD) & (self.rows[:, lay.E_WHO] == load)
        return self.rows[mine], self.values[mine]

    def claim_name(self, claim: int) -> ClaimName | None:
        """What a claim's row means; None for the dark."""
        return None if claim == lay.NO_POWER else self.program.claim_names[claim]


def run_replay(
    program: Program,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    cuts: Sequence[tuple[int, int]] = (),
    skipping: bool = True,
    compiled: bool = True,
) -> Run:
    """Replay recorded samples through a program: open loop, the room does not answer.

    Times are UTC epoch milliseconds. `cuts` are power cuts [from, to). Raises `InputError` where
    the span or the cuts are out of order.
    """
    if not start_ms < end_ms:
        raise InputError("replay", got=f"end {end_ms}", allowed=f"after the start {start_ms}")
    cut_rows = np.array(sorted(cuts), dtype=np.int64).reshape(len(cuts), 2)
    if len(cuts) and not (
        (cut_rows[:, 0] < cut_rows[:, 1]).all() and (cut_rows[1:, 0] >= cut_rows[:-1, 1]).all()
    ):
        raise InputError(
            "power cuts", got="cuts that overlap or end before they start", allowed="cuts apart"
        )
    first = int(np.searchsorted(samples.t_ms, start_ms))
    kernel = replay_kernel if compiled else plain(replay_kernel)
    room = FIRST_ROOM_FOR_EVENTS
    while True:
        probes, conditions, loads = len(program.pf), len(program.cf), len(program.li)
        rows = np.zeros((room, lay.E_INTS), dtype=np.int64)
        values = np.zeros(room, dtype=np.float64)
        count = kernel(
            program.pf,
            program.pi,
            program.cf,
            program.ci,
            program.ki,
            program.li,
            np.zeros((probes, lay.S_FLOATS)),
            np.zeros((probes, lay.S_INTS), dtype=np.int64),
            np.zeros((conditions, lay.B_INTS), dtype=np.int64),
            np.zeros((loads, lay.O_INTS), dtype=np.int64),
            np.zeros((probes, 2)),
            samples.t_ms[first:],
            samples.probe[first:],
            samples.value[first:],
            cut_rows,
            start_ms,
            end_ms,
            program.period_ms,
            skipping,
            rows,
            values,
        )
        if count <= room:
            return Run(
                program=program,
                start_ms=start_ms,
                end_ms=end_ms,
                rows=rows[:count].copy(),  # the room made for it is given back
                values=values[:count].copy(),
            )
        room = int(count)
