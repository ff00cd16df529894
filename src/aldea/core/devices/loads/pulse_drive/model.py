"""A drive that pulses move: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Part
from aldea.core.devices.loads.facts import LoadFacts


class PulseDrive(Part):
    """A drive that one pulse opens, stops or shuts, parallel to its own button.

    Its position comes from two end contacts, from a distance, which is `open_at_m` when it is open
    and `shut_at_m` when it is shut, or from both: the contacts decide, the distance shows the way.
    After so many `tries` in a row that did not arrive it is locked out until a person resets it.
    """

    pulse_s: Annotated[float, Field(ge=0.05, le=10)] = 0.5
    travel_s: Annotated[float, Field(gt=0, le=600)] = 25.0
    position: Literal["contacts", "distance", "both"] = "contacts"
    open_contact: Identifier | None = None
    shut_contact: Identifier | None = None
    distance_probe: Identifier | None = None
    open_at_m: Annotated[float, Field(ge=0, le=20)] | None = None
    shut_at_m: Annotated[float, Field(ge=0, le=20)] | None = None
    tries: Annotated[int, Field(ge=1, le=20)] | None = None


PULSE_DRIVE = LoadFacts(
    kind="pulse_drive",
    name="drive by pulses",
    usual_class="motion",
    usual_nature="motor",
    figures="drive",
    model=PulseDrive,
    begins={"tries": 3},
    probe_fields={
        "open_contact": "position",
        "shut_contact": "position",
        "distance_probe": "distance",
    },
)
