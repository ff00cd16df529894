"""A tape's states along the converter's counts, ready to draw; and rare things in words."""

import math
from dataclasses import dataclass

from aldea.core.base.figures import figure, ohms, thousands
from aldea.core.calibrate.tape import Baseline, water_ohm
from aldea.core.devices.sensors.leak_tape.states import Edges
from aldea.core.physics.divider import Divider
from aldea.web.shell.plot import Scale

LEFT, RIGHT = 10, 890
NARROWEST_NAMED = 34
RAREST = 1e-9
FILLS = {"open": "sunk", "dry": "plate", "damp": "timeline", "wet": "timeline2", "short": "sunk"}


@dataclass(frozen=True, slots=True, kw_only=True)
class StateRow:
    """A state: the counts that mean it, the water that makes it, where it is drawn.

    `whole` is what an ohmmeter shows: the water and the dry tape with its end resistor in parallel.
    """

    name: str
    counts: str
    water: str
    whole: str
    x: float
    width: float

    @property
    def fill(self) -> str:
        """The colour that it is drawn in."""
        return FILLS[self.name]

    @property
    def label(self) -> str:
        """Its name, where there is room for it."""
        return self.name if self.width > NARROWEST_NAMED else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StatesDrawing:
    """All states, the baseline in them, and what it is."""

    states: tuple[StateRow, ...]
    baseline: str
    baseline_x: float
    full_scale_counts: int


def states_drawing(
    divider: Divider, baseline: Baseline, edges: Edges, strays: int
) -> StatesDrawing:
    """Lay the states out; `strays` of the dry readings lie in another state by these edges."""
    return StatesDrawing(
        states=_states(divider, baseline, edges),
        baseline=f"{figure(baseline.mean, 1)} ± {figure(baseline.sd, 2)} counts, "
        f"from {baseline.count} readings, {strays} of them beyond dry",
        baseline_x=_x(divider, baseline.mean),
        full_scale_counts=divider.full_scale_counts,
    )


def _x(divider: Divider, counts: float) -> float:
    scale = Scale(low=0, high=divider.full_scale_counts, pixel_low=LEFT, pixel_high=RIGHT)
    return round(min(max(scale(counts), LEFT), RIGHT), 1)


def _states(divider: Divider, baseline: Baseline, edges: Edges) -> tuple[StateRow, ...]:
    full = float(divider.full_scale_counts)
    ends = [0.0, edges.damp_at, edges.wet_at, edges.short_at, full]
    names = ["dry", "damp", "wet", "short"]
    if not edges.rises:
        ends = [full, edges.damp_at, edges.wet_at, edges.short_at, 0.0]
    if edges.open_at is not None:
        ends.insert(1, edges.open_at)
        names.insert(0, "open")
    rows = []
    for state, start, end in zip(names, ends, ends[1:], strict=False):
        low, high = min(start, end), max(start, end)
        x, right = _x(divider, low), _x(divider, high)
        water = whole = "–"
        if state in ("damp", "wet"):
            first, last = (water_ohm(divider, baseline.mean, edge) for edge in (end, start))
            water = f"{water_words(first)} to {water_words(last)}"
            whole = " to ".join(water_words(divider.sensor_ohm(edge)) for edge in (end, start))
        rows.append(
            StateRow(
                name=state,
                counts=f"{figure(low, 0)} to {figure(high, 0)}",
                water=water,
                whole=whole,
                x=x,
                width=round(right - x, 1),
            )
        )
    return tuple(rows)


def water_words(value_ohm: float | None) -> str:
    """The resistance of water to three figures; `none` where there is none."""
    if value_ohm is None or math.isinf(value_ohm):
        return "none"
    return ohms(float(f"{value_ohm:.3g}"))


def rare(value: float) -> str:
    """A small number that can be read: `0.12`, `1 in 40 000`, `< 10⁻⁹`."""
    if value >= 0.01:
        return figure(value, 2)
    return "< 10⁻⁹" if value < RAREST else f"1 in {_thousands(1 / value)}"


def often(a_year: float) -> str:
    """How often something happens: `0.12 times a year`, `once in 40 000 years`."""
    if a_year >= 0.01:
        return f"{figure(a_year, 2)} times a year"
    if a_year < RAREST:
        return "less than once in 10⁹ years"
    return f"once in {_thousands(1 / a_year)} years"


def _thousands(value: float) -> str:
    return thousands(float(f"{value:.3g}"))
