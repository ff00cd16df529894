"""A photodiode with its amplifier: responsivity, what it reads in the dark, full scale."""

import numpy as np

from aldea.core.base.figures import as_typed, figure, short
from aldea.core.calibrate.light import Diode
from aldea.core.devices.sensors.photodiode.model import Photodiode
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    filled,
    probes_where,
    sensor_of,
    sensor_take,
)
from aldea.web.benches.calibrate.recordings.light import FULL_SCALE
from aldea.web.shell.sketch import make_sketch


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    s = sensor_of(plan, subject, Photodiode)
    return (
        Ask(name="dark_mv", label="Covered, the output is", unit="mV", low=0, high=60_000),
        Ask(name="lit_mv", label="In a known light", unit="mV", low=0, high=60_000),
        Ask(name="known", label="which is", unit="W/m²", first="10", low=0.0001, high=2000),
        Ask(
            name="area_mm2",
            label="Active area",
            unit="mm²",
            first=as_typed(s.area_mm2),
            low=0.001,
            high=1000,
        ),
        Ask(
            name="feedback_ohm",
            label="Feedback",
            unit="Ω",
            first=as_typed(s.feedback_ohm),
            low=1,
            high=1e10,
        ),
        Ask(name="full_v", label="Converter’s full scale", unit="V", first="3.3", low=0.1, high=60),
    )


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    dark_mv, lit_mv, known, area, feedback, full_v = (given.number(ask) for ask in asks.values())
    given.fields.check()
    if lit_mv <= dark_mv:
        given.fields.refuse(
            "lit_mv", f"{short(lit_mv)} mV", f"more than covered, {short(dark_mv)} mV"
        )
        given.fields.check()
    dark_na = dark_mv / 1000 / feedback * 1e9
    responsivity = (lit_mv - dark_mv) / 1000 / feedback / (known * area * 1e-6)
    diode = Diode(
        responsivity_a_per_w=responsivity, area_mm2=area, feedback_ohm=feedback, dark_na=dark_na
    )
    top = diode.at_volts(full_v)
    plausible = 0.01 <= responsivity <= 1.0
    lights = np.linspace(0, top, 11).tolist()
    return Found(
        verdict=Verdict(
            state="holds" if plausible else "fails",
            sentence=f"{given.probe.name}: {figure(responsivity, 3)} A/W, full scale at "
            f"{figure(top, 1)} W/m².",
            rest=""
            if plausible
            else "A silicon diode gives 0.1 to 0.7 A/W: check area, feedback and light.",
        ),
        facts=(
            ("In the dark", f"{figure(dark_na, 1)} nA"),
            ("One count of 12 bits", f"{figure(top / FULL_SCALE, 3)} W/m²"),
            ("In the known light", f"{figure(diode.current_a(known) * 1e6, 3)} µA"),
        ),
        sketches=(
            make_sketch(
                "Output over the light",
                x_words="W/m²",
                y_words="V",
                points=[
                    ("line", lights, [diode.volts(e) for e in lights]),
                    ("dots", [0.0, known], [dark_mv / 1000, lit_mv / 1000]),
                ],
                from_zero=True,
            ),
        ),
        takes=sensor_take(
            "Save its responsivity in the plan",
            given.subject,
            responsivity_a_per_w=float(f"{responsivity:.4g}"),
            dark_na=float(f"{dark_na:.4g}"),
            area_mm2=area,
            feedback_ohm=feedback,
        )
        if plausible
        else (),
    )


PHOTODIODE = RecordingsBench(
    key="photodiode",
    computed="photodiode",
    called="a photodiode",
    heading="Photodiode",
    does="responsivity, full scale",
    takes="10 min beside a light meter",
    subjects=probes_where(lambda p: isinstance(p.sensor, Photodiode)),
    asks=_fields_of,
    work=_calculate,
    begin="Cover it and read; then read in a light that is known.",
    empty="Cover the diode and note its output; then expose it to light whose irradiance a "
    "reference measures.",
    enough=filled("lit_mv"),
)
