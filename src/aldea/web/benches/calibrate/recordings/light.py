"""A photoresistor: its law, the resistor for a threshold, the lamp's own share."""

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import as_typed, figure, ohms, short
from aldea.core.calibrate.light import (
    MOST_HEAT_MW,
    LightLaw,
    OwnLamp,
    law_of,
    most_heat_mw,
    own_lamp,
)
from aldea.core.devices.sensors.light_resistor.model import LightResistor
from aldea.core.physics.divider import Divider
from aldea.core.physics.level import best_for_slope_ohm
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.seats import reader_of
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Table,
    filled,
    probes_where,
    sensor_of,
    sensor_take,
)
from aldea.web.shell.sketch import make_sketch

FULL_SCALE = 4095
USUAL_V = 3.3  # of a converter, where the plan has not yet chosen the board
DARKEST_LUX, BRIGHTEST_LUX = 1.0, 10_000.0


def _sensor(plan: Plan, subject: str) -> LightResistor:
    return sensor_of(plan, subject, LightResistor)


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    sensor = _sensor(plan, subject)
    return (
        Ask(
            name="lux_1",
            label="First light",
            unit="lx",
            first="10",
            low=0.01,
            high=200_000,
            heading="Two lights with a lux meter beside the sensor",
        ),
        Ask(name="ohm_1", label="it has there", unit="Ω", low=1, high=1e8),
        Ask(name="lux_2", label="Second light", unit="lx", first="100", low=0.01, high=200_000),
        Ask(name="ohm_2", label="it has there", unit="Ω", low=1, high=1e8),
        Ask(
            name="threshold_lux",
            label="Threshold",
            unit="lx",
            first=as_typed(sensor.threshold_lux),
            low=0.01,
            high=200_000,
        ),
        Ask(
            name="lamp_on",
            label="Lamp on",
            unit="lx",
            rows=2,
            heading="Its own lamp: a few readings each, in the dark",
        ),
        Ask(name="lamp_off", label="Lamp off", unit="lx", rows=2),
    )


def _width_of(plan: Plan, probe: Probe) -> float | None:
    widths = [
        abs(rule.band.on_threshold - rule.band.off_threshold)
        for rule in plan.bands
        if rule.band.probe == probe.id
    ]
    return min(widths, default=None)


def _law(given: Given, asks: dict[str, Ask]) -> LightLaw:
    lux_1, ohm_1, lux_2, ohm_2 = (
        given.number(asks[name]) for name in ("lux_1", "ohm_1", "lux_2", "ohm_2")
    )
    given.fields.check()
    try:
        return law_of((lux_1, lux_2), (ohm_1, ohm_2))
    except CalibrationError as exc:
        at = {"second light": "lux_2", "second resistance": "ohm_2"}
        raise given.refused(exc, at, "ohm_2") from exc


def _lamp(given: Given) -> OwnLamp | None:
    on, off = given.figures("lamp_on", "lx"), given.figures("lamp_off", "lx")
    given.fields.check()
    if not on and not off:
        return None
    try:
        return own_lamp(on, off)
    except CalibrationError as exc:
        raise given.refused(exc, {}, "lamp_on") from exc


def _calculate(given: Given) -> Found:
    sensor = _sensor(given.plan, given.subject)
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    threshold = given.number(asks["threshold_lux"])
    law, lamp = _law(given, asks), _lamp(given)
    wanted = law.ohm_at(threshold)
    best = best_for_slope_ohm(wanted, "E24")
    facts = [
        ("Gamma", figure(law.gamma_1, 3)),
        ("At 10 lx", ohms(round(law.r10_ohm))),
        ("At the threshold", ohms(round(wanted))),
        (
            "Resistor for it",
            f"{ohms(best)} of E24, {ohms(best_for_slope_ohm(wanted, 'E96'))} of E96",
        ),
    ]
    rows = tuple(
        _resistor_row(law, threshold, fixed, sensor, what)
        for fixed, what in ((sensor.fixed_ohm, "in the plan"), (best, "for this threshold"))
    )
    luxes = np.geomspace(DARKEST_LUX, BRIGHTEST_LUX, 41)
    counts = [_divider(best, sensor).counts(law.ohm_at(lux)) for lux in luxes]
    levels = [(_divider(best, sensor).counts(wanted), f"{short(threshold)} lx")]
    sketch = make_sketch(
        f"Counts with {ohms(best)}",
        x_words="light, lx",
        y_words=f"of {FULL_SCALE}",
        x_is_log=True,
        points=[("line", np.log10(luxes).tolist(), counts)],
        levels=levels,
        from_zero=True,
    )
    timeline = reader_of(given.plan, f"probe:{given.subject}.sense")
    volts = timeline.converter_v if timeline is not None and timeline.converter_v else USUAL_V
    heat = most_heat_mw(volts, best)
    facts.append(
        ("Most heat in it", f"{figure(heat, 1)} mW at {short(volts)} V, where it has {ohms(best)}")
    )
    if lamp is not None:
        facts += [
            ("The lamp adds", f"{figure(lamp.share_lux)} lx, noise {figure(lamp.noise_lux)} lx"),
            ("Width demanded", f"{figure(lamp.width_lux)} lx between on and off"),
        ]
    return Found(
        verdict=_too_hot(given, heat) or _verdict(given, threshold, lamp),
        facts=tuple(facts),
        tables=(
            Table(
                title="The resistor, at a converter of 12 bits on the divider’s own supply",
                head=(
                    "Resistor",
                    "",
                    "Counts there",
                    "One count",
                    "Dark, 1 lx",
                    "Bright, 10 000 lx",
                ),
                rows=rows,
                figures=frozenset({0, 2, 3, 4, 5}),
                strong=frozenset({1}),
            ),
        ),
        sketches=(sketch,),
        takes=()
        if heat > MOST_HEAT_MW
        else sensor_take(
            f"Save the law and {ohms(best)} in the plan",
            given.subject,
            r10_ohm=float(f"{law.r10_ohm:.4g}"),
            gamma_1=float(f"{law.gamma_1:.4g}"),
            fixed_ohm=best,
            threshold_lux=threshold,
            own_lamp_lux=float(f"{lamp.share_lux:.4g}") if lamp else sensor.own_lamp_lux,
        ),
    )


def _divider(fixed_ohm: float, sensor: LightResistor) -> Divider:
    return Divider(
        side=sensor.side,
        fixed_ohm=fixed_ohm,
        supply_v=1.0,
        reference_v=1.0,
        full_scale_counts=FULL_SCALE,
    )


def _resistor_row(
    law: LightLaw, threshold: float, fixed: float, sensor: LightResistor, what: str
) -> tuple[str, ...]:
    divider = _divider(fixed, sensor)
    at = law.ohm_at(threshold)
    slope = abs(divider.counts(law.ohm_at(threshold * 1.01)) - divider.counts(at))
    dark, bright = (divider.counts(law.ohm_at(x)) for x in (DARKEST_LUX, BRIGHTEST_LUX))
    return (
        ohms(fixed),
        what,
        figure(divider.counts(at), 0),
        f"{figure(0.01 * threshold / slope, 3)} lx",
        figure(dark, 0),
        figure(bright, 0),
    )


def _too_hot(given: Given, heat_mw: float) -> Verdict | None:
    """Where the divider's current would warm the part, and so what it reads."""
    if heat_mw <= MOST_HEAT_MW:
        return None
    return Verdict(
        state="fails",
        sentence=f"{given.probe.name}: up to {figure(heat_mw, 0)} mW would warm it.",
        rest=f"Keep it to {short(MOST_HEAT_MW)} mW: a larger resistor, or a threshold in less "
        "light.",
    )


def _verdict(given: Given, threshold: float, lamp: OwnLamp | None) -> Verdict:
    probe = given.probe
    if lamp is None:
        return Verdict(
            state="owed",
            sentence=f"{probe.name}: the law is known, its own lamp is not.",
            rest="Read a few times with the lamp on and off, after dark.",
        )
    width = _width_of(given.plan, probe)
    need = figure(lamp.width_lux)
    if width is None:
        return Verdict(
            state="holds",
            sentence=f"{probe.name}: on at {short(threshold)} lx, off not under "
            f"{figure(threshold + lamp.width_lux)} lx.",
            rest=f"Its own lamp adds {figure(lamp.share_lux)} lx; no band uses it yet.",
        )
    if width < lamp.width_lux:
        return Verdict(
            state="fails",
            sentence=f"{probe.name}: the band is {short(width)} lx, its own lamp needs {need} lx.",
            rest="The lamp would switch itself off and on all night; widen the band at Tune.",
        )
    return Verdict(
        state="holds",
        sentence=f"{probe.name}: the band of {short(width)} lx holds the lamp’s own {need} lx.",
    )


LIGHT = RecordingsBench(
    key="light",
    computed="light",
    called="a photoresistor",
    heading="Light divider",
    does="resistor for a threshold, the lamp’s own share",
    takes="10 min at dusk, lamp on and off",
    subjects=probes_where(lambda p: isinstance(p.sensor, LightResistor)),
    asks=_fields_of,
    work=_calculate,
    begin="Two lights and what it reads there; then its lamp on and off.",
    empty="Measure the sensor’s resistance in two lights, about ten times apart, with a lux "
    "meter beside it. After dark, note a few readings with its lamp on and off.",
    enough=filled("ohm_1", "ohm_2"),
    in_plan=lambda plan, subject: (
        f"The plan: {ohms(_sensor(plan, subject).r10_ohm)} at 10 lx, gamma "
        f"{short(_sensor(plan, subject).gamma_1)}, resistor "
        f"{ohms(_sensor(plan, subject).fixed_ohm)}; "
        f"its lamp adds {short(_sensor(plan, subject).own_lamp_lux)} lx."
    ),
)
