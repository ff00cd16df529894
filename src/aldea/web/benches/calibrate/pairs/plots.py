"""Pairs over their reference: errors before the fit, residuals after it, with whiskers."""

import math
from dataclasses import dataclass

from aldea.core.base.figures import figure, signed
from aldea.core.calibrate.fit import Fit, PairResult
from aldea.web.shell.plot import GridLine, Scale, round_range

PLOT_WIDTH, PLOT_LEFT = 520, 40
ERROR_PX, RESIDUAL_PX = 200, 170


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """A pair in a plot: where it stands and how far its reference may be off."""

    x: float
    y: float
    y_low: float
    y_high: float
    shape: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PairPlot:
    """Points over the reference, with what is drawn behind them."""

    points: tuple[Point, ...]
    grid: tuple[GridLine, ...]
    line: tuple[float, float, float, float] | None
    band: tuple[float, float] | None

    @property
    def band_height(self) -> float:
        """Height of the band, px; 0 where there is none."""
        return round(self.band[1] - self.band[0], 1) if self.band else 0.0


@dataclass(frozen=True, slots=True)
class Axis:
    """The references along the plots."""

    low: float
    high: float
    step: float

    def x(self, reference: float) -> float:
        """Where a reference stands, px; at the edge where it is beyond."""
        left, right = PLOT_LEFT, PLOT_WIDTH - 8
        scale = Scale(low=self.low, high=self.high, pixel_low=left, pixel_high=right)
        return round(min(max(scale(reference), left), right), 1)


def _spread(results: tuple[PairResult, ...]) -> list[float]:
    """Sideways offsets, so that pairs of one jar do not cover one another."""
    seen: dict[int, int] = {}
    offsets = []
    for result in results:
        place = round(result.pair.reference)
        offsets.append(seen.get(place, 0) * 9.0)
        seen[place] = seen.get(place, 0) + 1
    return [
        offset - (seen[round(r.pair.reference)] - 1) * 4.5
        for offset, r in zip(offsets, results, strict=True)
    ]


def _shape(approach: str) -> str:
    return {"drier": "up", "wetter": "down", "point": "up", "check": "diamond"}[approach]


def _points(
    results: tuple[PairResult, ...], values: list[float], y: Scale, axis: Axis, unit: str
) -> tuple[Point, ...]:
    return tuple(
        Point(
            x=round(axis.x(result.pair.reference) + offset, 1),
            y=round(y(value), 1),
            y_low=round(y(value - result.pair.reference_expanded), 1),
            y_high=round(y(value + result.pair.reference_expanded), 1),
            shape=_shape(result.pair.approach),
            label=f"{figure(result.pair.reference)}: {signed(value)} {unit}",
        )
        for result, value, offset in zip(results, values, _spread(results), strict=True)
    )


def _grid(low: float, high: float, step: float, y: Scale) -> tuple[GridLine, ...]:
    count = round((high - low) / step)
    return tuple(
        GridLine(
            at=round(y(low + i * step), 1),
            text=signed(low + i * step, 0 if step >= 1 else 1 if step >= 0.1 else 2),
            strong=abs(low + i * step) < 1e-9,
        )
        for i in range(count + 1)
    )


def _step(top: float) -> float:
    """Distance of grid lines: a round figure that leaves three to eight of them each way."""
    for step in (0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0):
        if top <= 4 * step:
            return step
    return 10.0 * math.ceil(top / 40)


def error_plot(results: tuple[PairResult, ...], fit: Fit | None, axis: Axis, unit: str) -> PairPlot:
    """Reading minus reference of every pair, with the line that the fit takes out."""
    values = [result.error for result in results]
    reach = [abs(v) + r.pair.reference_expanded for v, r in zip(values, results, strict=True)]
    top = max([*reach, 2.0 if unit == "%RH" else 0.5])
    step = _step(top)
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    y = Scale(low=low, high=high, pixel_low=ERROR_PX - 6, pixel_high=6)
    line = None
    if fit is not None:
        ends = [
            (reference - fit.line.intercept) / fit.line.slope - reference
            for reference in (axis.low, axis.high)
        ]
        line = (axis.x(axis.low), round(y(ends[0]), 1), axis.x(axis.high), round(y(ends[1]), 1))
    return PairPlot(
        points=_points(results, values, y, axis, unit),
        grid=_grid(low, high, step, y),
        line=line,
        band=None,
    )


def residual_plot(fit: Fit, axis: Axis, unit: str) -> PairPlot:
    """What is left of every pair after the fit, with what the certificate will say."""
    values = [result.residual for result in fit.results]
    reach = [abs(v) + r.pair.reference_expanded for v, r in zip(values, fit.results, strict=True)]
    top = max([*reach, fit.expanded * 1.25])
    step = _step(top)
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    y = Scale(low=low, high=high, pixel_low=RESIDUAL_PX - 6, pixel_high=6)
    edge = fit.expanded
    return PairPlot(
        points=_points(fit.results, values, y, axis, unit),
        grid=_grid(low, high, step, y),
        line=None,
        band=(round(y(edge), 1), round(y(-edge), 1)),
    )
