"""A bare contact: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Ohms, Part
from aldea.core.devices.sensors.facts import ContactMeans, SensorFacts


class ContactSensor(Part):
    """A bare contact, such as an end contact: what closed means, pull-up and debounce."""

    kind: Literal["contact"] = "contact"
    closed_means: ContactMeans = "on"
    pull: Literal["board", "resistor"] = "board"
    pull_ohm: Ohms = 10_000.0
    debounce_ms: Annotated[float, Field(ge=0, le=10_000)] = 30.0


CONTACT = SensorFacts(
    kind="contact",
    name="bare contact",
    model=ContactSensor,
    measures=("leak", "presence", "position", "sensed_output"),
)
