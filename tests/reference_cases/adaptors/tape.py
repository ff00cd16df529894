"""The leak tape: states without hole or overlap, false alarms, margins, wear."""

import math

import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.calibrate.tape import (
    Watch,
    cell_years,
    exceeds_1,
    margin_for,
    run_1,
    starts_a_year,
    water_ohm,
)
from aldea.core.devices.sensors.leak_tape.states import Edges
from aldea.core.physics.divider import Divider


def tape_divider(case, full_scale=4095):
    return Divider(
        side="sensor_low" if given(case, "wiring") == "pullup" else "sensor_high",
        fixed_ohm=given(case, "series_resistor"),
        supply_v=3.3,
        reference_v=3.3,
        full_scale_counts=full_scale,
    )


@adaptor("tape")
def what_water_does_to_the_reading(case):
    divider = tape_divider(case, given(case, "full_scale_counts"))
    end = given(case, "end_of_line")
    base = divider.counts(end)
    assert agrees(case, "baseline", base)
    wanted = case["expected"]["wet_counts"]["value"]
    for water, counts in zip(given(case, "wet_resistances"), wanted, strict=True):
        assert divider.counts(1 / (1 / water + 1 / end)) == pytest.approx(counts, abs=0.001)
        assert water_ohm(divider, base, counts) == pytest.approx(water, rel=1e-6)
    assert agrees(case, "short_counts", divider.counts(0.0))


@adaptor("trip")
def which_water_trips_which_state(case):
    divider = tape_divider(case)
    base = divider.counts(given(case, "end_of_line"))
    for name, key in (("warning", "r_wet_warning"), ("leak", "r_wet_leak")):
        share = given(case, f"{name}_percent_of_baseline") / 100
        water = water_ohm(divider, base, share * base)
        assert water is not None
        assert agrees(case, key, water)


@adaptor("state")
def equality_belongs_to_the_alarm(case):
    base = given(case, "baseline") / 100
    edges = Edges(
        rises=False,
        open_at=base * given(case, "open_at_or_above"),
        damp_at=base * given(case, "warning_at_or_below"),
        wet_at=base * given(case, "leak_at_or_below"),
        short_at=base * given(case, "short_at_or_below"),
    )
    ours = {"damp": "warning", "wet": "leak"}
    got = [edges.state_of(counts) for counts in given(case, "counts")]
    assert [ours.get(state, state) for state in got] == case["expected"]["states"]["value"]


@adaptor("noise")
def how_often_noise_alone_alarms(case):
    p = exceeds_1(
        given(case, "margin_to_threshold"),
        given(case, "noise_sd_single_sample"),
        given(case, "samples_averaged"),
    )
    k, n = given(case, "consecutive_readings"), given(case, "readings_per_year")
    assert agrees(case, "p_single_reading", p)
    assert agrees(case, "p_run_at_a_given_reading", p**k)
    assert agrees(case, "p_at_least_one_per_year", run_1(p, k, n))
    assert agrees(case, "expected_alarm_starts_per_year", starts_a_year(p, k, n))
    assert Watch(interval_s=given(case, "reading_interval")).readings_a_year == n


@adaptor("runs")
def runs_are_exact(case):
    got = run_1(
        given(case, "p_single_reading"),
        given(case, "consecutive_readings"),
        given(case, "readings"),
    )
    assert agrees(case, "p_at_least_one_run", got)


@adaptor("threshold")
def the_margin_for_a_wanted_rate(case):
    watch = Watch(
        samples=given(case, "samples_averaged"),
        in_a_row=given(case, "consecutive_readings"),
        interval_s=given(case, "reading_interval"),
    )
    sd = given(case, "noise_sd_single_sample")
    margin = margin_for(sd, watch, given(case, "target_probability_per_year"))
    assert agrees(case, "margin", margin)
    assert agrees(case, "p_single_reading", exceeds_1(margin, sd, watch.samples))
    assert agrees(case, "threshold", given(case, "baseline") - margin)


@adaptor("slots")
def cells_wear(case):
    facts = (float(given(case, "endurance")), float(given(case, "writes_per_day")))
    assert agrees(case, "years", cell_years(given(case, "slots"), *facts))
    enough = case["expected"]["slots_for_20_years"]["value"]
    assert cell_years(enough, *facts) >= 20 > cell_years(enough - 1, *facts)
    assert cell_years(1, 100_000, 0) == math.inf
