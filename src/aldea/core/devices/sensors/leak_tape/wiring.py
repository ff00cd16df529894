"""How a leak tape is wired: four ways, one place for schedule, netlist, drawing and table.

Tape and fixed resistor are in series between what feeds them and 0 V, and the pin reads the point
between the two. The tape stands above that point (it reads high when wet) or below it.
"""

from dataclasses import dataclass
from typing import Literal

from aldea.core.devices.sensors.leak_tape.model import LeakTape

Node = Literal["excite", "reference", "zero"]
NODE_WORDS: dict[Node, str] = {
    "excite": "the excitation",
    "reference": "the converter’s reference",
    "zero": "0 V",
}
TAPE_END: dict[Node, str] = {"excite": "excite", "reference": "plus", "zero": "back"}
FIXED_END = "fixed resistor"  # its leg away from the pin, at the board


@dataclass(frozen=True, slots=True, kw_only=True)
class TapeWiring:
    """Where the second wire of a tape goes, and the leg of its fixed resistor away from the pin."""

    tape_to: Node
    fixed_to: Node

    @property
    def tape_end(self) -> str:
        """What the second wire is called at the tape."""
        return TAPE_END[self.tape_to]


def tape_wiring(tape: LeakTape) -> TapeWiring:
    """One of four: fed all the time or excited by a pin, the tape above the pin or below it."""
    fed: Node = "reference" if tape.excitation == "constant" else "excite"
    if tape.side == "sensor_high":
        return TapeWiring(tape_to=fed, fixed_to="zero")
    return TapeWiring(tape_to="zero", fixed_to=fed)
