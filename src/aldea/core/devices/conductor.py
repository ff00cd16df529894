"""A conductor: one numbered wire; and what a device asks to be fed with."""

from dataclasses import dataclass
from typing import Literal

Net = Literal["ELV", "mains"]
BUS_PULL_OHM = 4700.0  # once a line of a bus
IDLE_PULL_OHM = 4700.0  # at the pin of a relay that would float


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """One wire: its number, its two ends, what it is, and what to know of it.

    `signal` names the signal that it carries, `owner` the thing that it serves. `current_a` is the
    load's where that flows, 0 in earth, coils, sensing and extra-low voltage; section and feed of
    mains are the electrician's to decide.
    """

    number: str
    start: str
    end: str
    net: Net
    colour: str
    section: str
    owner: str
    place: str
    signal: str = ""
    feed: str = ""
    current_a: float = 0.0
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Supplied:
    """A wire that a sensor wants from its board beside its signals, and where it ends on it."""

    terminal: Literal["zero", "rail", "reference"]
    end: str
    volts: float = 0.0
