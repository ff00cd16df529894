"""Humidity probes: jars over saturated salts, from drier and from wetter, a check instrument."""

import math
from collections.abc import Sequence

from aldea.core.calibrate.bench import Fit, Pair
from aldea.core.calibrate.humidity import Conditions, fit_humidity
from aldea.core.calibrate.salts import SALTS, salt_rh_pct
from aldea.core.errors import CalibrationError, InputError
from aldea.core.plan.document import Probe
from aldea.core.sensing.humidity import rh_after_pct
from aldea.core.words.figures import figure, signed
from aldea.web.forms import Fields
from aldea.web.kinds.base import Kind, Stated, StatedField, error_words

MOST_APART_K, NO_MATTER_K = 2.0, 0.05
APART = "probe"


def _defaults(probe: Probe) -> Stated:
    base = Conditions()
    return {
        "gradient_k": base.gradient_k,
        "drift_rh_pct_per_year": base.drift_rh_pct_per_year,
        "resolution_rh_pct": probe.resolution,
        "lasts_months": base.lasts_months,
    }


def _read_pair(fields: Fields) -> Pair:
    approach = fields.choice("approach", ("drier", "wetter", "check"))
    temp = fields.number("temp_degc", low=0, high=60, unit="°C")
    reading = fields.number("reading", low=0, high=100, unit="%RH")
    salt: str | None = None
    reference, expanded = 0.0, 0.0
    if approach == "check":
        reference = fields.number("reference", low=1, high=99, unit="%RH")
        expanded = fields.number("reference_expanded", low=0.05, high=20, unit="%RH")
    else:
        salt = fields.choice("medium", SALTS)
        if salt in SALTS and math.isfinite(temp):
            try:
                reference = salt_rh_pct(salt, temp)
                expanded = SALTS[salt].expanded_uncertainty_rh_pct
            except CalibrationError as exc:
                fields.refuse_error("temp_degc", exc)
    detail, reference = _at_one_temperature(fields, temp, reference, salt)
    fields.check()
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=temp,
        reference_expanded=expanded,
        medium=salt,
        detail=detail,
    )


def _at_one_temperature(
    fields: Fields, temp_degc: float, reference: float, salt: str | None
) -> tuple[str, float]:
    """What to note, and the reference at the probe, where the probe was not as warm as the salt.

    The vapour pressure is the salt's: a probe that is warmer stands in drier air. Too far apart is
    refused: the correction would be all there is.
    """
    if salt is None or not fields.text("probe_degc"):
        return "", reference
    probe = fields.number("probe_degc", low=0, high=60, unit="°C")
    if not (math.isfinite(probe) and math.isfinite(temp_degc) and reference > 0):
        return "", reference
    apart = probe - temp_degc
    if abs(apart) > MOST_APART_K:
        fields.refuse_error(
            "probe_degc",
            InputError(
                "probe",
                got=f"{figure(abs(apart))} K {'warmer' if apart > 0 else 'colder'} than the salt",
                allowed=f"within {MOST_APART_K:g} K",
                mend="Let both stand for an hour at one temperature, then take it.",
            ),
        )
        return "", reference
    there = rh_after_pct(temp_degc, reference, probe)
    if abs(apart) < NO_MATTER_K:
        return "", reference
    return (
        f"{APART} {signed(apart)} K from the salt, {signed(there - reference)} %RH corrected",
        there,
    )


def _fit(pairs: Sequence[Pair], stated: Stated) -> Fit:
    return fit_humidity(
        pairs,
        Conditions(
            resolution_rh_pct=stated["resolution_rh_pct"],
            gradient_k=stated["gradient_k"],
            drift_rh_pct_per_year=stated["drift_rh_pct_per_year"],
            lasts_months=int(stated["lasts_months"]),
        ),
    )


def _ends(fit: Fit) -> str:
    dry, wet = error_words(fit, fit.low), error_words(fit, fit.high)
    return f"It read {dry} when dry and {wet} when wet."


def _words(fit: Fit) -> list[str]:
    apart = sum(result.pair.detail.startswith(APART) for result in fit.results)
    warned = (
        [f"{apart} of the pairs had probe and salt at two temperatures: take them again, settled."]
        if apart
        else []
    )
    return warned + _hysteresis_words(fit)


def _hysteresis_words(fit: Fit) -> list[str]:
    if {"drier", "wetter"} <= fit.approaches:
        return []
    only = next(iter(fit.approaches))
    return [f"All pairs came from {only}: hysteresis is not shown, ±1.0 %RH is assumed for it."]


def _where(fit: Fit) -> str:
    low, high = fit.temp_degc
    temps = figure(low) if high - low < 0.05 else f"{figure(low)} to {figure(high)}"
    return f"{figure(fit.low, 0)} to {figure(fit.high, 0)} %RH, at {temps} °C"


HUMIDITY = Kind(
    quantity="relative_humidity",
    called="humidity probes",
    unit="%RH",
    difference="%RH",
    places=1,
    take_form="_take_humidity.html",
    nothing_yet="No pair yet. Two jars far apart make a line; a check pair tests it.",
    doubt_these="Take the check again; then doubt the salts, the seal and the soak.",
    untested="Two salts fix a line but cannot test it: take a check pair.",
    first={
        "medium": "magnesium_chloride",
        "approach": "drier",
        "temp_degc": "20.0",
        "probe_degc": "",
        "reading": "",
        "reference": "",
        "reference_expanded": "1.0",
    },
    stated=(
        StatedField(name="gradient_k", label="Salt to probe, up to", unit="± K", low=0, high=5),
        StatedField(
            name="drift_rh_pct_per_year", label="Drift, up to", unit="%RH/year", low=0, high=20
        ),
        StatedField(name="resolution_rh_pct", label="Resolution", unit="%RH", low=0.001, high=10),
        StatedField(name="lasts_months", label="Lasts", unit="months", low=1, high=60),
    ),
    settles=0.02,
    defaults=_defaults,
    read_pair=_read_pair,
    fit=_fit,
    axis=lambda _pairs: (20.0, 90.0, 10.0),
    medium=lambda pair: SALTS[pair.medium].formula if pair.medium else "instrument",
    came=lambda pair: "check" if pair.approach == "check" else f"from {pair.approach}",
    ends=_ends,
    words=_words,
    where=_where,
)
