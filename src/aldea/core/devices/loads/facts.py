"""What is said of a kind of load before any plan: its name, its figures, what it usually is."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from aldea.core.base.parts import Part
from aldea.core.base.quantities import Quantity
from aldea.core.devices.loads.classes import LoadClass

Nature = Literal["resistive", "motor", "lamp", "capacitive", "coil"]
NATURES: dict[Nature, str] = {
    "resistive": "heater, resistive",
    "motor": "motor, compressor",
    "lamp": "lamp",
    "capacitive": "electronic supply",
    "coil": "valve, contactor",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadFacts:
    """A kind of load: its key in the plan, what people call it, its figures, what it usually is.

    `figures` is the key under which a load carries the figures of its kind, `model` what they are;
    `probe_fields` are those of them that name a probe, with what it must measure;
    `low_voltage_too` says that it may run on a supply as well as on mains; `begins` are figures
    that a new load has in place of the model's own.
    """

    kind: str
    name: str
    usual_class: LoadClass
    usual_nature: Nature
    figures: str = ""
    model: type[Part] | None = None
    probe_fields: Mapping[str, Quantity] = field(default_factory=dict)
    low_voltage_too: bool = False
    begins: Mapping[str, Any] = field(default_factory=dict)
