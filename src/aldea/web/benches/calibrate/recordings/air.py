"""Moist air: what a calibrated reading means, and whether a surface gets wet or mouldy."""

import math

from aldea.core.base.figures import figure, signed
from aldea.core.physics.moist_air import (
    absolute_humidity_g_per_m3,
    dew_point_degc,
    rh_after_pct,
    rh_slope_pct_per_k,
    surface_degc,
    surface_for_rh_degc,
)
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    filled,
    probes_where,
)
from aldea.web.shell.form_fields import Options
from aldea.web.shell.sketch import make_sketch

MOULD_PCT = 80.0  # at the surface, for days: ISO 13788
SURFACES: Options = (("measured", "was measured"), ("factor", "from outside and its factor"))


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    probe = plan.probe(subject)
    place = probe.place if probe else ""
    thermometers = tuple(
        (p.id, p.name) for p in plan.probes if p.quantity == "air_temperature" and p.place == place
    )
    return (
        Ask(name="reading", label="The probe reads, raw", unit="%RH", low=0, high=100),
        Ask(
            name="air_degc",
            label="The air is",
            unit="°C",
            first="20",
            low=-40,
            high=60,
            note=f"{thermometers[0][1]} is in the same place." if thermometers else "",
        ),
        Ask(name="surface", label="The coldest surface", first="measured", options=SURFACES),
        Ask(name="surface_degc", label="it is", unit="°C", low=-40, high=60),
        Ask(name="outside_degc", label="Outside", unit="°C", first="-5", low=-40, high=50),
        Ask(name="factor", label="Temperature factor fRsi", first="0.7", low=0.1, high=1),
    )


def _surface(given: Given, asks: dict[str, Ask], air: float) -> float:
    if given.fields.choice("surface", dict(SURFACES)) == "measured":
        return given.number(asks["surface_degc"])
    outside, factor = given.number(asks["outside_degc"]), given.number(asks["factor"])
    return surface_degc(air, outside, factor)


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    reading, air = given.number(asks["reading"]), given.number(asks["air_degc"])
    surface = _surface(given, asks, air)
    given.fields.check()
    line = given.probe.calibration
    rh = min(100.0, max(0.1, line.intercept + line.slope * reading))
    dew = dew_point_degc(air, rh)
    doubt = line.expanded_uncertainty
    # One kelvin of dew point is worth as much RH as one kelvin of air at the dew point.
    dew_doubt = doubt / rh_slope_pct_per_k(dew, rh)
    at_surface = rh_after_pct(air, rh, surface)
    highest = rh * MOULD_PCT / at_surface
    margin = surface - dew
    name = given.probe.name
    if margin <= dew_doubt:
        wet = margin <= 0
        verdict = Verdict(
            state="fails" if wet else "not_shown",
            sentence=f"{name}: {'the surface is wet' if wet else 'the surface may be wet'}, "
            f"{signed(margin, 1)} K from the dew point of {figure(dew, 1)} °C.",
            rest=f"The dew point is known to ±{figure(dew_doubt, 1)} K.",
        )
    elif at_surface > MOULD_PCT:
        verdict = Verdict(
            state="owed",
            sentence=f"{name}: {figure(at_surface, 0)} % at the surface: mould grows in days.",
            rest=f"Keep the room under {figure(highest, 0)} %RH.",
        )
    else:
        verdict = Verdict(
            state="holds",
            sentence=f"{name}: the surface stays dry, {figure(at_surface, 0)} % at it.",
            rest=f"Mould needs more than {figure(highest, 0)} %RH in the room."
            if highest <= 100
            else "It is so warm that no humidity of this room makes mould on it.",
        )
    airs = [surface + k * (air - surface) / 24 for k in range(25)] if air > surface else [air]
    return Found(
        verdict=verdict,
        facts=(
            ("Corrected", f"{figure(rh, 1)} ±{figure(doubt, 1)} %RH"),
            ("Dew point", f"{figure(dew, 1)} ±{figure(dew_doubt, 1)} °C"),
            ("Water in the air", f"{figure(absolute_humidity_g_per_m3(air, rh), 1)} g/m³"),
            ("Surface", f"{figure(surface, 1)} °C, {signed(margin, 1)} K from the dew point"),
            ("80 % at a surface of", f"{figure(surface_for_rh_degc(air, rh, MOULD_PCT), 1)} °C"),
            (
                "Room under, against mould",
                f"{figure(highest, 0)} %RH" if highest <= 100 else "any humidity",
            ),
        ),
        sketches=(
            make_sketch(
                "The same air, colder",
                x_words="°C",
                y_words="%RH",
                points=[
                    ("line", airs, [rh_after_pct(air, rh, t) for t in airs]),
                    ("dots", [air, surface], [rh, at_surface]),
                ],
                levels=[(100.0, "wet"), (MOULD_PCT, "mould")],
                from_zero=True,
            ),
        )
        if math.isfinite(at_surface)
        else (),
    )


AIR = RecordingsBench(
    key="air",
    computed="air",
    called="a humidity probe",
    heading="Moist air",
    does="dew point, condensation, mould",
    takes="at once, from two readings",
    subjects=probes_where(lambda p: p.quantity == "relative_humidity"),
    asks=_fields_of,
    work=_calculate,
    begin="A reading, the air’s temperature, the coldest surface.",
    empty="Type what the probe reads and how warm the air is. The coldest surface is measured, "
    "or calculated from the outside air and the wall’s temperature factor.",
    enough=filled("reading"),
)
