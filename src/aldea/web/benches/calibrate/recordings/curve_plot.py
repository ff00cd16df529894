"""How far each curve misses each point, ready to draw."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from aldea.core.base.figures import figure, signed
from aldea.core.calibrate.thermistor_curve import CurvePoint
from aldea.web.shell.plot import GridLine, Scale, round_range

WIDTH, HEIGHT, LEFT = 560, 210, 46
SHAPES = {"plan": "diamond", "beta": "up", "steinhart": "down"}
STEPS_K = (0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Miss:
    """A miss in the plot: where, and of which curve; it has no whiskers."""

    x: float
    y: float
    shape: str
    label: str

    @property
    def y_low(self) -> float:
        """The lower end of its whisker."""
        return self.y

    @property
    def y_high(self) -> float:
        """The upper end of its whisker."""
        return self.y


@dataclass(frozen=True, slots=True, kw_only=True)
class MissesDrawing:
    """The whole plot."""

    misses: tuple[Miss, ...]
    grid: tuple[GridLine, ...]
    axis: tuple[GridLine, ...]


def misses_drawing(
    points: Sequence[CurvePoint], misses: Mapping[str, Sequence[float]]
) -> MissesDrawing:
    """Lay out the misses of each curve, K, at the points' temperatures."""
    temps = [p.temp_degc for p in points]
    low_t, high_t = round_range(min(temps) - 1, max(temps) + 1, at_least=10, step=10)
    top = max(0.05, *(abs(m) for values in misses.values() for m in values))
    step = next((s for s in STEPS_K if top <= 3 * s), 20.0)
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    x = Scale(low=low_t, high=high_t, pixel_low=LEFT, pixel_high=WIDTH - 8)
    y = Scale(low=low, high=high, pixel_low=HEIGHT - 6, pixel_high=6)
    places = 2 if step < 0.1 else 1
    ticks = round((high_t - low_t) / 10)
    every = max(1, ticks // 8)
    return MissesDrawing(
        misses=tuple(
            Miss(
                x=round(x(p.temp_degc), 1),
                y=round(y(miss), 1),
                shape=SHAPES[key],
                label=f"{figure(p.temp_degc)} °C: {signed(miss, 2)} K",
            )
            for key, values in misses.items()
            for p, miss in zip(points, values, strict=False)
        ),
        grid=tuple(
            GridLine(
                at=round(y(low + i * step), 1),
                text=signed(low + i * step, places),
                strong=abs(low + i * step) < 1e-9,
            )
            for i in range(round((high - low) / step) + 1)
        ),
        axis=tuple(
            GridLine(at=round(x(low_t + 10 * i), 1), text=figure(low_t + 10 * i, 0))
            for i in range(0, ticks + 1, every)
        ),
    )
