"""A drive that pulses move: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Part
from aldea.core.devices.loads.facts import LoadFacts


class PulseDrive(Part):
    """A drive that one pulse opens, stops or shuts, parallel to its own button."""

    pulse_s: Annotated[float, Field(ge=0.05, le=10)] = 0.5
    travel_s: Annotated[float, Field(gt=0, le=600)] = 25.0
    position: Literal["contacts", "distance"] = "contacts"
    open_contact: Identifier | None = None
    shut_contact: Identifier | None = None
    distance_probe: Identifier | None = None


PULSE_DRIVE = LoadFacts(
    kind="pulse_drive",
    name="drive by pulses",
    usual_class="motion",
    usual_nature="motor",
    figures="drive",
    model=PulseDrive,
    probe_fields=("open_contact", "shut_contact", "distance_probe"),
)
