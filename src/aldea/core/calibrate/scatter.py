"""How far one reading scatters: what repeats leave, what points leave beside the line, or both.

A reading is explained by its reference, its way (from drier, from wetter) and nothing else. What
is left inside a point is pure error, what is left between points is lack of fit (Draper and Smith,
Applied Regression Analysis, 3rd ed., 2.1). They are pooled unless an F test at 25 % parts them:
the level that Bancroft gives for a test before pooling (Biometrics 20, 1964, 427).
"""

import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.figures import short
from aldea.core.calibrate.calibration_line import CalibrationLine
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.uncertainty_budget import BudgetRow

UNEVEN = 0.05  # level at which ways differ from point to point by more than repeats scatter
APART = 0.25  # level at which points lie beside the line: to pool, be sure that they do not
LINE_LABEL = "The line through"
BESIDE_LABEL = "Points beside the line"
TINY = 1e-18  # a mean square under which only rounding is left
WAY = {"drier": -0.5, "wetter": 0.5}


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """A standard deviation in the unit of a reading, and its degrees of freedom."""

    sd: float
    degrees_of_freedom: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Scatter:
    """The scatter of one reading about its line, in the unit of a reading.

    `reading` is what one reading scatters. `points` is what distinct points lie beside the line
    where readings do not explain it, else None; `means` are the readings of those points.
    `uneven_ways`: hysteresis is not the same at each point. `source`: `repeats`, `pooled` with the
    lack of fit, `misfit` alone, or `assumed`.
    """

    reading: Estimate
    points: Estimate | None
    means: tuple[float, ...]
    source: Literal["repeats", "pooled", "misfit", "assumed"]
    uneven_ways: bool = False

    @property
    def line(self) -> Estimate:
        """The estimate from which the doubt of the line follows."""
        return self.points or self.reading

    def leverage_1(self, line: CalibrationLine, reading: float) -> float:
        """Factor on `line` that gives the doubt of the line at a reading.

        √(1/n + (x − x̄)²/Sxx) over readings, or over points where those scatter by themselves.
        """
        if self.points is None:
            return line.leverage_1(reading)
        x = np.array(self.means)
        slope = (reading - x.mean()) ** 2 / ((x - x.mean()) ** 2).sum() if line.is_sloped else 0.0
        return math.sqrt(1 / len(x) + float(slope))


def scatter_of(
    fitted: Sequence[Pair],
    line: CalibrationLine,
    point_of: Callable[[Pair], Hashable],
    assumed: float,
) -> Scatter:
    """The scatter of one reading: one estimate, or two where points lie beside the line.

    `point_of` names the point of a pair (its salt, its temperature). Inside points: what repeats
    scatter, and how the ways differ from point to point. Between points: the lack of fit, kept
    apart where it is significant, else pooled. With nothing left over the scatter is `assumed`,
    and counts as sure.
    """
    names = [point_of(pair) for pair in fitted]
    means = [_mean_of_ways(fitted, names, name) for name in dict.fromkeys(names)]
    strata = _strata(fitted, names, sloped=line.is_sloped)
    uneven = strata.ways.is_beyond(strata.repeats, UNEVEN)
    inside = strata.repeats if uneven else strata.repeats.with_(strata.ways)
    lack = strata.lack
    if not inside.degrees and not lack.degrees:
        sure = Estimate(sd=assumed, degrees_of_freedom=math.inf)
        return Scatter(reading=sure, points=None, means=(), source="assumed")
    if not lack.degrees:
        reading = inside.estimate
        return Scatter(reading=reading, points=None, means=(), source="repeats", uneven_ways=uneven)
    if not inside.degrees:
        return Scatter(reading=lack.estimate, points=None, means=(), source="misfit")
    if not lack.is_beyond(inside, APART):
        pooled = inside.with_(lack).estimate
        return Scatter(reading=pooled, points=None, means=(), source="pooled", uneven_ways=uneven)
    references = np.array([reference for _, reference in means])
    at = np.array([reading for reading, _ in means])
    columns = (np.ones_like(at), references) if line.is_sloped else (np.ones_like(at),)
    beside = _Squares(_residual_sum(np.column_stack(columns), at - references), lack.degrees)
    return Scatter(
        reading=inside.estimate,
        points=beside.estimate,
        means=tuple(at.tolist()),
        source="misfit",
        uneven_ways=uneven,
    )


class _Squares(NamedTuple):
    """A sum of squares with its degrees of freedom."""

    total: float
    degrees: int

    @property
    def estimate(self) -> Estimate:
        return Estimate(
            sd=math.sqrt(self.total / self.degrees), degrees_of_freedom=float(self.degrees)
        )

    def with_(self, other: "_Squares") -> "_Squares":
        return _Squares(self.total + other.total, self.degrees + other.degrees)

    def is_beyond(self, other: "_Squares", level: float) -> bool:
        """Whether the mean square is larger than another by an F test at a level."""
        from scipy.special import fdtrc  # noqa: PLC0415  a quarter second, for this line alone

        if not self.degrees or not other.degrees or self.total <= TINY:
            return False
        if other.total <= TINY:
            return True
        ratio = self.total / self.degrees / (other.total / other.degrees)
        return bool(fdtrc(self.degrees, other.degrees, ratio) < level)


class _Strata(NamedTuple):
    """Where the scatter of errors stands: in repeats, in how ways differ, beside the line."""

    repeats: _Squares
    ways: _Squares
    lack: _Squares


def _strata(fitted: Sequence[Pair], names: Sequence[Hashable], *, sloped: bool) -> _Strata:
    points = list(dict.fromkeys(names))
    groups = [(name, pair.approach) for name, pair in zip(names, fitted, strict=True)]
    group_list = list(dict.fromkeys(groups))
    # A jar at another temperature stands at another humidity: errors repeat, readings need not.
    errors = np.array([pair.reading - pair.reference for pair in fitted])
    references = np.array([pair.reference for pair in fitted])
    group = np.array([group_list.index(one) for one in groups])
    point = np.array([points.index(one) for one in names])
    both = len(group_list) > len(points)
    way = np.array([[WAY.get(pair.approach, 0.0)] for pair in fitted])[:, : 1 if both else 0]
    by_point = np.hstack([(point[:, None] == np.arange(len(points))).astype(float), way])
    at = np.array([references[point == one].mean() for one in point])
    on_line = np.column_stack([np.ones_like(at), *([at] if sloped else []), way])
    repeats = sum(
        float(((own - own.mean()) ** 2).sum())
        for own in (errors[group == one] for one in range(len(group_list)))
    )
    inside, whole = _residual_sum(by_point, errors), _residual_sum(on_line, errors)
    return _Strata(
        _Squares(repeats, len(fitted) - len(group_list)),
        _Squares(max(0.0, inside - repeats), len(group_list) - by_point.shape[1]),
        _Squares(max(0.0, whole - inside), max(0, len(points) - (2 if sloped else 1))),
    )


def _residual_sum(design: FloatArray, values: FloatArray) -> float:
    """Sum of the squares that a least-squares fit leaves."""
    fit, *_ = np.linalg.lstsq(design, values, rcond=None)
    rest = values - design @ fit
    return float(rest @ rest)


def _mean_of_ways(
    fitted: Sequence[Pair], names: Sequence[Hashable], point: Hashable
) -> tuple[float, float]:
    """Mean reading and reference of a point, its ways weighing the same."""
    ways: dict[str, list[Pair]] = defaultdict(list)
    for name, pair in zip(names, fitted, strict=True):
        if name == point:
            ways[pair.approach].append(pair)
    means = [
        (
            sum(pair.reading for pair in way) / len(way),
            sum(pair.reference for pair in way) / len(way),
        )
        for way in ways.values()
    ]
    return sum(r for r, _ in means) / len(means), sum(r for _, r in means) / len(means)


def scatter_rows(
    line: CalibrationLine, fitted: Sequence[Pair], scatter: Scatter, resolution: float
) -> tuple[BudgetRow, ...]:
    """Rows that every line has: scatter and line, which rest on one estimate, and resolution.

    The doubt of the line is taken where it is largest inside the range.
    """
    ground: Literal["measured", "stated"] = "stated" if scatter.source == "assumed" else "measured"
    ends = [f([pair.reading for pair in fitted]) for f in (min, max)]
    leverage = max(scatter.leverage_1(line, end) for end in ends)
    several = "pair" if line.n == 1 else "pairs"
    through = f"{len(scatter.means)} points" if scatter.points else f"{line.n} {several}"
    alone = scatter.points is None and scatter.source == "misfit"
    rows = [(BESIDE_LABEL if alone else "One reading's scatter", scatter.reading, 1.0)]
    if scatter.points is not None:
        rows.append((BESIDE_LABEL, scatter.points, 1.0))
    rows.append((f"{LINE_LABEL} {through}", scatter.line, leverage))
    resolved = BudgetRow(
        label=f"Resolution {short(resolution)}",
        value=resolution,
        distribution="resolution",
        sensitivity=line.slope,
        ground="stated",
    )
    return (
        *(
            BudgetRow(
                label=label,
                value=estimate.sd * factor,
                distribution="standard",
                sensitivity=line.slope,
                degrees_of_freedom=estimate.degrees_of_freedom,
                ground=ground,
                estimate="points" if estimate is scatter.points else "reading",
            )
            for label, estimate, factor in rows
        ),
        resolved,
    )
