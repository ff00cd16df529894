"""The leak tape's bench: states in counts, false alarms by noise, response, wear."""

import math
from dataclasses import dataclass

from aldea.core.calibrate.tape import (
    Baseline,
    Edges,
    Watch,
    cell_years,
    exceeds_1,
    margin_for,
    run_1,
    starts_a_year,
    water_ohm,
)
from aldea.core.plan.sensors import LeakTape
from aldea.core.sensing.divider import Divider
from aldea.core.wire.conductors import ohms
from aldea.core.words.figures import figure, short, years
from aldea.core.words.times import span
from aldea.core.words.verdicts import Verdict
from aldea.web.views.plot import Scale

WIDTH, LEFT, RIGHT = 900, 10, 890


@dataclass(frozen=True, slots=True, kw_only=True)
class StateRow:
    """A state: the counts that mean it, and the water that makes it."""

    name: str
    counts: str
    water: str
    x: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class AlarmRow:
    """How often noise alone reaches a state."""

    name: str
    margin: str
    single: str
    once: str
    a_year: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TapeView:
    """Everything that the page shows of a baseline."""

    verdict: Verdict
    baseline: str
    states: tuple[StateRow, ...]
    alarms: tuple[AlarmRow, ...]
    baseline_x: float
    for_target: str
    slowest: str
    fed: str
    corrodes: str
    cell: str
    wet_ohm: float
    damp_ohm: float
    wet_words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What the form asks beyond thresholds and readings."""

    target_1: float
    stores_a_day: float
    slots: int
    endurance: float


RAREST = 1e-9


def _rare(value: float) -> str:
    """A small number that can be read: `0.12`, `1 in 40 000`, `< 10⁻⁹`."""
    if value >= 0.01:
        return figure(value, 2)
    return "< 10⁻⁹" if value < RAREST else f"1 in {_thousands(1 / value)}"


def _often(a_year: float) -> str:
    """How often something happens: `0.12 times a year`, `once in 40 000 years`."""
    if a_year >= 0.01:
        return f"{figure(a_year, 2)} times a year"
    return (
        "less than once in 10⁹ years"
        if a_year < RAREST
        else f"once in {_thousands(1 / a_year)} years"
    )


def _thousands(value: float) -> str:
    return f"{float(f'{value:.3g}'):,.0f}".replace(",", " ")


def make_tape_view(
    name: str,
    tape: LeakTape,
    divider: Divider,
    baseline: Baseline,
    edges: Edges,
    strays: int,
    watch: Watch,
    asked: Asked,
) -> TapeView:
    """Work everything out; `strays` of the dry readings lie in another state by these edges."""
    alarms = []
    starts: dict[str, float] = {}
    for state, edge in (("damp", edges.damp_at), ("wet", edges.wet_at)):
        margin = abs(edge - baseline.mean)
        p = exceeds_1(margin, baseline.sd, watch.samples)
        starts[state] = starts_a_year(p, watch.in_a_row, watch.readings_a_year)
        alarms.append(
            AlarmRow(
                name=state,
                margin=f"{figure(margin, 1)} counts, {figure(margin / baseline.sd, 1)} σ",
                single=_rare(p),
                once=_rare(run_1(p, watch.in_a_row, watch.readings_a_year)),
                a_year=_rare(starts[state]),
            )
        )
    margin = margin_for(baseline.sd, watch, asked.target_1)
    wet_ohm = float(f"{divider.sensor_ohm(edges.wet_at) or 1.0:.3g}")
    damp_ohm = float(f"{divider.sensor_ohm(edges.damp_at) or 1.0:.3g}")
    water = water_ohm(divider, baseline.mean, edges.wet_at)
    return TapeView(
        verdict=_verdict(name, starts, asked.target_1, water, margin, baseline),
        baseline=f"{figure(baseline.mean, 1)} ± {figure(baseline.sd, 2)} counts, "
        f"from {baseline.count} readings, {strays} of them beyond dry",
        states=_states(divider, baseline, edges),
        alarms=tuple(alarms),
        baseline_x=_x(divider, baseline.mean),
        for_target=f"{figure(margin, 1)} counts, {figure(100 * margin / baseline.mean, 2)} %",
        slowest=span(watch.slowest_s),
        fed=f"{figure(100 * watch.share_fed_1, 4)} % of the time",
        corrodes=_corrodes(tape, watch),
        cell=f"{years(cell_years(asked.slots, asked.endurance, asked.stores_a_day))} years",
        wet_ohm=wet_ohm,
        damp_ohm=damp_ohm,
        wet_words=f"{ohms(wet_ohm)}, damp at {ohms(damp_ohm)}",
    )


def _verdict(
    name: str,
    starts: dict[str, float],
    target_1: float,
    water: float | None,
    margin: float,
    baseline: Baseline,
) -> Verdict:
    said = f"water of {_water(water)} and less is wet" if water else "wet needs no water"
    worst = max(starts.values())
    if worst <= target_1:
        return Verdict(
            mark="holds",
            sentence=f"{name}: {said}; noise alone alarms {_often(worst)}.",
            rest="Noise that hangs together over hours alarms more often: watch it for a week.",
        )
    needed = figure(100 * margin / baseline.mean, 2)
    return Verdict(
        mark="fails",
        sentence=f"{name}: noise alone would alarm {_often(worst)}.",
        rest=f"{short(target_1)} a year wants {needed} % or more, or more samples, or more in a "
        "row.",
    )


def _corrodes(tape: LeakTape, watch: Watch) -> str:
    if tape.excitation == "constant":
        return "constant current eats one electrode: pulse it, or turn it round"
    if tape.excitation == "alternating":
        return "turned round each time: nothing is carried from one electrode to the other"
    return f"constant current would eat it {figure(1 / watch.share_fed_1, 0)} times as fast"


def _water(value: float | None) -> str:
    if value is None or math.isinf(value):
        return "none"
    return ohms(float(f"{value:.3g}"))


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
        water = "–"
        if state in ("damp", "wet"):
            first, last = (water_ohm(divider, baseline.mean, edge) for edge in (end, start))
            water = f"{_water(first)} to {_water(last)}"
        rows.append(
            StateRow(
                name=state,
                counts=f"{figure(low, 0)} to {figure(high, 0)}",
                water=water,
                x=x,
                width=round(right - x, 1),
            )
        )
    return tuple(rows)
