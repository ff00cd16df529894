"""A two-way circuit: its figures."""

from typing import Annotated

from pydantic import Field

from aldea.core.base.parts import Identifier, Part
from aldea.core.devices.loads.facts import LoadFacts


class TwoWay(Part):
    """A two-way circuit: a wall switch and a relay, either of which toggles the lamp.

    The sensed output usually follows in `settle_s`; where it has not in `follow_s`, something is
    wrong with the lamp or its circuit.
    """

    sense: Identifier | None = None
    settle_s: Annotated[float, Field(ge=0.05, le=10)] = 0.5
    follow_s: Annotated[float, Field(ge=0.05, le=60)] = 1.0


TWO_WAY = LoadFacts(
    kind="two_way",
    name="two-way circuit with a wall switch",
    usual_class="light",
    usual_nature="lamp",
    figures="two_way",
    model=TwoWay,
    probe_fields={"sense": "sensed_output"},
)
