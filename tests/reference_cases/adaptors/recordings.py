"""Light, sound, presence, doorway, gas, contact, multiplexer, addresses: values and laws."""

import math

import numpy as np
import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.calibrate.distance import tank_of
from aldea.core.calibrate.doorway import (
    by_beams,
    by_pulses,
)
from aldea.core.calibrate.light import Diode, law_of
from aldea.core.calibrate.presence_hold import held
from aldea.core.devices.sensors.thermistor.law import thermistor_degc, thermistor_ohm
from aldea.core.physics.divider import Divider, loaded_volts, source_ohm
from aldea.core.physics.moist_air import (
    dew_point_degc,
    rh_after_pct,
    surface_degc,
    surface_for_rh_degc,
)
from aldea.core.physics.sound import moist_sound_m_per_s
from aldea.core.physics.water import salt_lowering_k
from aldea.core.readings.filters import exponential


def exact(case, name):
    return case["expected"][name]["value"]


@adaptor("quantchain")
def from_a_temperature_to_a_code_and_back(case):
    bits = given(case, "adc_bits")
    divider = Divider(
        side=given(case, "wiring"),
        fixed_ohm=given(case, "r_fixed"),
        supply_v=given(case, "divider_supply"),
        reference_v=given(case, "adc_reference"),
        full_scale_counts=2**bits - 1,
    )
    law = {"r25_ohm": given(case, "ntc_r25"), "beta_k": given(case, "ntc_beta")}
    volts = divider.volts(thermistor_ohm(given(case, "true_temperature"), **law))
    assert agrees(case, "node_volts", volts)
    code = divider.code(volts)
    assert code == exact(case, "counts")
    ohm = divider.ohm_of_code(code)
    assert (ohm is None) == exact(case, "saturated")
    if ohm is not None:
        assert agrees(case, "t_inferred", thermistor_degc(ohm, **law))


@adaptor("loading")
def an_input_loads_its_divider(case):
    upper, lower, supply, load = (
        given(case, n) for n in ("r_upper", "r_lower", "supply", "input_resistance")
    )
    assert agrees(case, "source_impedance", source_ohm(upper, lower))
    assert agrees(case, "volts_loaded", loaded_volts(upper, lower, supply, load))
    divider = Divider(
        side="sensor_low", fixed_ohm=upper, supply_v=supply, reference_v=supply,
        full_scale_counts=4095,
    )  # fmt: skip
    inferred = divider.loaded_ohm(lower, load)
    assert inferred is not None
    assert agrees(case, "r_lower_inferred", inferred)


@adaptor("leakage")
def a_leaking_input_lifts_its_node(case):
    upper, lower, supply = (given(case, n) for n in ("r_upper", "r_lower", "supply"))
    divider = Divider(
        side="sensor_low", fixed_ohm=upper, supply_v=supply,
        reference_v=given(case, "adc_reference"),
        full_scale_counts=given(case, "full_scale_counts"),
    )  # fmt: skip
    inferred = divider.leaked_ohm(lower, given(case, "leakage_into_node"))
    assert inferred is not None
    assert agrees(case, "offset", divider.volts(inferred) - divider.volts(lower))
    assert agrees(case, "offset_counts", divider.counts(inferred) - divider.counts(lower))


@adaptor("saltice")
def salt_lowers_an_ice_bath(case):
    assert agrees(case, "lowering", salt_lowering_k(given(case, "salt_per_kg_water")))


@adaptor("warm")
def the_same_air_at_another_temperature(case):
    after = rh_after_pct(given(case, "t1"), given(case, "rh1"), given(case, "t2"))
    assert agrees(case, "relative_humidity_after", after)
    assert (after > 100) == exact(case, "condenses")


@adaptor("surf")
def a_surface_under_the_dew_point_is_wet(case):
    air, rh, surface = (
        given(case, n) for n in ("air_temperature", "relative_humidity", "surface_temperature")
    )
    assert agrees(case, "margin", surface - dew_point_degc(air, rh))
    assert agrees(case, "surface_relative_humidity", rh_after_pct(air, rh, surface))
    assert agrees(case, "surface_temperature_for_80_percent", surface_for_rh_degc(air, rh, 80))


@adaptor("frsi")
def a_cold_wall_by_its_temperature_factor(case):
    inside, rh = given(case, "indoor_temperature"), given(case, "relative_humidity")
    wall = surface_degc(inside, given(case, "outdoor_temperature"), given(case, "f_rsi"))
    assert agrees(case, "surface_temperature", wall)
    at_wall = rh_after_pct(inside, rh, wall)
    assert agrees(case, "surface_relative_humidity", at_wall)
    assert agrees(case, "max_indoor_rh_for_80_percent", rh * 80 / at_wall)


@adaptor("humid")
def speed_of_sound_in_moist_air(case):
    facts = given(case, "temperature"), given(case, "relative_humidity"), given(case, "pressure")
    speed = moist_sound_m_per_s(*facts)
    assert agrees(case, "speed", speed)
    assert agrees(case, "humidity_effect", speed - moist_sound_m_per_s(facts[0], 0.0, facts[2]))


@adaptor("tank")
def a_tank_by_its_distance(case):
    tank = tank_of(
        area_m2=given(case, "area"),
        empty_m=given(case, "distance_when_empty"),
        full_m=given(case, "distance_when_full"),
        measured_m=given(case, "measured_distance"),
    )
    assert agrees(case, "level", tank.level_m)
    assert agrees(case, "level_percent", tank.level_pct)
    assert agrees(case, "volume", tank.volume_m3)


@adaptor("ldrgamma")
def two_points_fix_a_photoresistor(case):
    law = law_of((given(case, "lux1"), given(case, "lux2")), (given(case, "r1"), given(case, "r2")))
    assert agrees(case, "gamma", law.gamma_1)
    assert agrees(case, "resistance_at_10_lux", law.r10_ohm)
    assert agrees(case, "resistance_at_test", law.ohm_at(given(case, "test_lux")))


@adaptor("photodiode", "tia")
def a_photodiode_and_its_amplifier(case):
    def or_one(name):
        return given(case, name) if name in case["inputs"] else 1.0

    diode = Diode(
        responsivity_a_per_w=given(case, "responsivity"),
        area_mm2=given(case, "active_area"),
        feedback_ohm=or_one("feedback_resistor"),
        dark_na=given(case, "dark_current"),
    )
    if case["family"] == "photodiode":
        current = given(case, "current") * 1e-9
        assert agrees(case, "irradiance", diode.irradiance_w_per_m2(current))
        return
    light = given(case, "irradiance")
    assert agrees(case, "current", diode.current_a(light))
    assert agrees(case, "output", diode.volts(light))
    reference = given(case, "adc_reference")
    counts = diode.volts(light) / reference * given(case, "full_scale_counts")
    assert agrees(case, "counts_exact", counts)
    assert agrees(case, "irradiance_at_full_scale", diode.at_volts(reference))


@adaptor("onoff")
def a_held_output(case):
    spans = held(given(case, "detections"), given(case, "hold_time"))
    assert [list(span) for span in spans] == exact(case, "intervals_on")
    assert sum(b - a for a, b in spans) == exact(case, "seconds_on")
    assert len(spans) == exact(case, "switch_offs")


@adaptor("quad", "pulse")
def who_came_and_who_went(case):
    start = given(case, "count_at_start")
    if case["family"] == "quad":
        count = by_beams([tuple(e) for e in given(case, "events")], inside=start)
    else:
        pulses = [tuple(e) for e in given(case, "activations")]
        count = by_pulses(pulses, longest_gap_s=given(case, "window"), inside=start)
    got = {"entries": count.entries, "exits": count.exits, "count_at_end": count.inside}
    assert got == {name: exact(case, name) for name in got}


@adaptor("ema")
def the_exponential_filter_on_a_regular_series(case):
    values = np.array(given(case, "series"), dtype=float)
    tau = -1 / math.log(1 - given(case, "alpha"))
    got = exponential(np.arange(len(values), dtype=float), values, tau)
    assert got == pytest.approx(exact(case, "output"), abs=1e-9)
