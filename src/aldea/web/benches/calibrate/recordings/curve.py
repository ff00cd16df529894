"""A thermistor's curve: what each curve makes of the points, and which one to take."""

from collections.abc import Sequence

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import figure, ohms, signed
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
from aldea.core.devices.sensors.thermistor.law import kelvin_per_count, thermistor_ohm
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.physics.divider import Divider
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edits import put_part
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Beside,
    Choice,
    Drawing,
    Found,
    Given,
    RecordingsBench,
    Table,
    Take,
    filled,
    probes_made_as,
    sensor_of,
)
from aldea.web.benches.calibrate.recordings.curve_plot import misses_drawing
from aldea.web.benches.calibrate.recordings.curve_points import (
    OHM_UNITS,
    TEMP_UNITS,
    curve_points,
)
from aldea.web.benches.calibrate.recordings.thermistors import assumed_here, thermistors
from aldea.web.shell.forms import Fields

GOOD_K = 0.1  # what a house thermometer is asked for at its best
FEWEST_FOR_COEFFICIENTS = 3
LOWEST_BETA_K, HIGHEST_BETA_K = 1000, 8000
WHICH = (("three", "Steinhart–Hart, three coefficients"), ("b", "B and 25 °C alone"))
ASKS = (
    Ask(name="temp_unit", label="Unit of the temperatures", first="degc", options=TEMP_UNITS),
    Ask(name="ohm_unit", label="Unit of the second column", first="ohm", options=OHM_UNITS),
    Ask(name="points", label="Points, temperature and resistance, one pair a line", rows=5),
    Ask(name="which", label="Which law", first="three", options=WHICH),
    Ask(name="near_degc", label="Near the threshold", unit="°C", first="20", low=-55, high=150),
    Ask(
        name="loss_mw_per_k",
        label="Loses, in still air",
        unit="mW/K",
        first="1.5",
        low=0.05,
        high=1000,
    ),
    Ask(name="duty_pct", label="Fed for", unit="% of the time", first="100", high=100),
    Ask(
        name="input_mohm",
        label="The pin’s own resistance",
        unit="MΩ",
        first="10",
        low=0.001,
        high=1e6,
    ),
    Ask(name="leakage_na", label="Leaks into it", unit="nA", first="50", low=-1e5, high=1e5),
)
BY_NAME = {ask.name: ask for ask in ASKS}
Curve = BetaCurve | SteinhartHart


def plan_curve(sensor: Thermistor) -> Curve:
    """The curve that the plan goes by: its three coefficients where it has them, else B."""
    if sensor.curve is None:
        return BetaCurve(r25_ohm=sensor.r25_ohm, beta_k=sensor.beta_k)
    a, b, c = sensor.curve
    return SteinhartHart(a=a, b=b, c=c, low_degc=LOWEST_DEGC, high_degc=HIGHEST_DEGC)


def coefficients(curve: SteinhartHart | None) -> tuple[float, float, float] | None:
    """The three as the plan keeps them: ten digits, far below a millikelvin."""
    if curve is None:
        return None
    a, b, c = (float(f"{value:.10g}") for value in (curve.a, curve.b, curve.c))
    return a, b, c


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return ASKS


def _fitted(points: Sequence[CurvePoint]) -> tuple[BetaCurve, SteinhartHart | None]:
    enough = len({p.temp_degc for p in points}) >= FEWEST_FOR_COEFFICIENTS
    return beta_curve(points), steinhart_hart(points) if enough else None


def _calculate(given: Given) -> Found:
    assumed = assumed_here(given)
    near_degc = given.number(BY_NAME["near_degc"])
    wants_three = given.fields.choice("which", dict(WHICH)) == "three"
    sensor = sensor_of(given.plan, given.subject, Thermistor)
    try:
        points = sorted(curve_points(given, assumed), key=lambda p: p.temp_degc)
        beta, steinhart = _fitted(points)
    except (InputError, CalibrationError) as exc:
        given.fields.errors.setdefault("points", exc.sentence)
        raise
    curves = {"plan": plan_curve(sensor), "beta": beta, "steinhart": steinhart}
    misses = {
        key: [curve.degc(p.ohm) - p.temp_degc for p in points] if curve else []
        for key, curve in curves.items()
    }
    takes: tuple[Take, ...] = ()
    if steinhart is None or not steinhart.doubtful:
        three = steinhart if wants_three else None
        takes = (_take(given, beta, three, near_degc),)
    return Found(
        verdict=_verdict(given.probe.name, misses, beta, steinhart),
        plot=Drawing(
            template="calibrate/recordings/curve.html", view=misses_drawing(points, misses)
        ),
        facts=_facts(assumed, sensor, beta, steinhart),
        tables=(
            Table(
                bold=frozenset({0}),
                title="Points",
                head=("°C", "Ω", "plan, K", "B fitted, K", "Steinhart–Hart, K"),
                rows=tuple(
                    (
                        figure(p.temp_degc, 2),
                        figure(p.ohm, 0),
                        signed(misses["plan"][i], 2),
                        signed(misses["beta"][i], 2),
                        signed(misses["steinhart"][i], 3) if steinhart else "–",
                    )
                    for i, p in enumerate(points)
                ),
                figures=frozenset({0, 1, 2, 3, 4}),
            ),
        ),
        takes=takes,
    )


def _facts(
    assumed: Assumptions, sensor: Thermistor, beta: BetaCurve, steinhart: SteinhartHart | None
) -> tuple[tuple[str, str], ...]:
    own = "three coefficients"
    if sensor.curve is None:
        own = f"B {figure(assumed.beta_k, 0)} K, {ohms(assumed.r25_ohm)}"
    facts = [
        ("The plan", own),
        ("B fitted", f"{figure(beta.beta_k)} K, {figure(beta.r25_ohm)} Ω at 25 °C"),
    ]
    if steinhart is not None:
        facts += [
            (f"Steinhart–Hart {name}", f"{value:.8e}")
            for name, value in (("A", steinhart.a), ("B", steinhart.b), ("C", steinhart.c))
        ]
    return tuple(facts)


def _verdict(
    name: str,
    misses: dict[str, list[float]],
    beta: BetaCurve,
    steinhart: SteinhartHart | None,
) -> Verdict:
    worst = {key: max(map(abs, values)) for key, values in misses.items() if values}
    if steinhart is not None and steinhart.doubtful:
        return Verdict(
            state="fails",
            sentence=f"{name}: the third coefficient is negative.",
            rest="Real thermistors have a positive one. One of the points is probably a typing "
            "error.",
        )
    better = (
        f"B {figure(beta.beta_k, 0)} K and {figure(beta.r25_ohm, 0)} Ω at 25 °C would miss by "
        f"{figure(worst['beta'], 2)} K"
    )
    if steinhart is not None:
        better += f", three coefficients by {figure(worst['steinhart'], 3)}"
    if worst["plan"] <= GOOD_K:
        return Verdict(
            state="holds",
            sentence=f"{name}: the plan’s curve misses no point by more than "
            f"{figure(worst['plan'], 2)} K.",
            rest=f"{better}.",
        )
    return Verdict(
        state="owed",
        sentence=f"{name}: the plan’s curve misses by up to {figure(worst['plan'], 2)} K.",
        rest=f"{better}.",
    )


def _take(given: Given, beta: BetaCurve, three: SteinhartHart | None, near_degc: float) -> Take:
    """The curve into the plan, for a chosen set of thermistors at once."""
    facts = {
        "r25_ohm": round(beta.r25_ohm, 1),
        "beta_k": round(beta.beta_k, 1),
        "curve": coefficients(three),
    }

    def change(plan: Plan, chosen: frozenset[str]) -> Plan:
        if not chosen:
            raise InputError("probes", got="none chosen", allowed="at least one thermistor")
        if not LOWEST_BETA_K <= beta.beta_k <= HIGHEST_BETA_K:
            raise InputError(
                "points",
                got=f"B {figure(beta.beta_k, 0)} K",
                allowed=f"{LOWEST_BETA_K} to {HIGHEST_BETA_K} K",
                fix="No thermistor behaves like this. Check the points for a typing error.",
            )
        for other, sensor in thermistors(plan):
            if other.id in chosen:
                new = Thermistor.model_validate({**sensor.model_dump(), **facts})
                plan = put_part(plan, "probe", other.model_copy(update={"sensor": new}))
        return plan

    certified = [p for p, _ in thermistors(given.plan) if p.calibration.certificate]
    return Take(
        title="Save the curve in the plan",
        label="Use it",
        change=change,
        head=("Probe", "goes by", f"moves, {'three' if three else 'B'}"),
        choices=tuple(
            _choice(probe, sensor, three or beta, near_degc, chosen=probe.id == given.subject)
            for probe, sensor in thermistors(given.plan)
        ),
        notes=(
            "Each still needs its own check point.",
            *(
                f"Certificate {p.calibration.certificate} of {p.name} uses the curve that the "
                f"probe has now. Record its points again."
                for p in certified
            ),
        ),
    )


def _choice(
    probe: Probe, sensor: Thermistor, fitted: Curve, near_degc: float, *, chosen: bool
) -> Choice:
    old = plan_curve(sensor)
    ohm = (
        old.ohm(near_degc)
        if isinstance(old, SteinhartHart)
        else thermistor_ohm(near_degc, r25_ohm=old.r25_ohm, beta_k=old.beta_k)
    )
    before = "three coefficients"
    if sensor.curve is None:
        before = f"B {figure(sensor.beta_k, 0)} K, {ohms(sensor.r25_ohm)}"
    moves = f"{signed(fitted.degc(ohm) - near_degc, 2)} K at {figure(near_degc, 0)} °C"
    return Choice(probe=probe.id, name=probe.name, cells=(before, moves), chosen=chosen)


def _beside(given: Given) -> tuple[Beside, ...]:
    """One count, self-heating, and what the pin itself does, near the threshold."""
    numbers = {
        name: given.number(BY_NAME[name])
        for name in ("near_degc", "loss_mw_per_k", "duty_pct", "input_mohm", "leakage_na")
    }
    if any(name in given.fields.errors for name in numbers):
        return ()
    assumed = assumed_here(given)
    curve = _curve_near(given, assumed)
    figures = {"r25_ohm": curve.r25_ohm, "beta_k": curve.beta_k}
    near_degc, loss = numbers["near_degc"], numbers["loss_mw_per_k"] / 1000
    duty = numbers["duty_pct"] / 100
    divider = assumed.divider
    ohm = thermistor_ohm(near_degc, **figures)
    rise = self_heating_k(divider, ohm, dissipation_w_per_k=loss, duty=duty)
    settles = warmed_degc(divider, near_degc, curve=curve, dissipation_w_per_k=loss, duty=duty)
    loaded = divider.loaded_ohm(ohm, numbers["input_mohm"] * 1e6)
    leaked = divider.leaked_ohm(ohm, numbers["leakage_na"] * 1e-9)
    return (
        Beside(
            title=f"Near {figure(near_degc, 0)} °C",
            facts=(
                ("Reads there", f"{figure(divider.counts(ohm), 0)} counts"),
                ("as a whole count", _at_code(curve, divider, ohm)),
                (
                    "One count there",
                    f"{figure(kelvin_per_count(divider, near_degc, **figures), 3)} K",
                ),
                ("Warms itself by", f"{figure(rise, 3)} K"),
                ("so it settles at", f"{figure(settles, 3)} °C"),
                ("The pin’s load shifts it", _moved(curve, near_degc, loaded)),
                ("The leakage shifts it", _moved(curve, near_degc, leaked)),
            ),
        ),
    )


def _curve_near(given: Given, assumed: Assumptions) -> BetaCurve:
    """The curve fitted through the points where there are any, else the plan's own."""
    own = BetaCurve(r25_ohm=assumed.r25_ohm, beta_k=assumed.beta_k)
    again = Given(
        plan=given.plan,
        subject=given.subject,
        fields=Fields(given.fields.sent),
        record=given.record,
        window=given.window,
    )
    try:
        points = curve_points(again, assumed)
        return beta_curve(points) if points else own
    except (InputError, CalibrationError):
        return own


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


CURVE = RecordingsBench(
    key="curve",
    computed="thermistor",
    called="a thermistor in a divider",
    heading="Thermistor’s curve",
    does="counts to ohms to °C, many points",
    takes="about 1 h: five points, 10 min each to settle",
    subjects=probes_made_as("thermistor"),
    asks=_fields_of,
    work=_calculate,
    begin="Two temperatures give B, three the curve of three coefficients.",
    nothing="no points yet.",
    empty="Measure the resistance, or read the counts, at two temperatures or more: ice water, "
    "room, warm water. Paste them into the form, one pair a line.",
    enough=filled("points"),
    beside=_beside,
    links=lambda subject: (
        ("Supply detective", f"/recordings/detective/{subject}"),
        ("To the bench", f"/calibrate/{subject}"),
    ),
    action="Fit the curve",
)
