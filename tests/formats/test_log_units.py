"""Which unit a column of a log is in, which quantity it holds, and what the units mean."""

import numpy as np
import pytest

from aldea.core.base.quantities import unit_of
from aldea.demo.mill import mill_plan
from aldea.formats.log_units import (
    UNITS,
    conversion_of,
    is_named,
    options_for,
    quantity_of_heading,
    unit_in_log,
    units_of,
)

PLAN = mill_plan()


def probe_of(quantity: str):
    return next(probe for probe in PLAN.probes if probe.quantity == quantity)


@pytest.mark.parametrize(
    ("quantity", "heading", "key"),
    [
        ("air_temperature", "Studio temp (°F)", "degf"),
        ("air_temperature", "temp Fahrenheit", "degf"),
        ("air_temperature", "T / K", "kelvin"),
        ("air_temperature", "Temperature °C", ""),
        ("air_temperature", "Kitchen", ""),  # a K within a word is no kelvin
        ("relative_humidity", "RH %", ""),
        ("leak", "tape / Ω", "ohm"),
        ("leak", "tape MOhm", "megohm"),
        ("leak", "tape kΩ", ""),
        ("illuminance", "light klx", "klx"),
        ("distance", "level mm", "mm"),
        ("distance", "level cm", "cm"),
        ("distance", "range (m)", ""),
    ],
)
def test_a_heading_names_the_unit(quantity, heading, key):
    assert unit_in_log(probe_of(quantity), heading, 20.0) == key


def test_a_humidity_of_one_or_less_is_a_fraction():
    humid = probe_of("relative_humidity")
    assert unit_in_log(humid, "rh", 0.52) == "fraction"
    assert unit_in_log(humid, "rh", 52.0) == ""
    assert unit_in_log(humid, "rh", None) == ""


@pytest.mark.parametrize(
    ("quantity", "key", "written", "meant"),
    [
        ("air_temperature", "degf", 50.0, 10.0),  # 9/5 · 10 + 32
        ("air_temperature", "kelvin", 273.15, 0.0),
        ("air_temperature", "tenths", 215.0, 21.5),
        ("relative_humidity", "fraction", 0.5, 50.0),
        ("air_pressure", "pa", 101_325.0, 1013.25),
        ("air_pressure", "kpa", 101.325, 1013.25),
        ("air_pressure", "mmhg", 760.0, 1013.25),
        ("air_pressure", "inhg", 29.921_26, 1013.25),
        ("leak", "ohm", 47_000.0, 47.0),
        ("leak", "megohm", 1.2, 1200.0),
        ("illuminance", "klx", 1.5, 1500.0),
        ("distance", "mm", 2400.0, 2.4),
        ("distance", "cm", 240.0, 2.4),
    ],
)
def test_units_mean_what_they_are_defined_as(quantity, key, written, meant):
    unit = next(unit for unit in UNITS[quantity] if unit.key == key)
    assert unit.converted(np.array([written]))[0] == pytest.approx(meant, rel=1e-4)


def test_units_are_converted_to_that_of_the_plan():
    """The table above means these: a mm that became a tenth was right while plans had cm."""
    assert {quantity: unit_of(quantity) for quantity in UNITS} == {
        "air_temperature": "°C", "relative_humidity": "%RH", "air_pressure": "hPa",
        "leak": "kΩ", "illuminance": "lx", "distance": "m",
    }  # fmt: skip


def test_the_probe_that_a_heading_names_is_known_from_its_kind():
    studio = PLAN.probe("studio_temp")
    assert studio is not None
    assert is_named(studio, "Studio thermometer")
    assert not is_named(studio, "temp")
    assert quantity_of_heading("Relative humidity, %") == "relative_humidity"
    assert quantity_of_heading("baro hPa") == "air_pressure"
    assert quantity_of_heading("remark") is None


def test_the_column_of_a_probe_is_read_in_the_unit_of_its_heading():
    studio = PLAN.probe("studio_temp")
    assert studio is not None
    lines = ("when;rh %;studio temp °F", "2026-01-01 10:00:00;50;68,0", "2026-01-01 10:01:00;51;68")
    head = "\n".join(lines).encode()
    options = options_for(head, "Europe/Madrid", studio)
    assert (options.value_column, options.unit, options.decimal) == (2, "degf", ",")
    assert [key for key, _ in units_of(PLAN, studio)] == ["", "degf", "kelvin", "tenths", "counts"]
    counts = conversion_of(PLAN, studio, "counts")(np.array([0.0, 1e9]))
    assert np.isnan(counts).all(), "an open or short circuit is no temperature"
    assert conversion_of(PLAN, studio, "furlongs")(np.array([7.0]))[0] == 7.0
