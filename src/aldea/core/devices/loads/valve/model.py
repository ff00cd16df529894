"""A valve: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Part
from aldea.core.devices.loads.facts import LoadFacts


class Valve(Part):
    """A valve: how it stands without supply, and how many contacts are in series."""

    at_rest: Literal["open", "shut"] = "shut"
    in_series: Annotated[int, Field(ge=1, le=2)] = 1


VALVE = LoadFacts(
    kind="valve",
    name="valve",
    usual_class="water",
    usual_nature="coil",
    figures="valve",
    model=Valve,
    low_voltage_too=True,
)
