"""What can be measured: each quantity with its unit, its range and its doubt as sold.

A new quantity is a line of `Quantity` and a row of `QUANTITIES`; the sensors that measure it name
it in their facts.
"""

from dataclasses import dataclass
from typing import Literal

Quantity = Literal[
    "relative_humidity",
    "air_temperature",
    "air_pressure",
    "leak",
    "presence",
    "illuminance",
    "position",
    "distance",
    "sensed_output",
    "gas_hint",
    "count",
]

HALF = 0.5  # a line is on from here


@dataclass(frozen=True, slots=True, kw_only=True)
class QuantityFacts:
    """A quantity: what people call it, its unit, and a probe of it as sold.

    `low` to `high` is what a reading can be at all; `uncertainty` is expanded (k = 2);
    `rule_step` parts the long lines of a band rule; `drawn_small` asks for a small trace in the
    house's section. `states` are the words of a line that is off or on; others have none.
    """

    name: str
    unit: str
    low: float
    high: float
    resolution: float
    uncertainty: float
    rule_step: float = 1.0
    drawn_small: bool = False
    states: tuple[str, str] | None = None


QUANTITIES: dict[Quantity, QuantityFacts] = {
    "air_temperature": QuantityFacts(
        name="temperature",
        unit="°C",
        low=-30.0,
        high=80.0,
        resolution=0.1,
        uncertainty=0.8,
        rule_step=2.0,
    ),
    "relative_humidity": QuantityFacts(
        name="relative humidity",
        unit="%RH",
        low=0.0,
        high=100.0,
        resolution=0.1,
        uncertainty=3.5,
        rule_step=5.0,
        drawn_small=True,
    ),
    "air_pressure": QuantityFacts(
        name="air pressure",
        unit="hPa",
        low=300.0,
        high=1100.0,
        resolution=0.1,
        uncertainty=2.0,
        rule_step=5.0,
    ),
    "leak": QuantityFacts(
        name="leak", unit="kΩ", low=0.0, high=2000.0, resolution=1.0, uncertainty=30.0
    ),
    "presence": QuantityFacts(
        name="presence",
        unit="",
        low=0.0,
        high=1.0,
        resolution=1.0,
        uncertainty=0.5,
        states=("nobody", "somebody"),
    ),
    "illuminance": QuantityFacts(
        name="light", unit="lx", low=0.0, high=2000.0, resolution=1.0, uncertainty=60.0
    ),
    "position": QuantityFacts(
        name="end contact",
        unit="",
        low=0.0,
        high=1.0,
        resolution=1.0,
        uncertainty=0.5,
        states=("open", "closed"),
    ),
    "distance": QuantityFacts(
        name="distance", unit="m", low=0.0, high=6.0, resolution=0.01, uncertainty=0.03
    ),
    "sensed_output": QuantityFacts(
        name="sensed output",
        unit="",
        low=0.0,
        high=1.0,
        resolution=1.0,
        uncertainty=0.5,
        states=("dark", "lit"),
    ),
    "gas_hint": QuantityFacts(
        name="gas or smoke hint", unit="V", low=0.0, high=10.0, resolution=0.01, uncertainty=0.5
    ),
    "count": QuantityFacts(
        name="pulses", unit="", low=0.0, high=1e6, resolution=1.0, uncertainty=1.0
    ),
}


def unit_of(quantity: Quantity) -> str:
    """The unit that a quantity is shown in; empty where it has none."""
    return QUANTITIES[quantity].unit


def state_of(quantity: Quantity, value: float) -> str:
    """What a line that is off or on says, in a word; empty for a quantity that is measured."""
    states = QUANTITIES[quantity].states
    return states[value >= HALF] if states else ""
