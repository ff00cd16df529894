"""Electrical formulas against reference values that were computed by two routes each."""

import math

import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.devices.loads.stepped_fan.capacitors import bleed, reactance_ohm, running
from aldea.core.devices.sensors.light_resistor.law import (
    lux_factor,
    photoresistor_lux,
    photoresistor_ohm,
)
from aldea.core.devices.sensors.thermistor.law import (
    kelvin_per_count,
    mismatch_degc,
    thermistor_degc,
    thermistor_ohm,
)
from aldea.core.physics.cable import cable_drop, ohm_per_km
from aldea.core.physics.divider import Divider, highest_source_ohm
from aldea.core.physics.driver import base_resistor, coil_power_w
from aldea.core.physics.level import (
    best_for_slope_ohm,
    best_for_span_ohm,
    best_lower_ohm,
    level,
)
from aldea.core.physics.sound import (
    echo_distance_m,
    ping_interval_s,
    sound_m_per_s,
    uncompensated_error_m,
)
from aldea.core.wiring.supply_budget import Draw, SupplyBudget


def divider_of(case, *, supply: float = 1.0, reference: float = 1.0, full: int = 4095) -> Divider:
    return Divider(
        side=given(case, "wiring"),
        fixed_ohm=float(given(case, "r_fixed")),
        supply_v=supply,
        reference_v=reference,
        full_scale_counts=full,
    )


def ntc(case) -> dict[str, float]:
    return {"r25_ohm": float(given(case, "ntc_r25")), "beta_k": float(given(case, "ntc_beta"))}


@adaptor("ratiometric", "endreading")
def counts_to_ohms_by_a_ratiometric_reference(case):
    divider = divider_of(case, full=given(case, "full_scale_counts"))
    got = divider.sensor_ohm(given(case, "counts"))
    if case["expected"]["r_sensor"]["value"] is None:
        assert got is None
    else:
        assert got is not None
        assert agrees(case, "r_sensor", got)
    if "sensor_state" in case["expected"]:
        state = divider.end_state(given(case, "counts"))
        assert state == case["expected"]["sensor_state"]["value"]


@adaptor("fixedref")
def counts_to_ohms_by_a_fixed_reference(case):
    divider = divider_of(
        case,
        supply=given(case, "divider_supply"),
        reference=given(case, "adc_reference"),
        full=given(case, "full_scale_counts"),
    )
    got = divider.sensor_ohm(given(case, "counts"))
    wanted = case["expected"]["r_sensor"]["value"]
    if wanted is None:
        assert got is None
        assert divider.end_state(given(case, "counts")) == "impossible"
    else:
        assert got is not None
        assert agrees(case, "r_sensor", got)
        assert divider.counts(got) == pytest.approx(given(case, "counts"))


@adaptor("mismatch")
def a_wrong_supply_in_the_program(case):
    real, assumed = given(case, "supply_real"), given(case, "supply_assumed_by_firmware")
    ratiometric = given(case, "reference") == "ratiometric"
    divider = divider_of(case, supply=real, reference=real if ratiometric else 3.3)
    temp = given(case, "true_temperature")
    ohm = thermistor_ohm(temp, **ntc(case))
    assert agrees(case, "r_true", ohm)
    assert agrees(case, "node_volts", divider.volts(ohm))
    error = mismatch_degc(divider, real if ratiometric else assumed, temp, **ntc(case))
    if case["expected"]["t_error"]["value"] is None:
        assert error is None
    else:
        assert error is not None
        assert agrees(case, "t_error", error)


@adaptor("adcstep")
def what_one_count_is_worth(case):
    divider = divider_of(
        case,
        supply=given(case, "divider_supply"),
        reference=given(case, "adc_reference"),
        full=given(case, "full_scale_counts"),
    )
    temp = given(case, "temperature")
    ohm = thermistor_ohm(temp, **ntc(case))
    assert agrees(case, "r_sensor", ohm)
    assert agrees(case, "counts_exact", divider.counts(ohm))
    assert agrees(case, "ohm_per_count", divider.ohm_per_count(ohm))
    assert agrees(case, "degC_per_count", kelvin_per_count(divider, temp, **ntc(case)))


@adaptor("betaR")
def thermistor_resistance(case):
    assert agrees(case, "resistance", thermistor_ohm(given(case, "temperature"), **ntc(case)))


@adaptor("betaT")
def thermistor_temperature(case):
    got = thermistor_degc(given(case, "resistance"), **ntc(case))
    assert agrees(case, "temperature", got)
    assert thermistor_ohm(got, **ntc(case)) == pytest.approx(given(case, "resistance"))


@adaptor("settling")
def largest_source_that_settles_to_half_a_count(case):
    got = highest_source_ohm(
        switch_ohm=given(case, "switch_resistance"),
        hold_farad=given(case, "sampling_capacitance"),
        time_s=given(case, "acquisition_time"),
        bits=given(case, "adc_bits"),
    )
    assert agrees(case, "max_source_for_half_lsb", got)


@adaptor("pickdvdt")
def the_steepest_resistor(case):
    ohm = thermistor_ohm(given(case, "temperature"), **ntc(case))
    assert best_for_slope_ohm(ohm, given(case, "series")) == pytest.approx(
        case["expected"]["best_resistor"]["value"]
    )


@adaptor("pickspan")
def the_widest_resistor(case):
    ends = [thermistor_ohm(given(case, key), **ntc(case)) for key in ("t_low", "t_high")]
    assert agrees(case, "ideal_resistor", math.sqrt(ends[0] * ends[1]))
    assert agrees(case, "best_resistor", best_for_span_ohm(ends[0], ends[1], given(case, "series")))


@adaptor("level")
def a_level_divider_at_its_corners(case):
    got = level(
        upper_ohm=given(case, "r_upper"),
        lower_ohm=given(case, "r_lower"),
        tolerance_1=given(case, "resistor_tolerance"),
        input_v=given(case, "input_high"),
        input_tolerance_1=given(case, "input_tolerance"),
        input_farad=given(case, "input_capacitance"),
    )
    assert agrees(case, "nominal", got.nominal_v)
    assert agrees(case, "highest", got.highest_v)
    assert agrees(case, "lowest", got.lowest_v)
    assert agrees(case, "current", got.current_a)
    assert agrees(case, "source_impedance", got.source_ohm)
    assert agrees(case, "rise_time_10_90", got.rise_s)
    within = got.highest_v <= given(case, "limit")
    assert within == case["expected"]["within_limit"]["value"]


@adaptor("levelpick")
def the_largest_lower_resistor_under_a_limit(case):
    got = best_lower_ohm(
        upper_ohm=given(case, "r_upper"),
        tolerance_1=given(case, "resistor_tolerance"),
        input_v=given(case, "input_high"),
        input_tolerance_1=given(case, "input_tolerance"),
        limit_v=given(case, "limit"),
    )
    assert agrees(case, "r_lower", got)


@adaptor("speed")
def speed_of_sound(case):
    assert agrees(case, "speed_sqrt_law", sound_m_per_s(given(case, "temperature")))


@adaptor("tofeerr")
def an_echo_with_the_wrong_air_temperature(case):
    got = uncompensated_error_m(
        given(case, "true_distance"),
        air_degc=given(case, "air_temperature"),
        assumed_degc=given(case, "assumed_temperature"),
    )
    assert agrees(case, "error", got)


@adaptor("echo")
def distance_by_echo(case):
    got = echo_distance_m(given(case, "echo_time") * 1e-6, given(case, "air_temperature"))
    assert agrees(case, "distance", got)


@adaptor("sampling")
def pings_that_do_not_hear_each_other(case):
    got = ping_interval_s(
        reach_m=given(case, "max_range"),
        temp_degc=given(case, "air_temperature"),
        guard_s=given(case, "guard_time"),
    )
    assert agrees(case, "min_ping_interval", got)


@adaptor("ldrlux")
def light_from_a_photoresistor(case):
    figures = {"r10_ohm": given(case, "resistance_at_10_lux"), "gamma_1": given(case, "gamma")}
    got = photoresistor_lux(given(case, "resistance"), **figures)
    assert agrees(case, "illuminance", got)
    assert photoresistor_ohm(got, **figures) == pytest.approx(given(case, "resistance"))


@adaptor("ldrchain")
def counts_to_lux(case):
    divider = divider_of(case, full=given(case, "full_scale_counts"))
    ohm = divider.sensor_ohm(given(case, "counts"))
    assert ohm is not None
    assert agrees(case, "resistance", ohm)
    got = photoresistor_lux(
        ohm, r10_ohm=given(case, "resistance_at_10_lux"), gamma_1=given(case, "gamma")
    )
    assert agrees(case, "illuminance", got)


@adaptor("ldrspread")
def a_tolerance_of_r10_in_lux(case):
    tolerance, gamma = given(case, "r10_tolerance"), given(case, "gamma")
    assert agrees(case, "factor_if_real_r10_is_high", lux_factor(1 + tolerance, gamma))
    assert agrees(case, "factor_if_real_r10_is_low", lux_factor(1 - tolerance, gamma))


@adaptor("coil")
def coil_power(case):
    got = coil_power_w(given(case, "coil_voltage"), given(case, "coil_resistance"))
    assert agrees(case, "power", got)


@adaptor("supply")
def a_supply_with_its_margin(case):
    budget = SupplyBudget(
        draws=tuple(
            Draw(name=name, each_ma=each, at_once=n) for name, each, n in given(case, "loads")
        ),
        rating_ma=given(case, "supply_rating"),
        margin_1=given(case, "margin"),
    )
    assert agrees(case, "sum", budget.sum_ma)
    assert agrees(case, "with_margin", budget.with_margin_ma)
    assert agrees(case, "load_share_of_rating", budget.share_pct)
    assert budget.enough == case["expected"]["enough"]["value"]


@adaptor("base")
def a_base_resistor(case):
    got = base_resistor(
        coil_a=given(case, "coil_current"),
        drive_v=given(case, "drive_voltage"),
        pin_limit_a=given(case, "drive_current_limit"),
        vbe_v=given(case, "vbe"),
        beta_1=given(case, "forced_beta"),
        series=given(case, "series"),
    )
    assert agrees(case, "base_resistor", got.wanted_ohm)
    assert got.chosen_ohm == case["expected"]["chosen_resistor"]["value"]
    assert agrees(case, "real_base_current", got.base_a)
    assert agrees(case, "real_forced_beta", got.beta_1)
    assert got.drive_ok == case["expected"]["drive_ok"]["value"]


@adaptor("cable")
def what_a_cable_drops(case):
    section = given(case, "section")
    from_table = given(case, "resistance_from") != "resistivity"
    per_km = ohm_per_km(section) if from_table else 17.241 / section
    got = cable_drop(
        length_m=given(case, "length_one_way"),
        ohm_per_km=per_km,
        current_a=given(case, "current"),
        supply_v=given(case, "supply"),
        conductor_degc=given(case, "conductor_temperature"),
    )
    for name, value in (
        ("loop_resistance", got.loop_ohm),
        ("drop", got.drop_v),
        ("drop_percent", got.drop_pct),
        ("load_voltage", got.load_v),
        ("power_lost", got.lost_w),
    ):
        assert agrees(case, name, value)


@adaptor("xc")
def reactance_of_capacitors(case):
    wanted = case["expected"]["reactances"]["value"]
    for uf, ohm in zip(case["expected"]["capacitances"]["value"], wanted, strict=True):
        assert reactance_ohm(uf, given(case, "frequency")) == pytest.approx(ohm, rel=1e-5)


@adaptor("motor")
def a_motor_behind_capacitors(case):
    got = running(
        mains_v=given(case, "supply_rms"),
        mains_hz=given(case, "frequency"),
        motor_ohm=given(case, "motor_resistance"),
        motor_henry=given(case, "motor_inductance"),
        capacitors_uf=given(case, "capacitors_in_parallel"),
    )
    for name, value in (
        ("inductive_reactance", got.inductive_ohm),
        ("capacitive_reactance", got.capacitive_ohm),
        ("impedance", got.impedance_ohm),
        ("current", got.current_a),
        ("motor_voltage", got.motor_v),
        ("capacitor_voltage_rms", got.capacitor_v),
        ("power", got.power_w),
        ("phase", got.phase_deg),
        ("current_share_of_direct", got.share_pct),
    ):
        assert agrees(case, name, value), name
    assert got.near_resonance == case["expected"]["near_resonance"]["value"]


@adaptor("steps")
def steps_of_a_fan_by_two_capacitors(case):
    pair = [given(case, "c1"), given(case, "c2")]
    currents = [
        running(
            mains_v=given(case, "supply_rms"),
            mains_hz=given(case, "frequency"),
            motor_ohm=given(case, "motor_resistance"),
            motor_henry=given(case, "motor_inductance"),
            capacitors_uf=used,
        ).current_a
        for used in ([pair[0]], [pair[1]], pair, [])
    ]
    wanted = case["expected"]["currents_c1_c2_both_direct"]["value"]
    assert currents == pytest.approx(wanted, rel=1e-5)


@adaptor("bleed")
def how_long_a_charge_stays(case):
    got = bleed(
        capacitance_uf=given(case, "capacitance"),
        bleed_ohm=given(case, "bleed_resistor"),
        rms_v=given(case, "supply_rms"),
        safe_v=given(case, "safe_voltage"),
    )
    assert agrees(case, "time_constant", got.time_constant_s)
    assert agrees(case, "time_to_safe", got.to_safe_s)
    assert agrees(case, "bleed_power_if_full_voltage", got.power_w)
