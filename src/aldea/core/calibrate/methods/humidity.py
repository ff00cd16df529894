"""Humidity probes: jars over saturated salts, from drier and from wetter, a check instrument."""

from collections.abc import Sequence

from aldea.core.base.figures import figure
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.humidity import Conditions, fit_humidity
from aldea.core.calibrate.methods.method import Method, Stated, StatedField, error_words
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.salts import SALTS
from aldea.core.plan.document import Probe

APART = "probe"  # how a note begins where probe and salt were not at one temperature


def _defaults(probe: Probe) -> Stated:
    base = Conditions()
    return {
        "gradient_k": base.gradient_k,
        "drift_rh_pct_per_year": base.drift_rh_pct_per_year,
        "resolution_rh_pct": probe.resolution,
        "lasts_months": base.lasts_months,
    }


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
        [f"{apart} of the pairs had probe and salt at two temperatures: record them again."]
        if apart
        else []
    )
    return warned + _hysteresis_words(fit)


def _hysteresis_words(fit: Fit) -> list[str]:
    if {"drier", "wetter"} <= fit.approaches:
        return []
    only = next(iter(fit.approaches))
    return [f"All pairs are from {only}: hysteresis is not shown, ±1.0 %RH is assumed for it."]


def _where(fit: Fit) -> str:
    low, high = fit.temp_degc
    temps = figure(low) if high - low < 0.05 else f"{figure(low)} to {figure(high)}"
    return f"{figure(fit.low, 0)} to {figure(fit.high, 0)} %RH, at {temps} °C"


HUMIDITY = Method(
    quantity="relative_humidity",
    heading="Humidity over salts",
    computed="humidity",
    does="pairs in jars, fit, certificate",
    takes="a day: about 8 h for each salt to settle",
    unit="%RH",
    difference="%RH",
    places=1,
    nothing_yet="No pair yet. Two jars far apart make a line; a check pair tests it.",
    doubt_these="Record the check again; then doubt the salts, the seal and the time in the jar.",
    untested="The pairs of a line cannot test it: record a check pair.",
    stated=(
        StatedField(name="gradient_k", label="Salt to probe, up to", unit="± K", low=0, high=5),
        StatedField(
            name="drift_rh_pct_per_year", label="Drift, up to", unit="%RH/year", low=0, high=20
        ),
        StatedField(name="resolution_rh_pct", label="Resolution", unit="%RH", low=0.001, high=10),
        StatedField(name="lasts_months", label="Valid for", unit="months", low=1, high=60),
    ),
    settles_per_min=0.02,
    defaults=_defaults,
    fit=_fit,
    axis=lambda _pairs: (20.0, 90.0, 10.0),
    medium=lambda pair: SALTS[pair.medium].formula if pair.medium else "instrument",
    approach_words=lambda pair: "check" if pair.approach == "check" else f"from {pair.approach}",
    ends=_ends,
    words=_words,
    where=_where,
)
