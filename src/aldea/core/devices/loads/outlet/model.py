"""An outlet into which somebody plugs what he likes: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Part
from aldea.core.devices.loads.facts import LoadFacts


class Outlet(Part):
    """A switched outlet: what may be plugged in, and what its feed lets flow at most."""

    plugged: Literal["anything", "resistive", "motor", "lamp", "capacitive"] = "anything"
    most_a: Annotated[float, Field(gt=0, le=63)] = 10.0


OUTLET = LoadFacts(
    kind="outlet",
    name="outlet, for what is plugged in",
    usual_class="heat",
    usual_nature="resistive",
    figures="outlet",
    model=Outlet,
)
