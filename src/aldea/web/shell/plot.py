"""Traces as SVG paths: thinned, scaled, extremes kept."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.readings.thinning import thin


@dataclass(frozen=True, slots=True, kw_only=True)
class GridLine:
    """A grid line at a pixel with its figure; a strong one is zero."""

    at: float
    text: str
    strong: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Scale:
    """A linear axis from values to pixels."""

    low: float
    high: float
    pixel_low: float
    pixel_high: float

    def __call__(self, value: float) -> float:
        """Pixel of a value."""
        share = (value - self.low) / (self.high - self.low)
        return self.pixel_low + share * (self.pixel_high - self.pixel_low)


def trace_path(
    t_ms: IntArray,
    value: FloatArray,
    *,
    start_ms: int,
    end_ms: int,
    width: int,
    y: Scale,
    gap_ms: int,
    columns: int | None = None,
) -> str:
    """The `d` of a path over [0, width] × the y axis; lifted where readings are missing.

    Every extreme of each of its `columns` is drawn; one a pixel where nothing is said.
    """
    out: list[str] = []
    per_ms = width / (end_ms - start_ms)
    pixels = columns or width
    places = 0 if pixels < width else 1  # no finer than what is drawn
    pieces = thin(t_ms, value, start_ms=start_ms, end_ms=end_ms, pixels=pixels, gap_ms=gap_ms)
    share = (y.pixel_high - y.pixel_low) / (y.high - y.low)
    for piece_ms, piece in pieces:
        xs = (piece_ms - start_ms) * per_ms
        ys = y.pixel_low + (np.clip(piece, y.low, y.high) - y.low) * share
        # One format for all points: a third of the time that a text for each takes.
        line = "L".join([f"%.{places}f %.1f"] * len(xs))
        out.append("M" + line % tuple(np.stack((xs, ys), axis=1).ravel().tolist()))
        if len(xs) == 1:
            out.append("h0.6")
    return "".join(out)


def round_range(low: float, high: float, *, at_least: float, step: float) -> tuple[float, float]:
    """A range in whole steps that holds both and is not narrower than `at_least`."""
    middle = (low + high) / 2
    low, high = min(low, middle - at_least / 2), max(high, middle + at_least / 2)
    return float(np.floor(low / step) * step), float(np.ceil(high / step) * step)


def density_path(value: FloatArray, y: Scale, *, x_px: float, width_px: float, bins: int) -> str:
    """How often each value was read: a closed path that bulges to the right of `x_px`."""
    counts, edges = np.histogram(value, bins=bins, range=(y.low, y.high))
    smooth = np.convolve(counts, (0.25, 0.5, 0.25), mode="same")
    top = smooth.max()
    if not top > 0:
        return ""
    middles = (edges[:-1] + edges[1:]) / 2
    points = [
        f"{x_px + width_px * count / top:.1f} {y(middle):.1f}"
        for count, middle in zip(smooth.tolist(), middles.tolist(), strict=True)
    ]
    return f"M{x_px} {y(y.low):.1f}L" + "L".join(points) + f"L{x_px} {y(y.high):.1f}Z"
