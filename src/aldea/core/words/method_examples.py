"""An example of each kind of figure, worked through by the code that signs and counts."""

import math
from collections.abc import Callable

import numpy as np

from aldea.core.base.figures import figure, short, thousands
from aldea.core.calibrate.calibration_line import fit_line
from aldea.core.calibrate.contact import bounce_of
from aldea.core.calibrate.distance import geometry_of
from aldea.core.calibrate.gas import warm_up_of
from aldea.core.calibrate.light import Diode, law_of
from aldea.core.calibrate.multiplexer import crosstalk_1, settle_time_s
from aldea.core.calibrate.presence_hold import hold_of
from aldea.core.calibrate.probe_pair import compare_pair
from aldea.core.calibrate.share import Share
from aldea.core.calibrate.tape import Baseline, exceeds_1, run_1
from aldea.core.calibrate.thermistor_curve import CurvePoint, beta_curve
from aldea.core.calibrate.uncertainty_budget import BudgetRow, combine
from aldea.core.physics.divider import Divider
from aldea.core.physics.moist_air import (
    absolute_humidity_g_per_m3,
    dew_point_degc,
    rh_after_pct,
    rh_slope_pct_per_k,
    surface_for_rh_degc,
)
from aldea.core.physics.sound import ping_interval_s
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


Example = tuple[tuple[str, str], ...]


def thermometer_example() -> Example:
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


def _humidity() -> Example:
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


def _two() -> Example:
    example = compare_pair(
        [(20.10, 20.02), (20.12, 20.03), (20.11, 20.04), (20.13, 20.02)],
        expanded_common_k=0.3, expanded_own_1_k=0.1, expanded_own_2_k=0.1,
    )  # fmt: skip
    return (
        ("Four pairs in one bath", f"mean {figure(example.mean_k, 3)} K"),
        ("The mean’s own scatter", f"u = {figure(example.u_mean_k, 4)} K"),
        ("A ΔT between both", f"U = {figure(example.expanded_k, 3)} K, k = 2"),
        ("without what they share", f"U = {figure(2 * example.u_uncorrelated_k, 3)} K"),
    )


def _tape() -> Example:
    sd = Baseline(count=50, mean=1960.0, sd=4.0).reading_sd(4, averaged=False)
    p = exceeds_1(10.0, sd, 1)
    return (
        ("σ of one sample 4 counts, 4 averaged", f"σ of a reading {figure(sd, 1)} counts"),
        ("Margin of 10 counts", f"1 in {thousands(1 / p)} readings"),
        (
            "Three in a row, 525 960 a year",
            f"once in {figure(run_1(p, 3, 525_960) ** -1 / 1e12, 0)} · 10¹² years",
        ),
    )


def _hold() -> Example:
    gaps = [float(5 + 2 * i) for i in range(60)]
    example = hold_of(gaps, false_1=0.05, confidence_1=0.95)
    return (
        ("60 gaps, 5 to 123 s", f"the {example.order}. of them is {short(example.hold_s)} s"),
        ("with 95 % confidence", f"{short(example.bound_s or math.nan)} s"),
        ("Gaps needed for any bound", str(example.needed)),
        ("0 of 120 seen", f"under {figure(100 * Share(count=0, of=120).at_most_1, 1)} %"),
    )


def _curve() -> Example:
    curve = beta_curve([CurvePoint(0.0, 32_650.0), CurvePoint(50.0, 3603.0)])
    low = Divider(
        side="sensor_low", fixed_ohm=10_000, supply_v=3.3, reference_v=3.3, full_scale_counts=4095
    )
    return (
        ("32.65 kΩ at 0 °C, 3.603 kΩ at 50 °C", f"B = {figure(curve.beta_k, 0)} K"),
        ("At 25 °C", f"{figure(curve.r25_ohm / 1000, 2)} kΩ"),
        ("3.603 kΩ below 10 kΩ", f"{figure(low.counts(3603.0), 0)} of 4095 counts"),
    )


def _light() -> Example:
    law = law_of((10.0, 100.0), (20_000.0, 4000.0))
    return (
        ("20 kΩ at 10 lx, 4 kΩ at 100 lx", f"γ = {figure(law.gamma_1, 3)}"),
        ("At 30 lx", f"{figure(law.ohm_at(30.0) / 1000, 2)} kΩ"),
    )


def _gas() -> Example:
    t_s = [10.0 * i for i in range(120)]
    volts = [0.5 + 0.6 * math.exp(-t / 120) for t in t_s]
    example = warm_up_of(t_s, volts, settled_pct=2)
    return (
        ("0.5 V and 0.6 V that fade with 120 s", f"settled after {short(example.warm_up_s)} s"),
        ("Clean air", f"{figure(example.clean_air_v, 3)} V"),
        ("1.6 times that", f"{figure(example.alarm_v(1.6), 3)} V"),
    )


def _filters() -> Example:
    alpha = alpha_of(10.0, 60.0)
    return (
        ("A reading each 10 s, τ 60 s", f"α = {figure(alpha, 4)}"),
        ("Readings until 90 % of a step", str(step_readings(share=0.9, alpha=alpha))),
        ("Behind a ramp", f"{figure(ramp_lag_s(10.0, alpha=alpha), 1)} s"),
        ("A mean of 13 behind a ramp", f"{figure(ramp_lag_s(10.0, window=13), 1)} s"),
    )


def _tune() -> Example:
    return (
        ("97 starts in 100 recorded days of 240", "0.97 a day"),
        ("100 000 starts at that rate", f"{figure(relay_life_years(100_000, 0.97), 0)} years"),
        ("6 h above the limit in those days", f"{figure(6 * 7 / 100, 2)} h a week"),
    )


def _air() -> Example:
    return (
        ("20 °C and 60 %RH", f"dew point {figure(dew_point_degc(20.0, 60.0), 2)} °C"),
        ("Water in it", f"{figure(absolute_humidity_g_per_m3(20.0, 60.0), 2)} g/m³"),
        ("At a surface of 14 °C", f"{figure(rh_after_pct(20.0, 60.0, 14.0), 1)} %RH"),
        ("80 % at a surface of", f"{figure(surface_for_rh_degc(20.0, 60.0, 80.0), 2)} °C"),
    )


def _contact() -> Example:
    example = bounce_of([0.0, 0.4, 1.1, 900.0, 901.8, 902.6], quiet_ms=50.0)
    return (
        ("Edges at 0, 0.4, 1.1 and 900, 901.8, 902.6 ms", f"{len(example.bursts)} movements"),
        ("The longest bounce", f"{figure(example.longest_ms, 1)} ms"),
        ("Debounce", f"{short(example.debounce_ms)} ms"),
    )


def _distance() -> Example:
    example = geometry_of(
        [1.80, 1.81, 1.79, 1.80, 1.80], [1.20, 1.21, 1.19, 1.20, 1.20],
        at_degc=20.0, span_degc=(-5.0, 35.0), compensated=False, longest_m=4.0,
    )  # fmt: skip
    least = min(example.room_empty_m, example.room_occupied_m)
    ping = ping_interval_s(reach_m=4.0, temp_degc=-5.0)
    return (
        (
            "1.80 m empty, 1.20 m occupied, at 20 °C",
            f"threshold {figure(example.threshold_m, 3)} m",
        ),
        ("Left on the worse side from −5 to 35 °C", f"{figure(100 * least, 1)} cm"),
        ("4 m there and back at −5 °C, and 10 ms", f"{figure(1000 * ping, 1)} ms"),
    )


def _multiplexer() -> Example:
    wait_s = settle_time_s(source_ohm=10_000, switch_ohm=100, hold_farad=20e-12, bits=12)
    return (
        ("10 kΩ and 100 Ω into 20 pF, 12 bits", f"{figure(1e6 * wait_s, 2)} µs"),
        (
            "2 counts moved by a neighbour’s 2000",
            f"{figure(100 * crosstalk_1(low_counts=500, high_counts=502, swing_counts=2000), 1)} %",
        ),
    )


def _photodiode() -> Example:
    diode = Diode(responsivity_a_per_w=0.5, area_mm2=1.0, feedback_ohm=1e6, dark_na=2.0)
    return (
        ("0.5 A/W, 1 mm², 10 W/m²", f"{figure(1e6 * diode.current_a(10.0), 3)} µA"),
        ("through 1 MΩ", f"{figure(diode.volts(10.0), 3)} V"),
        ("Full scale at 3.3 V", f"{figure(diode.at_volts(3.3), 2)} W/m²"),
    )


EXAMPLES: dict[str, Callable[[], Example]] = {
    "thermometer": thermometer_example,
    "humidity": _humidity,
    "difference": _two,
    "tape": _tape,
    "presence": _hold,
    "thermistor": _curve,
    "light": _light,
    "gas": _gas,
    "filters": _filters,
    "air": _air,
    "contact": _contact,
    "distance": _distance,
    "multiplexer": _multiplexer,
    "photodiode": _photodiode,
    "tune": _tune,
}
