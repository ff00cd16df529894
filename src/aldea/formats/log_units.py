"""Units that logs are written in, and which of them the readings speak for."""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.quantities import Quantity, unit_of
from aldea.core.calibrate.detective import Assumptions, assumed_of
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.document import Plan, Probe
from aldea.formats.log_options import LogOptions, guess_options, head_rows, number_columns

Converted = Callable[[FloatArray], FloatArray]
COUNTS, PLANS_OWN = "counts", "plan"
MOSTLY_OUTSIDE_1, HARDLY_OUTSIDE_1 = 0.5, 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class LogUnit:
    """A unit that a quantity may be logged in: value = offset + scale * what is written."""

    key: str
    name: str
    scale: float
    offset: float = 0.0

    def converted(self, values: FloatArray) -> FloatArray:
        """Values as written, in the unit of the plan."""
        return self.offset + self.scale * values


UNITS: dict[Quantity, tuple[LogUnit, ...]] = {
    "air_temperature": (
        LogUnit(key="degf", name="°F", scale=5 / 9, offset=-160 / 9),
        LogUnit(key="kelvin", name="K", scale=1.0, offset=-273.15),
        LogUnit(key="tenths", name="tenths of °C", scale=0.1),
    ),
    "relative_humidity": (
        LogUnit(key="fraction", name="a fraction, 0 to 1", scale=100.0),
        LogUnit(key="tenths", name="tenths of %RH", scale=0.1),
    ),
    "air_pressure": (
        LogUnit(key="pa", name="Pa", scale=0.01),
        LogUnit(key="kpa", name="kPa", scale=10.0),
        LogUnit(key="mmhg", name="mmHg", scale=1.333_223_874_15),
        LogUnit(key="inhg", name="inHg", scale=33.863_886_4),
    ),
    "leak": (
        LogUnit(key="ohm", name="Ω", scale=0.001),
        LogUnit(key="megohm", name="MΩ", scale=1000.0),
    ),
    "illuminance": (LogUnit(key="klx", name="klx", scale=1000.0),),
    "distance": (
        LogUnit(key="mm", name="mm", scale=0.001),
        LogUnit(key="cm", name="cm", scale=0.01),
    ),
}


WORDS: dict[Quantity, tuple[str, ...]] = {
    "air_temperature": ("temp", "°c", "°f", "degc", "degf"),
    "relative_humidity": ("humid", "hum", "rh", "moist"),
    "air_pressure": ("press", "hpa", "baro"),
    "leak": ("leak", "tape", "ohm"),
    "presence": ("presence", "motion", "pir"),
    "illuminance": ("lux", "light", "lx", "illum"),
    "distance": ("dist", "range", "level"),
    "gas_hint": ("gas", "smoke", "voc"),
    "count": ("count",),
    "position": ("contact", "open", "door", "window"),
    "sensed_output": ("sensed", "state", "on"),
}


# How a heading names a unit, beside the letters of its name.
HEADINGS: dict[str, str] = {
    "degf": r"°\s?f|deg\.?\s?f|fahrenheit|(?<![a-z])f(?![a-z])",
    "kelvin": r"kelvin|(?<![a-z])k(?![a-z])",
    "pa": r"(?<![a-z])pa(?![a-z])",
    "kpa": r"kpa",
    "mmhg": r"mm\s?hg|torr",
    "inhg": r"in\.?\s?hg",
    "ohm": r"(?<![a-zµμ])(Ω|ω|ohms?)(?![a-z])",
    "megohm": r"mω|mohm|megohm",
    "klx": r"klx|klux",
    "mm": r"(?<![a-z])mm(?![a-z])",
    "cm": r"(?<![a-z])cm(?![a-z])",
}


def unit_in_log(probe: Probe, heading: str, middle: float | None) -> str:
    """The key of the unit that a column seems to be in, by its heading or its middle value.

    A humidity whose middle value is 1 or less is a fraction. Empty for the unit of the plan.
    """
    head = heading.casefold()
    for unit in UNITS.get(probe.quantity, ()):
        if unit.key in HEADINGS and re.search(HEADINGS[unit.key], head):
            return unit.key
    if probe.quantity == "relative_humidity" and middle is not None and 0 < middle <= 1:
        return "fraction"
    return ""


def options_for(head: bytes, zone: str, probe: Probe) -> LogOptions:
    """The likeliest reading of a log's first lines for a probe: columns, times and unit."""
    options = guess_options(head, zone, partial(speaks_for, probe))
    rows = head_rows(head, options.delimiter)
    names = rows[options.header_rows - 1] if 0 < options.header_rows <= len(rows) else []
    column = options.value_column
    numbers = number_columns(rows, options)
    middle = numbers[column][1] if column in numbers else None
    heading = names[column] if column < len(names) else ""
    return replace(options, unit=unit_in_log(probe, heading, middle))


def quantity_of_heading(heading: str) -> Quantity | None:
    """The quantity that a heading names; None where it names none."""
    head = heading.casefold()
    whole = set(re.split(r"[^a-z0-9°]+", head))
    for quantity, words in WORDS.items():
        if any(word in whole or (len(word) > 3 and word in head) for word in words):
            return quantity
    return None


def speaks_for(probe: Probe, heading: str, value: float) -> float:
    """How much a column's heading and its middle value speak for a probe; 0 for not at all."""
    head = heading.casefold()
    words = [word for word in re.split(r"[^a-z0-9]+", probe.name.casefold()) if len(word) > 1]
    named = sum(word in head for word in words) / max(1, len(words))
    kind = any(word in head for word in WORDS.get(probe.quantity, ()))
    in_range = probe.range.low <= value <= probe.range.high
    return 3 * named + 2 * kind + 0.5 * in_range


def is_named(probe: Probe, heading: str) -> bool:
    """Whether a heading has a word of a probe's name that says more than its quantity."""
    head = set(re.split(r"[^a-z0-9]+", heading.casefold()))
    general = WORDS.get(probe.quantity, ())
    words = [word for word in re.split(r"[^a-z0-9]+", probe.name.casefold()) if len(word) > 1]
    own = [word for word in words if not any(word.startswith(kind) for kind in general)]
    return any(word in head for word in own)


def units_of(plan: Plan, probe: Probe) -> tuple[tuple[str, str], ...]:
    """The units that a probe's log may be in, each a key and its name; the plan's first."""
    units = [("", unit_of(probe.quantity) or "as it is")]
    units += [(unit.key, unit.name) for unit in UNITS.get(probe.quantity, ())]
    if _divider_of(plan, probe) is not None:
        units.append((COUNTS, "counts of the converter"))
    return tuple(units)


def conversion_of(plan: Plan, probe: Probe, key: str) -> Converted:
    """From what is written to the unit of the plan; a key that is not of the probe changes nothing.

    Counts go through the thermistor and divider that the plan says; what they cannot be is NaN.
    """
    assumed = _divider_of(plan, probe)
    if key == COUNTS and assumed is not None:
        return lambda values: _from_counts(values, assumed)
    matching = next((unit for unit in UNITS.get(probe.quantity, ()) if unit.key == key), None)
    return matching.converted if matching is not None else lambda values: values


@dataclass(frozen=True, slots=True)
class Spoken:
    """Where a log's unit is judged: as written, into the plan's unit, and what would fit better."""

    plan: Plan
    probe: Probe
    key: str

    def converted(self, values: FloatArray) -> FloatArray:
        """Values as written, in the unit of the plan."""
        return conversion_of(self.plan, self.probe, self.key)(values)

    def speaks_for(self, written: FloatArray) -> str:
        """The unit in which the readings would lie in range, where in the chosen they do not.

        Empty where most of them do, and where no other unit fixes it.
        """
        if self._outside(self.key, written) < MOSTLY_OUTSIDE_1:
            return ""
        others = [key for key, _ in units_of(self.plan, self.probe) if key != self.key]
        best = min(others, key=lambda key: self._outside(key, written), default=self.key)
        fits = best != self.key and self._outside(best, written) <= HARDLY_OUTSIDE_1
        return (best or PLANS_OWN) if fits else ""

    def _outside(self, key: str, written: FloatArray) -> float:
        values = conversion_of(self.plan, self.probe, key)(written)
        allowed = self.probe.range
        good = (values >= allowed.low) & (values <= allowed.high)
        return float(1 - good.mean()) if len(values) else 0.0


def _divider_of(plan: Plan, probe: Probe) -> Assumptions | None:
    if not isinstance(probe.sensor, Thermistor):
        return None
    return assumed_of(plan, probe, probe.sensor)


def _from_counts(values: FloatArray, assumed: Assumptions) -> FloatArray:
    known, place = np.unique(values, return_inverse=True)
    temps_degc = [assumed.temp_degc(count) for count in known.tolist()]
    return np.array([np.nan if t is None else t for t in temps_degc])[place]
