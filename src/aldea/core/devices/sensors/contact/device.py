"""A bare contact in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.figures import ohms
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.part_count import PartCount
from aldea.core.devices.sensors.contact.model import CONTACT, ContactSensor
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe


class ContactDevice(SensorDevice[ContactSensor]):
    """From its pin to zero; a pull-up says what open reads."""

    facts = CONTACT
    asks: ClassVar[Asks] = {
        "closed_means": Asked(
            label="Closed means", options=(("on", "on"), ("off", "off (inverted)"))
        ),
        "pull": Asked(
            label="Pull-up", options=(("board", "the board’s own"), ("resistor", "a resistor"))
        ),
        "pull_ohm": Asked(label="Pull-up of", unit="Ω"),
        "debounce_ms": Asked(label="Debounce", unit="ms"),
    }

    def signals(self, probe: Probe, sensor: ContactSensor) -> Iterator[Signal]:
        """One line that a bare contact closes."""
        own = sensor.pull == "board"
        yield probe_signal(probe, "contact", "digital_in", wants_pull=own, bare_contact=True)

    def note(self, sensor: ContactSensor, line: str, pin: str) -> str:
        """Its resistor, where it has one."""
        if sensor.pull != "resistor":
            return ""
        return f"{ohms(sensor.pull_ohm)} pull-up at the board"

    def parts(self, sensor: ContactSensor) -> Iterator[PartCount]:
        """The contact, and its resistor."""
        yield from super().parts(sensor)
        if sensor.pull == "resistor":
            yield PartCount(group="Small parts", part=f"resistor {ohms(sensor.pull_ohm)}")

    def expected(self, sensor: ContactSensor, line: str) -> str:
        """Nothing, closed."""
        return "0 Ω closed"

    def pulled(self, sensor: ContactSensor) -> ContactSensor | None:
        """The same with a pull-up resistor."""
        return sensor.model_copy(update={"pull": "resistor"})


DEVICE = ContactDevice()
