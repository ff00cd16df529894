"""How many of a part a device needs: a line of the shopping list before it is summed up."""

from dataclasses import dataclass
from typing import Literal

PartGroup = Literal["Boards", "Supplies", "Relays", "Sensors", "Controls", "Small parts", "Wire"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartCount:
    """A part by its name, under its heading."""

    group: PartGroup
    part: str
    count: float = 1.0
    unit: str = ""
