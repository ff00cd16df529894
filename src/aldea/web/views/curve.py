"""A thermistor's curve: what each curve makes of the points, and what to take."""

from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.calibrate.detective import Assumptions
from aldea.core.calibrate.thermistor_curve import (
    HIGHEST_DEGC,
    LOWEST_DEGC,
    BetaCurve,
    CurvePoint,
    SteinhartHart,
    beta_curve,
    self_heating_k,
    steinhart_hart,
    warmed_degc,
)
from aldea.core.errors import InputError
from aldea.core.plan.document import Probe
from aldea.core.plan.sensors import Thermistor
from aldea.core.sensing.divider import Divider
from aldea.core.sensing.thermistor import kelvin_per_count, thermistor_ohm
from aldea.core.wire.conductors import ohms
from aldea.core.words.figures import figure, signed
from aldea.core.words.verdicts import Verdict
from aldea.web.views.plot import Scale, round_range

WIDTH, HEIGHT, LEFT = 560, 210, 46
GOOD_K = 0.1  # what a house thermometer is asked for at its best
FEWEST_FOR_COEFFICIENTS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveRow:
    """A point with what each curve misses it by."""

    temp: str
    ohm: str
    plan: str
    beta: str
    steinhart: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A miss in the plot: where, and of which curve."""

    x: float
    y: float
    shape: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class GridLine:
    """A grid line with its label."""

    at: float
    text: str
    strong: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveView:
    """Everything that the page shows of a set of points."""

    verdict: Verdict
    rows: tuple[CurveRow, ...]
    marks: tuple[Mark, ...]
    grid: tuple[GridLine, ...]
    axis: tuple[GridLine, ...]
    beta: BetaCurve
    steinhart: SteinhartHart | None
    doubtful: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class NearView:
    """What the divider can tell near a temperature, and how it warms its own sensor."""

    per_count: str
    counts: str
    rise: str
    settles: str
    loaded: str
    leaked: str
    as_code: str


def plan_curve(sensor: Thermistor) -> BetaCurve | SteinhartHart:
    """The curve that the plan goes by: its three coefficients where it has them, else B."""
    if sensor.curve is None:
        return BetaCurve(r25_ohm=sensor.r25_ohm, beta_k=sensor.beta_k)
    a, b, c = sensor.curve
    return SteinhartHart(a=a, b=b, c=c, low_degc=LOWEST_DEGC, high_degc=HIGHEST_DEGC)


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveSister:
    """A thermistor that may take the curve: what it goes by now, and what it would move by."""

    probe: Probe
    before: str
    moves: str


def curve_sisters(
    made: Sequence[tuple[Probe, Thermistor]],
    fitted: BetaCurve | SteinhartHart,
    near_degc: float,
) -> tuple[CurveSister, ...]:
    """Every thermistor with its own before and after, at the temperature that matters."""
    rows = []
    for probe, sensor in made:
        old = plan_curve(sensor)
        ohm = (
            old.ohm(near_degc)
            if isinstance(old, SteinhartHart)
            else thermistor_ohm(near_degc, r25_ohm=old.r25_ohm, beta_k=old.beta_k)
        )
        before = (
            "three coefficients"
            if sensor.curve
            else f"B {figure(sensor.beta_k, 0)} K, {ohms(sensor.r25_ohm)}"
        )
        moves = f"{signed(fitted.degc(ohm) - near_degc, 2)} K at {figure(near_degc, 0)} °C"
        rows.append(CurveSister(probe=probe, before=before, moves=moves))
    return tuple(rows)


def coefficients(curve: SteinhartHart | None) -> tuple[float, float, float] | None:
    """The three as the plan keeps them: ten digits, far below a millikelvin."""
    if curve is None:
        return None
    a, b, c = (float(f"{value:.10g}") for value in (curve.a, curve.b, curve.c))
    return a, b, c


def make_curve_view(
    name: str, points: Sequence[CurvePoint], plan: BetaCurve | SteinhartHart
) -> CurveView:
    """Fit what can be fitted, and compare; raises `CalibrationError` where nothing can be."""
    ordered = sorted(points, key=lambda p: p.temp_degc)
    beta = beta_curve(ordered)
    enough = len({p.temp_degc for p in ordered}) >= FEWEST_FOR_COEFFICIENTS
    steinhart = steinhart_hart(ordered) if enough else None
    misses = {
        "plan": [plan.degc(p.ohm) - p.temp_degc for p in ordered],
        "beta": [beta.degc(p.ohm) - p.temp_degc for p in ordered],
        "steinhart": [steinhart.degc(p.ohm) - p.temp_degc for p in ordered] if steinhart else [],
    }
    worst = {key: max(map(abs, values)) for key, values in misses.items() if values}
    marks, grid, axis = _plot(ordered, misses)
    return CurveView(
        verdict=_verdict(name, worst, beta, steinhart),
        rows=tuple(
            CurveRow(
                temp=figure(p.temp_degc, 2),
                ohm=figure(p.ohm, 0),
                plan=signed(misses["plan"][i], 2),
                beta=signed(misses["beta"][i], 2),
                steinhart=signed(misses["steinhart"][i], 3) if steinhart else "–",
            )
            for i, p in enumerate(ordered)
        ),
        marks=marks,
        grid=grid,
        axis=axis,
        beta=beta,
        steinhart=steinhart,
        doubtful=steinhart is not None and steinhart.doubtful,
    )


def _verdict(
    name: str, worst: dict[str, float], beta: BetaCurve, steinhart: SteinhartHart | None
) -> Verdict:
    fitted = f"B {figure(beta.beta_k, 0)} K and {figure(beta.r25_ohm, 0)} Ω at 25 °C"
    if steinhart is not None and steinhart.doubtful:
        return Verdict(
            mark="fails",
            sentence=f"{name}: the third coefficient is negative.",
            rest="Real thermistors have a positive one: one of the points is most likely a slip.",
        )
    better = f"{fitted} would miss by {figure(worst['beta'], 2)} K"
    if steinhart is not None:
        better += f", three coefficients by {figure(worst['steinhart'], 3)}"
    if worst["plan"] <= GOOD_K:
        return Verdict(
            mark="holds",
            sentence=f"{name}: the plan’s curve misses no point by more than "
            f"{figure(worst['plan'], 2)} K.",
            rest=f"{better}.",
        )
    return Verdict(
        mark="owed",
        sentence=f"{name}: the plan’s curve misses by up to {figure(worst['plan'], 2)} K.",
        rest=f"{better}.",
    )


def _plot(
    points: Sequence[CurvePoint], misses: dict[str, list[float]]
) -> tuple[tuple[Mark, ...], tuple[GridLine, ...], tuple[GridLine, ...]]:
    temps = [p.temp_degc for p in points]
    low_t, high_t = round_range(min(temps) - 1, max(temps) + 1, at_least=10, step=10)
    top = max(0.05, *(abs(m) for values in misses.values() for m in values))
    step = next((s for s in (0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0) if top <= 3 * s), 20.0)
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    x = Scale(low=low_t, high=high_t, pixel_low=LEFT, pixel_high=WIDTH - 8)
    y = Scale(low=low, high=high, pixel_low=HEIGHT - 6, pixel_high=6)
    shapes = {"plan": "diamond", "beta": "up", "steinhart": "down"}
    marks = tuple(
        Mark(
            x=round(x(p.temp_degc), 1),
            y=round(y(miss), 1),
            shape=shapes[key],
            label=f"{figure(p.temp_degc)} °C: {signed(miss, 2)} K",
        )
        for key, values in misses.items()
        for p, miss in zip(points, values, strict=False)
    )
    places = 2 if step < 0.1 else 1
    count = round((high - low) / step)
    grid = tuple(
        GridLine(
            at=round(y(low + i * step), 1),
            text=signed(low + i * step, places),
            strong=abs(low + i * step) < 1e-9,
        )
        for i in range(count + 1)
    )
    ticks = round((high_t - low_t) / 10)
    every = max(1, ticks // 8)
    axis = tuple(
        GridLine(at=round(x(low_t + 10 * i), 1), text=figure(low_t + 10 * i, 0))
        for i in range(0, ticks + 1, every)
    )
    return marks, grid, axis


def near_view(
    assumed: Assumptions,
    curve: BetaCurve,
    temp_degc: float,
    *,
    loss_mw_per_k: float,
    duty: float,
    input_mohm: float,
    leakage_na: float,
) -> NearView:
    """One count, self-heating, and what the converter's own input does, at a temperature."""
    facts = {"r25_ohm": curve.r25_ohm, "beta_k": curve.beta_k}
    ohm = thermistor_ohm(temp_degc, **facts)
    divider = assumed.divider
    loss = loss_mw_per_k / 1000
    if not loss > 0:
        raise InputError("loss", got=f"{loss_mw_per_k:g} mW/K", allowed="above 0")
    rise = self_heating_k(divider, ohm, dissipation_w_per_k=loss, duty=duty)
    settles = warmed_degc(divider, temp_degc, curve=curve, dissipation_w_per_k=loss, duty=duty)
    return NearView(
        per_count=f"{figure(kelvin_per_count(divider, temp_degc, **facts), 3)} K",
        counts=figure(divider.counts(ohm), 0),
        rise=f"{figure(rise, 3)} K",
        settles=f"{figure(settles, 3)} °C",
        loaded=_moved(curve, temp_degc, divider.loaded_ohm(ohm, input_mohm * 1e6)),
        leaked=_moved(curve, temp_degc, divider.leaked_ohm(ohm, leakage_na * 1e-9)),
        as_code=_at_code(curve, divider, ohm),
    )


def _moved(curve: BetaCurve, temp_degc: float, ohm: float | None) -> str:
    if ohm is None or ohm <= 0:
        return "out of range"
    return f"{signed(curve.degc(ohm) - temp_degc, 3)} K"


def _at_code(curve: BetaCurve, divider: Divider, ohm: float) -> str:
    code = divider.code(divider.volts(ohm))
    inferred = divider.ohm_of_code(code)
    if inferred is None or inferred <= 0:
        return f"{code}, the end of the range"
    return f"{code}, read as {figure(curve.degc(inferred), 2)} °C"
