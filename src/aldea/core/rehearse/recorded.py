"""The part of a span in which probes were heard: what a figure a day is divided by."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import BoolArray, IntArray
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.engine import layout as lay
from aldea.core.engine.replay import Run


@dataclass(frozen=True, slots=True, kw_only=True)
class Recorded:
    """A span [from, to) and the spans in it in which something was recorded, an array (n, 2)."""

    from_ms: int
    to_ms: int
    spans: IntArray

    @property
    def days(self) -> float:
        """The days that were recorded."""
        return float((self.spans[:, 1] - self.spans[:, 0]).sum()) / MS_PER_DAY

    @property
    def share(self) -> float:
        """The recorded part of the span, 0 to 1."""
        return self.days * MS_PER_DAY / (self.to_ms - self.from_ms)

    def within(self, spans: IntArray) -> float:
        """How much of spans that do not overlap, an array (n, 2), was recorded; ms."""
        both = common(self.spans, spans)
        return float((both[:, 1] - both[:, 0]).sum())

    def holds(self, instants_ms: IntArray) -> IntArray:
        """Those of some instants at which something was recorded."""
        if not len(self.spans):
            return instants_ms[:0]
        index = np.searchsorted(self.spans[:, 0], instants_ms, side="right") - 1
        inside: BoolArray = (index >= 0) & (instants_ms < self.spans[np.maximum(index, 0), 1])
        held: IntArray = instants_ms[inside]
        return held


def recorded_of(run: Run, probes: Sequence[str], *, from_ms: int, to_ms: int) -> Recorded:
    """When all of some probes were heard in a span of a run; without any of its probes, always.

    A probe is heard from its first reading until it counts as silent, by its own time for that.
    """
    start_ms, end_ms = max(from_ms, run.start_ms), min(to_ms, run.end_ms)
    spans = np.array([[start_ms, max(start_ms, end_ms)]], dtype=np.int64)
    for row, probe in enumerate(run.compiled.probe_ids):
        if probe in probes:
            spans = common(spans, _read_spans(run, row))
    return Recorded(from_ms=from_ms, to_ms=to_ms, spans=spans)


def common(one: IntArray, other: IntArray) -> IntArray:
    """What two lists of spans [from, to), each in order and without overlap, have in common."""
    # Of each span in the one list those of the other that it meets stand side by side.
    first = np.searchsorted(other[:, 1], one[:, 0], side="right")
    end = np.searchsorted(other[:, 0], one[:, 1], side="left")
    met = np.maximum(end - first, 0)
    mine = np.repeat(np.arange(len(one)), met)
    theirs = np.arange(met.sum()) - np.repeat(np.cumsum(met) - met - first, met)
    bounds: IntArray = np.stack(
        (
            np.maximum(one[mine, 0], other[theirs, 0]),
            np.minimum(one[mine, 1], other[theirs, 1]),
        ),
        axis=1,
    )
    return bounds[bounds[:, 0] < bounds[:, 1]]


def _read_spans(run: Run, row: int) -> IntArray:
    mine = (run.rows[:, lay.E_TYPE] == lay.EVENT_PROBE) & (run.rows[:, lay.E_WHO] == row)
    events = run.rows[mine][:, (lay.E_T_MS, lay.E_TO)].tolist()
    # Before anything is known of it a probe warms; if it is silent next, nothing was heard.
    is_good = not (events and events[0][1] == lay.STALE)
    since_ms, spans = run.start_ms, []
    for t_ms, quality in [*events, (run.end_ms, lay.STALE)]:
        now = quality != lay.STALE
        if is_good and not now:
            spans.append((since_ms, t_ms))
        elif now and not is_good:
            since_ms = t_ms
        is_good = now
    return np.array(spans, dtype=np.int64).reshape(-1, 2)
