"""Classes of loads for safety: what follows from each, and the caution that goes with it."""

from dataclasses import dataclass
from typing import Literal

LoadClass = Literal["heat", "water", "motion", "light", "air"]


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadClassFacts:
    """A class of load for safety, and what follows from it, said at once.

    What `must_rest` may not run without supply, and not come back as it was without a reason.
    """

    name: str
    follows: str
    caution: str
    must_rest: bool


LOAD_CLASSES: dict[LoadClass, LoadClassFacts] = {
    "heat": LoadClassFacts(
        name="heat",
        follows="Off on a sensor fault and after a power cut. Needs a maximum on time. “Last "
        "state” only with a written reason.",
        caution="A thermal cut-out stays in place: a relay is never the only guard of a heater.",
        must_rest=True,
    ),
    "water": LoadClassFacts(
        name="water",
        follows="Shut or off without supply. A leak latches it until a person resets it. “Last "
        "state” only with a written reason.",
        caution="Pressure relief and float stop stay in place: a relay is never the only guard.",
        must_rest=True,
    ),
    "motion": LoadClassFacts(
        name="motion",
        follows="Stays where it is after a power cut and moves only when its position is known. "
        "“Last state” only with a written reason.",
        caution="A drive needs its own obstruction protection; keep hands out while it is wired.",
        must_rest=True,
    ),
    "light": LoadClassFacts(
        name="light",
        follows="After a power cut it may return to its last state. A failure is dark, not "
        "dangerous, except on a stair.",
        caution="A dark stair is a fall: keep a light that needs no panel.",
        must_rest=False,
    ),
    "air": LoadClassFacts(
        name="air",
        follows="After a power cut it follows its rules again. On a sensor fault it may keep "
        "running.",
        caution="In a gas alarm no ordinary motor is started in that room.",
        must_rest=False,
    ),
}


def usual_return(load_class: LoadClass) -> Literal["off", "follow_rules"]:
    """What a new load of a class does after a power cut: what must rest waits for a new request."""
    return "off" if must_rest(load_class) else "follow_rules"


def must_rest(load_class: LoadClass) -> bool:
    """Whether a load of a class must rest when the panel is dead."""
    return LOAD_CLASSES[load_class].must_rest
