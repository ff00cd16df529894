"""Every kind of load: what it is called in the plan, and the figures that it carries.

A new kind is a folder beside this file, a word in `LoadType`, a row in `LOADS`, and, where it has
figures of its own, a field of `LoadFigures`.
"""

from typing import Literal

from aldea.core.base.parts import Part
from aldea.core.devices.loads.facts import LoadFacts
from aldea.core.devices.loads.indicator.model import INDICATOR, SOUNDER, Pattern
from aldea.core.devices.loads.outlet.model import OUTLET, Outlet
from aldea.core.devices.loads.pulse_drive.model import PULSE_DRIVE, PulseDrive
from aldea.core.devices.loads.relay.model import RELAY
from aldea.core.devices.loads.stepped_fan.model import STEPPED_FAN, SteppedFan
from aldea.core.devices.loads.two_way.model import TWO_WAY, TwoWay
from aldea.core.devices.loads.valve.model import VALVE, Valve

LoadType = Literal[
    "relay", "two_way", "valve", "stepped", "pulse_drive", "outlet", "indicator", "sounder"
]
LOADS: tuple[LoadFacts, ...] = (
    RELAY,
    TWO_WAY,
    STEPPED_FAN,
    PULSE_DRIVE,
    VALVE,
    OUTLET,
    INDICATOR,
    SOUNDER,
)
LOAD_FACTS: dict[str, LoadFacts] = {facts.kind: facts for facts in LOADS}


class LoadFigures(Part):
    """The figures that a load carries beyond those of every load: those of its kind, or none."""

    stepped: SteppedFan | None = None
    drive: PulseDrive | None = None
    valve: Valve | None = None
    two_way: TwoWay | None = None
    outlet: Outlet | None = None
    pattern: Pattern | None = None


def figures_for(kind: str) -> dict[str, Part | None]:
    """The figures that a load of a kind carries, as a new one begins; None for those of others."""
    facts = LOAD_FACTS[kind]
    return {
        key: facts.model(**facts.begins)
        if key == facts.figures and facts.model is not None
        else None
        for key in LoadFigures.model_fields
    }
