"""Every kind of sensor: what it is called in the plan, and the figures that it carries.

A new kind is a folder beside this file, a model in `Sensor` and a row in `SENSOR_FACTS`; the order
of the rows is that in which the ways to make a probe are offered.
"""

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from aldea.core.base.quantities import Quantity
from aldea.core.devices.sensors.analog.model import ANALOG, AnalogSensor
from aldea.core.devices.sensors.bus.model import BUS, BusSensor
from aldea.core.devices.sensors.contact.model import CONTACT, ContactSensor
from aldea.core.devices.sensors.echo.model import ECHO, EchoSensor
from aldea.core.devices.sensors.facts import SensorFacts
from aldea.core.devices.sensors.gas.model import GAS, GasSensor
from aldea.core.devices.sensors.leak_tape.model import LEAK_TAPE, LeakTape
from aldea.core.devices.sensors.light_resistor.model import LIGHT_RESISTOR, LightResistor
from aldea.core.devices.sensors.mains_sense.model import MAINS_SENSE, MainsSense
from aldea.core.devices.sensors.motion.model import MOTION, MotionSensor
from aldea.core.devices.sensors.one_wire.model import ONE_WIRE, OneWireSensor
from aldea.core.devices.sensors.photodiode.model import PHOTODIODE, Photodiode
from aldea.core.devices.sensors.pulse.model import PULSE, PulseSensor
from aldea.core.devices.sensors.serial.model import SERIAL, SerialSensor
from aldea.core.devices.sensors.thermistor.model import THERMISTOR, Thermistor

Sensor = Annotated[
    LightResistor
    | Photodiode
    | EchoSensor
    | BusSensor
    | OneWireSensor
    | Thermistor
    | GasSensor
    | AnalogSensor
    | LeakTape
    | MotionSensor
    | SerialSensor
    | MainsSense
    | ContactSensor
    | PulseSensor,
    Field(discriminator="kind"),
]
SENSORS: tuple[SensorFacts, ...] = (
    LIGHT_RESISTOR,
    PHOTODIODE,
    ECHO,
    BUS,
    ONE_WIRE,
    THERMISTOR,
    GAS,
    ANALOG,
    LEAK_TAPE,
    MOTION,
    SERIAL,
    MAINS_SENSE,
    CONTACT,
    PULSE,
)
SENSOR_FACTS: dict[str, SensorFacts] = {facts.kind: facts for facts in SENSORS}


@dataclass(frozen=True, slots=True, kw_only=True)
class Several:
    """A part that gives several quantities: each as a probe, with the word its name ends on."""

    key: str
    name: str
    gives: tuple[tuple[Quantity, str], ...]
    kinds: tuple[str, ...]


SEVERAL: dict[str, Several] = {
    made.key: made
    for made in (
        Several(
            key="climate",
            name="temperature and humidity, one part",
            gives=(("air_temperature", "temperature"), ("relative_humidity", "RH")),
            kinds=("bus", "one_wire"),
        ),
        Several(
            key="climate_pressure",
            name="temperature, humidity and pressure, one part",
            gives=(
                ("air_temperature", "temperature"),
                ("relative_humidity", "RH"),
                ("air_pressure", "pressure"),
            ),
            kinds=("bus",),
        ),
        Several(
            key="radar",
            name="radar: moving, still and distance, one part",
            gives=(("presence", "moving"), ("presence", "still"), ("distance", "distance")),
            kinds=("serial",),
        ),
    )
}


def several_of(quantity: Quantity) -> tuple[Several, ...]:
    """The parts of several quantities that give this one among them."""
    return tuple(
        kinds for kinds in SEVERAL.values() if quantity in {given for given, _ in kinds.gives}
    )


def ways_to_measure(quantity: Quantity) -> tuple[SensorFacts, ...]:
    """The kinds of sensor that measure a quantity, in the order in which they are offered."""
    return tuple(facts for facts in SENSORS if quantity in facts.measures)
