"""Thinning a trace to what the pixels can show, with every extreme kept."""

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray


def thin(
    t_ms: IntArray, value: FloatArray, *, start_ms: int, end_ms: int, pixels: int, gap_ms: int
) -> list[tuple[IntArray, FloatArray]]:
    """At most four points a pixel column: its first, lowest, highest and last reading, in order.

    Every extreme survives. Returns pieces parted where no reading came for longer than `gap_ms`.
    Missing readings (NaN) are left out.
    """
    first, last = np.searchsorted(t_ms, (start_ms, end_ms))
    t_ms, value = t_ms[first:last], value[first:last]
    keep = ~np.isnan(value)
    t_ms, value = t_ms[keep], value[keep]
    if not len(t_ms):
        return []
    column = (t_ms - start_ms) * pixels // (end_ms - start_ms)
    after_gap = np.concatenate(([True], np.diff(t_ms) > gap_ms))
    starts = np.flatnonzero(np.concatenate(([True], np.diff(column) > 0)) | after_gap)
    ends = np.concatenate((starts[1:], [len(t_ms)])) - 1
    chosen = np.concatenate((starts, ends, _extreme(value, starts), _extreme(-value, starts)))
    index = np.unique(chosen)
    pieces = np.flatnonzero(after_gap[1:]) + 1
    cuts = np.searchsorted(index, pieces)
    return [(t_ms[part], value[part]) for part in np.split(index, cuts) if len(part)]


def _extreme(value: FloatArray, starts: IntArray) -> IntArray:
    """Index of the highest value in each run that begins at `starts`."""
    highest = np.maximum.reduceat(value, starts)
    lengths = np.diff(np.append(starts, len(value)))
    hits = np.flatnonzero(value == np.repeat(highest, lengths))
    run_of_hit = np.searchsorted(starts, hits, side="right") - 1
    first_of_run = np.unique(run_of_hit, return_index=True)[1]
    return hits[first_of_run].astype(np.int64)
