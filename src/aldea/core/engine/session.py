"""A run that goes on piece by piece: what it did is seen before what comes in next is known."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.errors import InputError
from aldea.core.engine import layout as lay
from aldea.core.engine.calendar import calendar_of
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.inputs import Inputs, compile_inputs
from aldea.core.engine.replay import (
    FIRST_ROOM_FOR_EVENTS,
    FIRST_ROOM_FOR_WRITES,
    Run,
    Scans,
    as_run,
    fresh_state,
    out_room,
)
from aldea.core.engine.scan.arrays import AT_INTS, COUNT_LINES, StateArrays
from aldea.core.engine.scan.replay_kernel import replay_kernel
from aldea.core.engine.scan.views import packed
from aldea.core.engine.tables.loads import O_STATE
from aldea.core.engine.tables.memory import cells_of
from aldea.core.engine.tables.probes import D_OVER_MS
from aldea.core.readings.samples import Samples

NOTHING_SENSED: Mapping[str, int] = MappingProxyType({})
NO_SAMPLES = Samples(
    t_ms=np.zeros(0, dtype=np.int64), probe=np.zeros(0, dtype=np.int64), value=np.zeros(0)
)


@dataclass(frozen=True, slots=True, eq=False)
class Moment:
    """Where a session stood, so that it can go on from there more than once."""

    now_ms: int
    goes_on: bool
    counts: tuple[int, int]
    arrays: tuple[FloatArray | IntArray, ...]


class Session:
    """A compiled plan at work from `start_ms`, up to `end_ms` at most.

    `samples` and `levels` are how many of each may come in beside those `known` before. `sensed`
    gives the level, at the start, of every digital input that somebody watches; an input that is
    not among them senses nothing. What else is known before (people, cuts) is in `inputs`; `boots`
    and `scans` are those of a replay.
    """

    def __init__(
        self,
        compiled: CompiledPlan,
        *,
        start_ms: int,
        end_ms: int,
        samples: int,
        levels: int,
        known: Samples = NO_SAMPLES,
        sensed: Mapping[str, int] = NOTHING_SENSED,
        inputs: Inputs = Inputs(),  # noqa: B008  frozen
        boots: bool = False,
        scans: Scans = replay_kernel,
    ) -> None:
        self.compiled = compiled
        self.start_ms = self.now_ms = start_ms
        self._goes_on = False
        self._boots, self._scans = boots, scans
        first = [(start_ms, name, level) for name, level in sensed.items()]
        whole = Inputs(
            levels=[*first, *inputs.levels],
            messages=inputs.messages,
            clock=inputs.clock,
            cuts=inputs.cuts,
            people=inputs.people,
        )
        brought = compile_inputs(compiled, known, whole, start_ms)
        given = brought.arrays
        later = np.full((levels, 3), lay.FOREVER, dtype=np.int64)
        later[:, 1:] = 0
        arrays = given._replace(
            levels=np.concatenate((given.levels, later)),
            sample_ms=np.concatenate((given.sample_ms, np.full(samples, lay.FOREVER))),
            sample_probe=np.concatenate((given.sample_probe, np.zeros(samples, np.int64))),
            sample_value=np.concatenate((given.sample_value, np.zeros(samples))),
        )
        self._inputs = arrays
        self._authors = brought.authors
        self._samples, self._levels = len(given.sample_ms), len(given.levels)
        plan = as_run(compiled, brought)
        longest_ms = int(plan.probes.derived[:, D_OVER_MS].max(initial=0))
        times = calendar_of(compiled, start_ms, end_ms)
        self._state = fresh_state(
            compiled,
            plan,
            times,
            brought,
            seeds=not boots,
            rate_room=longest_ms // compiled.period_ms + 3,
        )
        room = [FIRST_ROOM_FOR_EVENTS, FIRST_ROOM_FOR_EVENTS, FIRST_ROOM_FOR_WRITES]
        self._out = out_room(room, cells_of(plan.memory), 0)
        self._held = (plan, times)  # the packed row says where they lie
        self._run = packed(plan, self._state, times, arrays, self._out)
        self._deciders = np.zeros((len(plan.loads.ints), 2), dtype=np.int64)
        self._at = np.zeros(AT_INTS, dtype=np.int64)
        self._rows = {name: row for row, name in enumerate(compiled.input_ids)}

    def sample(self, t_ms: int, probe: int, value: float) -> None:
        """A sample of a probe, by its row; not before the last one, nor before now."""
        if self._samples >= len(self._inputs.sample_ms):
            raise InputError("session", got="more samples than it has room for", allowed="fewer")
        row = self._samples
        self._inputs.sample_ms[row] = t_ms
        self._inputs.sample_probe[row] = probe
        self._inputs.sample_value[row] = value
        self._samples += 1

    def samples(self, t_ms: IntArray, probe: IntArray, value: FloatArray) -> None:
        """Samples in order of time, as many as `sample` would take one by one."""
        end = self._samples + len(t_ms)
        if end > len(self._inputs.sample_ms):
            raise InputError("session", got="more samples than it has room for", allowed="fewer")
        rows = slice(self._samples, end)
        self._inputs.sample_ms[rows] = t_ms
        self._inputs.sample_probe[rows] = probe
        self._inputs.sample_value[rows] = value
        self._samples = end

    def level(self, t_ms: int, name: str, now: int) -> None:
        """The level that a digital input takes on; one that no rule looks at is passed over."""
        if name not in self._rows:
            return
        if self._levels >= len(self._inputs.levels):
            raise InputError("session", got="more levels than it has room for", allowed="fewer")
        self._inputs.levels[self._levels] = (t_ms, self._rows[name], now)
        self._levels += 1

    def advance(self, to_ms: int) -> None:
        """Scan on, up to but not including `to_ms`."""
        self._scans(
            self._run.ctypes.data,
            self._deciders,
            self._at,
            self.now_ms,
            to_ms,
            self.compiled.period_ms,
            not self._boots,
            self._goes_on,
            True,
        )
        self._goes_on = True
        self.now_ms = to_ms

    def _changing(self) -> Iterator[Any]:
        yield from _arrays_in(self._state)
        yield self._at
        yield self._deciders
        yield self._out.counts

    def moment(self) -> Moment:
        """Where it stands now."""
        copies = tuple(array.copy() for array in self._changing())
        return Moment(self.now_ms, self._goes_on, (self._samples, self._levels), copies)

    def back_to(self, moment: Moment) -> None:
        """Stand again where it stood, with nothing come in since."""
        for array, was in zip(self._changing(), moment.arrays, strict=True):
            array[...] = was
        self._inputs.sample_ms[moment.counts[0] : self._samples] = lay.FOREVER
        self._inputs.levels[moment.counts[1] : self._levels, 0] = lay.FOREVER
        self._samples, self._levels = moment.counts
        self.now_ms, self._goes_on = moment.now_ms, moment.goes_on

    @property
    def state(self) -> StateArrays:
        """Every table of where it stands, to be read."""
        return self._state

    def states(self) -> dict[str, int]:
        """The state of every load now."""
        column = self._state.loads.ints[:, O_STATE].tolist()
        return dict(zip(self.compiled.load_ids, column, strict=True))

    def lines(self) -> IntArray:
        """The changes of relay lines so far: instant, row, level."""
        return self._out.lines[: int(self._out.counts[COUNT_LINES])]

    def run(self) -> Run:
        """What it has done so far; `InputError` where that is more than it had room for."""
        out = self._out
        events, lines, writes = out.counts.tolist()
        if events > len(out.events) or lines > len(out.lines) or writes > len(out.writes):
            raise InputError("session", got="more events than it has room for", allowed="a shorter")
        return Run(
            compiled=self.compiled,
            start_ms=self.start_ms,
            end_ms=self.now_ms,
            rows=out.events[:events].copy(),
            values=out.values[:events].copy(),
            lines=out.lines[:lines].copy(),
            writes=out.writes[:writes].copy(),
            cells=out.cells[:writes].copy(),
            authors=self._authors,
            trace=out.trace,
            qualities=out.qualities,
        )


def _arrays_in(part: Any) -> Iterator[Any]:
    if isinstance(part, np.ndarray):
        yield part
        return
    for member in part:
        yield from _arrays_in(member)
