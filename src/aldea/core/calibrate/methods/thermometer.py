"""Thermometers: ice, boiling water, a reference beside the probe or one on each side of it."""

import math
from collections.abc import Sequence

from aldea.core.base.figures import figure
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.methods.method import Method, Stated, StatedField, error_words
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.thermometer import WAYS, ThermometerConditions, fit_thermometer
from aldea.core.plan.document import Probe


def _defaults(probe: Probe) -> Stated:
    base = ThermometerConditions()
    return {
        "contact_k": base.contact_k,
        "position_k": base.position_k,
        "self_heating_k": base.self_heating_k,
        "drift_k_per_year": base.drift_k_per_year,
        "reach_k": base.reach_k,
        "gain_pct": base.gain_pct,
        "resolution_k": probe.resolution,
        "lasts_months": base.lasts_months,
    }


def _fit(pairs: Sequence[Pair], stated: Stated) -> Fit:
    figures = {key: value for key, value in stated.items() if key != "lasts_months"}
    return fit_thermometer(
        pairs, ThermometerConditions(**figures, lasts_months=int(stated["lasts_months"]))
    )


def _axis(pairs: Sequence[Pair]) -> tuple[float, float, float]:
    references = [pair.reference for pair in pairs] or [0.0, 40.0]
    low, high = min(references), max(references)
    step = 10.0 if high - low > 20 else 5.0
    return (math.floor(low / step) - 1) * step, (math.ceil(high / step) + 1) * step, step


def _ends(fit: Fit) -> str:
    if not fit.line.is_sloped:
        return f"It read {error_words(fit, (fit.low + fit.high) / 2, 2)}."
    cold, warm = error_words(fit, fit.low, 2), error_words(fit, fit.high, 2)
    return f"It read {cold} when cold and {warm} when warm."


def _words(fit: Fit) -> list[str]:
    if not fit.line.is_sloped:
        return ["One temperature gives an offset only: the slope is entered, not measured."]
    return []


THERMOMETER = Method(
    quantity="air_temperature",
    heading="Thermometer",
    computed="thermometer",
    does="ice, boiling, beside, between two",
    takes="about 30 min: 10 min for each point to settle",
    unit="°C",
    difference="K",
    places=2,
    nothing_yet="No point yet. An ice bath gives the offset; a second one, far from it, the slope.",
    doubt_these="Record the check again; then doubt the contact, the time given and the supply.",
    untested="A point that is not fitted would test it: record one as a check.",
    stated=(
        StatedField(name="contact_k", label="Contact, up to", unit="± K", low=0, high=20),
        StatedField(name="position_k", label="Position, up to", unit="± K", low=0, high=20),
        StatedField(name="self_heating_k", label="Warms itself by", unit="K", low=0, high=10),
        StatedField(name="drift_k_per_year", label="Drift, up to", unit="K/year", low=0, high=10),
        StatedField(
            name="reach_k",
            label="One point reaches",
            unit="± K",
            low=1,
            high=100,
            for_one_point=True,
        ),
        StatedField(
            name="gain_pct",
            label="Slope unseen, up to",
            unit="± %",
            low=0,
            high=20,
            for_one_point=True,
        ),
        StatedField(name="resolution_k", label="Resolution", unit="K", low=0.0001, high=10),
        StatedField(name="lasts_months", label="Valid for", unit="months", low=1, high=60),
    ),
    settles_per_min=0.02,
    defaults=_defaults,
    fit=_fit,
    axis=_axis,
    medium=lambda pair: WAYS.get(pair.medium or "", "reference"),
    approach_words=lambda pair: pair.approach,
    ends=_ends,
    words=_words,
    where=lambda fit: f"{figure(fit.low)} to {figure(fit.high)} °C",
)
