"""What follows from a kind: defaults of places, probes and loads, and the plain words for them.

Defaults are marked as such wherever they are shown; they are ordinary houses, not this one.
"""

from dataclasses import dataclass

from aldea.core.plan.document import (
    Calibration,
    House,
    Load,
    LoadClass,
    LoadKind,
    Place,
    PlaceKind,
    PowerReturn,
    Probe,
    Quantity,
    Range,
    WallKind,
)
from aldea.core.plan.loads import Nature, Pattern, PulseDrive, SteppedFan, TwoWay, Valve


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceDefaults:
    """An ordinary place of a kind; metres, changes of air an hour."""

    name: str
    width_m: float
    depth_m: float
    height_m: float
    walls: WallKind
    air_changes_per_h: float


PLACES: dict[PlaceKind, PlaceDefaults] = {
    "room": PlaceDefaults(
        name="room", width_m=4.5, depth_m=5.0, height_m=2.6, walls="brick", air_changes_per_h=0.5
    ),
    "stair": PlaceDefaults(
        name="stair or hall",
        width_m=3.0,
        depth_m=5.0,
        height_m=2.6,
        walls="brick",
        air_changes_per_h=1.0,
    ),
    "loft": PlaceDefaults(
        name="loft", width_m=9.0, depth_m=8.0, height_m=2.2, walls="timber", air_changes_per_h=1.5
    ),
    "private": PlaceDefaults(
        name="private flat",
        width_m=6.0,
        depth_m=8.0,
        height_m=2.6,
        walls="brick",
        air_changes_per_h=0.5,
    ),
    "outside": PlaceDefaults(
        name="outside", width_m=6.0, depth_m=8.0, height_m=3.0, walls="stone", air_changes_per_h=100
    ),
    "neighbour": PlaceDefaults(
        name="neighbour’s building",
        width_m=5.0,
        depth_m=8.0,
        height_m=2.6,
        walls="brick",
        air_changes_per_h=0.5,
    ),
    "enclosure": PlaceDefaults(
        name="cupboard or box inside a place",
        width_m=0.8,
        depth_m=0.5,
        height_m=1.2,
        walls="sheet",
        air_changes_per_h=5.0,
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class QuantityKind:
    """A quantity: its range, step and doubt as sold, and the ways in which a probe is made."""

    name: str
    low: float
    high: float
    resolution: float
    uncertainty: float
    sensors: tuple[str, ...]


QUANTITIES: dict[Quantity, QuantityKind] = {
    "air_temperature": QuantityKind(
        name="temperature",
        low=-30,
        high=80,
        resolution=0.1,
        uncertainty=0.8,
        sensors=("bus", "one_wire", "thermistor"),
    ),
    "relative_humidity": QuantityKind(
        name="relative humidity",
        low=0,
        high=100,
        resolution=0.1,
        uncertainty=3.5,
        sensors=("bus", "one_wire", "analog"),
    ),
    "leak": QuantityKind(
        name="leak",
        low=0,
        high=2000,
        resolution=1,
        uncertainty=30,
        sensors=("leak_tape", "contact"),
    ),
    "presence": QuantityKind(
        name="presence",
        low=0,
        high=1,
        resolution=1,
        uncertainty=0.5,
        sensors=("motion", "serial", "contact"),
    ),
    "illuminance": QuantityKind(
        name="light",
        low=0,
        high=2000,
        resolution=1,
        uncertainty=60,
        sensors=("light_resistor", "photodiode", "bus"),
    ),
    "position": QuantityKind(
        name="end contact", low=0, high=1, resolution=1, uncertainty=0.5, sensors=("contact",)
    ),
    "distance": QuantityKind(
        name="distance", low=0, high=6, resolution=0.01, uncertainty=0.03, sensors=("echo", "bus")
    ),
    "sensed_output": QuantityKind(
        name="sensed output",
        low=0,
        high=1,
        resolution=1,
        uncertainty=0.5,
        sensors=("mains_sense", "contact"),
    ),
    "gas_hint": QuantityKind(
        name="gas or smoke hint",
        low=0,
        high=10,
        resolution=0.01,
        uncertainty=0.5,
        sensors=("gas", "analog"),
    ),
    "count": QuantityKind(
        name="pulses", low=0, high=1e6, resolution=1, uncertainty=1, sensors=("pulse",)
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassWords:
    """A class of load for safety, and what follows from it, said at once."""

    name: str
    follows: str
    caution: str


CLASSES: dict[LoadClass, ClassWords] = {
    "heat": ClassWords(
        name="heat",
        follows="Off without a reading and off after a power cut; needs a longest run; never "
        "“last” without a written reason.",
        caution="A thermal cut-out stays in place: a relay is never the only guard of a heater.",
    ),
    "water": ClassWords(
        name="water",
        follows="Shut or off without supply; a leak latches it until a person resets; never “last” "
        "without a written reason.",
        caution="Pressure relief and float stop stay in place: a relay is never the only guard.",
    ),
    "motion": ClassWords(
        name="motion",
        follows="Stays put after a power cut; moves only when it is known where it stands; never "
        "“last” without a written reason.",
        caution="A drive needs its own obstruction protection; keep hands out while it is wired.",
    ),
    "light": ClassWords(
        name="light",
        follows="May come back as it was; a failure is dark, not dangerous, except on a stair.",
        caution="A dark stair is a fall: keep a light that needs no panel.",
    ),
    "air": ClassWords(
        name="air",
        follows="Decides anew after a power cut; may keep running without a reading.",
        caution="In a gas alarm no ordinary motor is started in that room.",
    ),
}
LOAD_KINDS: dict[LoadKind, str] = {
    "relay": "plain relay",
    "two_way": "two-way circuit with a wall switch",
    "stepped": "fan in steps",
    "pulse_drive": "drive by pulses",
    "valve": "valve",
    "indicator": "indicator lamp",
    "sounder": "sounder",
}
NATURES: dict[Nature, str] = {
    "resistive": "heater, resistive",
    "motor": "motor or compressor",
    "lamp": "lamp",
    "capacitive": "electronic supply, capacitive",
    "coil": "coil of a valve or contactor",
}
USUAL_CLASS: dict[LoadKind, LoadClass] = {
    "relay": "air",
    "two_way": "light",
    "stepped": "air",
    "pulse_drive": "motion",
    "valve": "water",
    "indicator": "light",
    "sounder": "light",
}


def new_place(house_places: tuple[Place, ...], **facts: object) -> Place:
    """A place with its walls set beside the last one on its level."""
    kind = PLACES[facts["kind"]]  # type: ignore[index]
    level = facts["level"]
    walls = [p.to_m for p in house_places if p.level == level and p.within is None]
    start = max(walls, default=0.0)
    facts.setdefault("from_m", start)
    facts.setdefault("to_m", start + kind.width_m)
    return Place.model_validate(facts)


def new_probe(*, probe_id: str, name: str, place: str, quantity: Quantity) -> Probe:
    """A probe as sold: range, resolution and doubt of its quantity; how it is made is open."""
    kind = QUANTITIES[quantity]
    return Probe(
        id=probe_id,
        name=name,
        place=place,
        quantity=quantity,
        stage="planned",
        resolution=float(kind.resolution),
        range=Range(low=float(kind.low), high=float(kind.high)),
        calibration=Calibration(expanded_uncertainty=float(kind.uncertainty)),
    )


def figures_for(kind: LoadKind) -> dict[str, object]:
    """The figures that a load of a kind carries, at their defaults; None for those of others."""
    return {
        "stepped": SteppedFan() if kind == "stepped" else None,
        "drive": PulseDrive() if kind == "pulse_drive" else None,
        "valve": Valve() if kind == "valve" else None,
        "two_way": TwoWay() if kind == "two_way" else None,
        "pattern": Pattern() if kind in ("indicator", "sounder") else None,
    }


def new_load(*, load_id: str, name: str, place: str, kind: LoadKind) -> Load:
    """A planned load of a kind, of the class that such loads usually are."""
    load_class = USUAL_CLASS[kind]
    nature: Nature = {
        "relay": "resistive",
        "two_way": "lamp",
        "stepped": "motor",
        "pulse_drive": "motor",
        "valve": "coil",
        "indicator": "lamp",
        "sounder": "lamp",
    }[kind]  # type: ignore[assignment]
    return Load.model_validate(
        {
            "id": load_id,
            "name": name,
            "place": place,
            "kind": kind,
            "load_class": load_class,
            "stage": "planned",
            "nature": nature,
            "power_return": PowerReturn(policy="off" if load_class != "air" else "decide"),
            **figures_for(kind),
        }
    )


def place_figures(place: Place) -> dict[str, tuple[float | str, bool]]:
    """Sizes and walls of a place for the room model; whether each is only its kind's default."""
    kind = PLACES[place.kind]
    own = {
        "depth_m": place.depth_m,
        "height_m": place.height_m,
        "walls": place.walls,
        "air_changes_per_h": place.air_changes_per_h,
    }
    return {
        key: (getattr(kind, key), True) if value is None else (value, False)
        for key, value in own.items()
    }


def empty_house(house: House) -> dict[str, object]:
    """The parts of a plan with nothing in it."""
    return {
        "format": "aldea-plan/1",
        "house": house,
        "places": (),
        "probes": (),
        "loads": (),
        "claims": (),
    }
