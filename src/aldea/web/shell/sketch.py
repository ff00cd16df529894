"""A small drawing of findings: lines, dots and marks over two axes, with round figures on them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from aldea.core.base.figures import short
from aldea.web.shell.plot import GridLine, Scale

WIDTH, HEIGHT = 560, 220
LEFT, RIGHT, TOP, BOTTOM = 56, 22, 14, 30
TICKS = 5
Style = Literal["line", "steps", "dots"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn:
    """One set of points as a path; `style` decides the pen."""

    style: Style
    path: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A named line across the drawing, level or upright."""

    at: float
    text: str
    upright: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Sketch:
    """Everything a template needs to draw it."""

    title: str
    x_words: str
    y_words: str
    drawn: tuple[Drawn, ...]
    x_ticks: tuple[GridLine, ...]
    y_ticks: tuple[GridLine, ...]
    marks: tuple[Mark, ...]


Points = tuple[Style, Sequence[float], Sequence[float]]


def make_sketch(
    title: str,
    *,
    x_words: str,
    y_words: str,
    points: Sequence[Points],
    levels: Sequence[tuple[float, str]] = (),
    moments: Sequence[tuple[float, str]] = (),
    from_zero: bool = False,
    x_is_log: bool = False,
) -> Sketch:
    """Lay out sets of points and named marks; the axes hold all of them.

    With `x_is_log` the given x are decadic logarithms; the axis says the figures themselves.
    """
    xs = [x for _, part, _ in points for x in part] + [at for at, _ in moments]
    ys = [y for _, _, part in points for y in part] + [at for at, _ in levels]
    x_ticks, x = _axis(xs, LEFT, WIDTH - RIGHT, from_zero=False)
    if x_is_log:
        x_ticks = tuple(
            GridLine(at=tick.at, text=short(10.0 ** float(tick.text.replace("−", "-"))))
            for tick in x_ticks
        )
    y_ticks, y = _axis(ys, HEIGHT - BOTTOM, TOP, from_zero=from_zero)
    return Sketch(
        title=title,
        x_words=x_words,
        y_words=y_words,
        drawn=tuple(
            Drawn(style=style, path=_path(style, part_x, part_y, x, y))
            for style, part_x, part_y in points
        ),
        x_ticks=x_ticks,
        y_ticks=y_ticks,
        marks=(
            *(Mark(at=round(y(at), 1), text=text, upright=False) for at, text in levels),
            *(Mark(at=round(x(at), 1), text=text, upright=True) for at, text in moments),
        ),
    )


def _axis(
    values: Sequence[float], low_px: float, high_px: float, *, from_zero: bool
) -> tuple[tuple[GridLine, ...], Scale]:
    low, high = min(values), max(values)
    if from_zero:
        low = min(0.0, low)
    if high <= low:
        low, high = low - 0.5, high + 0.5
    step = _round_step((high - low) / TICKS)
    low, high = float(np.floor(low / step) * step), float(np.ceil(high / step) * step)
    scale = Scale(low=low, high=high, pixel_low=low_px, pixel_high=high_px)
    count = round((high - low) / step) + 1
    return tuple(
        GridLine(at=round(scale(low + i * step), 1), text=short(round(low + i * step, 9)))
        for i in range(count)
    ), scale


def _round_step(rough: float) -> float:
    size = float(10.0 ** np.floor(np.log10(rough)))
    return next(size * k for k in (1.0, 2.0, 2.5, 5.0, 10.0) if size * k >= rough * 0.999)


def _path(style: Style, xs: Sequence[float], ys: Sequence[float], x: Scale, y: Scale) -> str:
    places = [(round(x(a), 1), round(y(b), 1)) for a, b in zip(xs, ys, strict=True)]
    if not places:
        return ""
    if style == "dots":
        return "".join(f"M{a - 3} {b}a3 3 0 1 0 6 0a3 3 0 1 0 -6 0" for a, b in places)
    first, *rest = places
    if style == "steps":
        return f"M{first[0]} {first[1]}" + "".join(f"H{a}V{b}" for a, b in rest)
    return f"M{first[0]} {first[1]}" + "".join(f"L{a} {b}" for a, b in rest)
