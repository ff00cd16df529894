"""How figures are computed: per kind the formulas, their source, and an example worked through.

The examples are worked through by the code that signs certificates and counts consequences: what
stands there is what it gives.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from aldea.core.base.figures import figure, short
from aldea.core.calibrate.calibration_line import fit_line
from aldea.core.calibrate.gas import warm_up_of
from aldea.core.calibrate.light import law_of
from aldea.core.calibrate.presence_hold import hold_of
from aldea.core.calibrate.probe_pair import compare_pair
from aldea.core.calibrate.share import Share
from aldea.core.calibrate.tape import Baseline, exceeds_1, run_1
from aldea.core.calibrate.thermistor_curve import CurvePoint, beta_curve
from aldea.core.calibrate.uncertainty_budget import BudgetRow, combine
from aldea.core.physics.divider import Divider
from aldea.core.physics.moist_air import dew_point_degc, rh_slope_pct_per_k
from aldea.core.readings.filters import alpha_of, ramp_lag_s, step_readings
from aldea.core.rehearse.consequence import relay_life_years

# JCGM 100:2008, table H.6: thermometer readings t and corrections b, °C.
H3_READINGS = (
    21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511,
)  # fmt: skip
H3_CORRECTIONS = (
    -0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.160,
)  # fmt: skip
H3_AT_DEGC = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Method:
    """One way of computing: what it is for, formulas, sources, and an example line by line."""

    key: str
    name: str
    what: str
    formulas: tuple[str, ...]
    sources: tuple[str, ...]
    example: tuple[tuple[str, str], ...]


def thermometer_example() -> tuple[tuple[str, str], ...]:
    """The example H.3 of JCGM 100: a thermometer's corrections as a line, reference at 20 °C."""
    away = np.array(H3_READINGS) - H3_AT_DEGC
    line = fit_line(away, np.array(H3_CORRECTIONS))
    at30 = line.residual_sd * line.leverage_1(10.0)
    return (
        ("Eleven corrections between 21.5 and 26.5 °C", "table H.6"),
        ("Intercept at 20 °C, y1", f"{figure(line.intercept, 4)} °C"),
        ("its standard uncertainty", f"{figure(line.se_intercept, 4)} °C"),
        ("Slope, y2", figure(line.slope, 5)),
        ("its standard uncertainty", figure(line.se_slope, 5)),
        ("Correlation of both", figure(line.correlation, 3)),
        ("Scatter, s", f"{figure(line.residual_sd, 4)} °C"),
        ("Correction at 30 °C", f"{figure(line.at(10.0), 4)} °C"),
        ("its standard uncertainty", f"{figure(at30, 4)} °C"),
    )


def _humidity() -> tuple[tuple[str, str], ...]:
    slope = rh_slope_pct_per_k(20.0, 75.3)
    row = BudgetRow(label="temperature", value=0.2, distribution="rectangular", sensitivity=slope)
    half = BudgetRow(label="resolution", value=0.1, distribution="resolution")
    budget = combine((row, half))
    return (
        ("Over table salt at 20 °C, 75.3 %RH", f"{figure(slope, 2)} %RH a kelvin"),
        ("0.2 K between probe and jar, even", f"u = {figure(row.standard_uncertainty, 2)} %RH"),
        ("A step of 0.1 %RH", f"u = {figure(half.standard_uncertainty, 3)} %RH"),
        ("Both together, k = 2", f"U = {figure(budget.expanded, 2)} %RH"),
        ("Dew point there", f"{figure(dew_point_degc(20.0, 75.3), 2)} °C"),
    )


def _two() -> tuple[tuple[str, str], ...]:
    found = compare_pair(
        [(20.10, 20.02), (20.12, 20.03), (20.11, 20.04), (20.13, 20.02)],
        expanded_common_k=0.3, expanded_own_1_k=0.1, expanded_own_2_k=0.1,
    )  # fmt: skip
    return (
        ("Four pairs in one bath", f"mean {figure(found.mean_k, 3)} K"),
        ("The mean’s own scatter", f"u = {figure(found.u_mean_k, 4)} K"),
        ("A ΔT between both", f"U = {figure(found.expanded_k, 3)} K, k = 2"),
        ("without what they share", f"U = {figure(2 * found.u_uncorrelated_k, 3)} K"),
    )


def _tape() -> tuple[tuple[str, str], ...]:
    sd = Baseline(count=50, mean=1960.0, sd=4.0).reading_sd(4, averaged=False)
    p = exceeds_1(10.0, sd, 1)
    return (
        ("σ of one sample 4 counts, 4 averaged", f"σ of a reading {figure(sd, 1)} counts"),
        ("Margin of 10 counts", f"1 in {1 / p:,.0f} readings".replace(",", " ")),
        ("Three in a row, 525 960 a year", f"{run_1(p, 3, 525_960):.1e}".replace("-", "−")),
    )


def _hold() -> tuple[tuple[str, str], ...]:
    gaps = [float(5 + 2 * i) for i in range(60)]
    found = hold_of(gaps, false_1=0.05, confidence_1=0.95)
    return (
        ("60 gaps, 5 to 123 s", f"the {found.order}. of them is {short(found.hold_s)} s"),
        ("with 95 % confidence", f"{short(found.bound_s or math.nan)} s"),
        ("Gaps needed for any bound", str(found.needed)),
        ("0 of 120 seen", f"under {figure(100 * Share(count=0, of=120).at_most_1, 1)} %"),
    )


def _curve() -> tuple[tuple[str, str], ...]:
    curve = beta_curve([CurvePoint(0.0, 32_650.0), CurvePoint(50.0, 3603.0)])
    low = Divider(
        side="sensor_low", fixed_ohm=10_000, supply_v=3.3, reference_v=3.3, full_scale_counts=4095
    )
    return (
        ("32.65 kΩ at 0 °C, 3.603 kΩ at 50 °C", f"B = {figure(curve.beta_k, 0)} K"),
        ("At 25 °C", f"{figure(curve.r25_ohm / 1000, 2)} kΩ"),
        ("3.603 kΩ below 10 kΩ", f"{figure(low.counts(3603.0), 0)} of 4095 counts"),
    )


def _light() -> tuple[tuple[str, str], ...]:
    law = law_of((10.0, 100.0), (20_000.0, 4000.0))
    return (
        ("20 kΩ at 10 lx, 4 kΩ at 100 lx", f"γ = {figure(law.gamma_1, 3)}"),
        ("At 30 lx", f"{figure(law.ohm_at(30.0) / 1000, 2)} kΩ"),
    )


def _gas() -> tuple[tuple[str, str], ...]:
    t_s = [10.0 * i for i in range(120)]
    volts = [0.5 + 0.6 * math.exp(-t / 120) for t in t_s]
    found = warm_up_of(t_s, volts, settled_pct=2)
    return (
        ("0.5 V and 0.6 V that fade with 120 s", f"settled after {short(found.warm_up_s)} s"),
        ("Clean air", f"{figure(found.clean_air_v, 3)} V"),
        ("1.6 times that", f"{figure(found.alarm_v(1.6), 3)} V"),
    )


def _filters() -> tuple[tuple[str, str], ...]:
    alpha = alpha_of(10.0, 60.0)
    return (
        ("A reading each 10 s, τ 60 s", f"α = {figure(alpha, 4)}"),
        ("Readings until 90 % of a step", str(step_readings(share=0.9, alpha=alpha))),
        ("Behind a ramp", f"{figure(ramp_lag_s(10.0, alpha=alpha), 1)} s"),
        ("A mean of 13 behind a ramp", f"{figure(ramp_lag_s(10.0, window=13), 1)} s"),
    )


def _tune() -> tuple[tuple[str, str], ...]:
    return (
        ("97 closings in 100 recorded days of 240", "0.97 a day"),
        ("100 000 closings at that pace", f"{figure(relay_life_years(100_000, 0.97), 0)} years"),
        ("6 h past the limit in those days", f"{figure(6 * 7 / 100, 2)} h a week"),
    )


EXAMPLES: dict[str, Callable[[], tuple[tuple[str, str], ...]]] = {
    "thermometer": thermometer_example,
    "humidity": _humidity,
    "difference": _two,
    "tape": _tape,
    "presence": _hold,
    "thermistor": _curve,
    "light": _light,
    "gas": _gas,
    "filters": _filters,
    "tune": _tune,
}
GUM = "JCGM 100:2008, Guide to the expression of uncertainty in measurement"
TEXTS: dict[str, tuple[str, str, tuple[str, ...], tuple[str, ...]]] = {
    "thermometer": (
        "A line through points",
        "From readings to true values by least squares, with what the line itself is not sure of.",
        ("true = a + b · reading", "s² = Σ (true − a − b · reading)² / (n − 2)",
         "u(line at x) = s · √(1/n + (x − x̄)² / Sxx)",
         "scatter = the larger of repeats and misfit; U = k · √Σ u², k for 95 % by ν_eff"),
        (f"{GUM}, H.3, G.4", "Draper and Smith, Applied Regression Analysis, 2.1 (lack of fit)"),
    ),
    "humidity": (
        "A humidity probe over salts",
        "What saturated salts give, and what a kelvin between jar and probe does to it.",
        ("e(t) = 6.112 · exp(17.62 t / (243.12 + t)) hPa", "u = half-width / √3 (even)",
         "U = k · √(Σ (c · u)²)"),
        (f"{GUM}, 4.3, 5.1", "WMO-No. 8, annex 4.B", "Greenspan, J. Res. NBS 81A (1977) 89"),
    ),
    "difference": (
        "Two thermometers in one bath",
        "What is common to both leaves nothing in their difference; the mean’s own scatter does.",
        ("u² = u1² + u2² − 2 r u1 u2 + s² / n", "r = u0² / (u1 u2)"),
        (f"{GUM}, 5.2.2",),
    ),
    "tape": (
        "A leak tape’s false alarms",
        "How often noise alone crosses a margin, so many times in a row.",
        ("p = Q(margin / σ), σ of one reading",
         "σ² of a mean of N = σ² / N · (1 + 2 Σ (1 − k/N) r^k)",
         "at least one run of K in n: a Markov chain, again with P(X2 > m | X1 > m)"),
        ("Feller, An Introduction to Probability Theory 1, XIII.7",
         "Bayley and Hammersley, J. R. Stat. Soc. 8 (1946) 184"),
    ),
    "presence": (
        "Holds and shares",
        "An order statistic with a bound that no distribution is needed for; shares as bounds.",
        ("hold = x(k), k = ⌈n (1 − p)⌉", "bound = x(r), P(Bin(n, 1 − p) ≤ r − 1) ≥ confidence",
         "a share of k in n is at most the root of P(Bin(n, q) ≤ k) = 5 %"),
        ("Clopper and Pearson, Biometrika 26 (1934) 404",
         "David and Nagaraja, Order Statistics, 7.1"),
    ),
    "thermistor": (
        "A thermistor in a divider",
        "From counts to ohms to degrees.",
        ("R = R25 · exp(B (1/T − 1/298.15 K))", "1/T = A + B ln R + C (ln R)³",
         "counts = FS · Vs/Vref · R / (R + Rf), the sensor at the lower side"),
        ("Steinhart and Hart, Deep-Sea Research 15 (1968) 497",),
    ),
    "light": (
        "A photoresistor",
        "Two lights give its law.",
        ("R = R10 (E / 10 lx)^−γ", "γ = ln(R1/R2) / ln(E2/E1)"),
        ("The power law that its sheets state",),
    ),
    "gas": (
        "A gas hint’s warm-up",
        "From when on no reading leaves the last fifth’s level by more.",
        ("clean air = median of the settled readings", "speaks at ratio · clean air"),
        ("No standard: a hint for ventilation, no certified detector",),
    ),
    "filters": (
        "Filters",
        "What a filter takes from noise, and how late it is.",
        ("α = 1 − exp(−Δt / τ)", "behind a ramp: (N − 1)/2 · Δt, or (1 − α)/α · Δt"),
        ("Oppenheim and Schafer, Discrete-Time Signal Processing, 2",),
    ),
    "tune": (
        "What marks come to",
        "Events of a replay, per day in which something was recorded.",
        ("recorded days = time from each reading to the next, and no longer than “silent after”",
         "closings a day = closings in it / recorded days",
         "life = rated closings / (closings a day · 365.25)"),
        ("The relay’s sheet for its rated closings",),
    ),
}  # fmt: skip


def methods() -> tuple[Method, ...]:
    """Every kind, in the order in which they are told."""
    return tuple(
        Method(key=key, name=name, what=what, formulas=formulas, sources=sources,
               example=EXAMPLES[key]())
        for key, (name, what, formulas, sources) in TEXTS.items()
    )  # fmt: skip
