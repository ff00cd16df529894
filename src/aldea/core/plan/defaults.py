"""What a new part begins with: the defaults of its kind.

Defaults are marked as such wherever they are shown; they are ordinary houses, not this one.
"""

from dataclasses import dataclass

from aldea.core.base.quantities import QUANTITIES, Quantity
from aldea.core.devices.loads.classes import LoadClass, usual_return
from aldea.core.devices.loads.facts import Nature
from aldea.core.devices.loads.models import LOAD_FACTS, LoadType, figures_for
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.document import (
    House,
    Load,
    OnSensorFault,
    Place,
    PlaceType,
    PowerReturn,
    Probe,
    Range,
    WallType,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceDefaults:
    """An ordinary place of a kind; metres, changes of air an hour."""

    name: str
    width_m: float
    depth_m: float
    height_m: float
    walls: WallType
    air_changes_per_h: float


PLACES: dict[PlaceType, PlaceDefaults] = {
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
        resolution=kind.resolution,
        range=Range(low=kind.low, high=kind.high),
        calibration=Calibration(expanded_uncertainty=kind.uncertainty),
    )


def new_load(
    *, load_id: str, name: str, place: str, kind: LoadType, load_class: LoadClass | None = None
) -> Load:
    """A planned load of a kind, of the class that such loads usually are unless it is given.

    Its return after a power cut is that of its class.
    """
    facts = LOAD_FACTS[kind]
    of_class = load_class or facts.usual_class
    return Load.model_validate(
        {
            "id": load_id,
            "name": name,
            "place": place,
            "kind": kind,
            "load_class": of_class,
            "stage": "planned",
            "nature": usual_nature(kind, of_class),
            "power_return": PowerReturn(policy=usual_return(of_class)),
            "on_sensor_fault": OnSensorFault(after_s=0.0, state="off", each="rule"),
            **figures_for(kind),
        }
    )


def usual_nature(kind: LoadType, load_class: LoadClass) -> Nature:
    """What a load behind a plain relay mostly is, by its class; of another kind what that is."""
    return CLASS_NATURE[load_class] if kind == "relay" else LOAD_FACTS[kind].usual_nature


CLASS_NATURE: dict[LoadClass, Nature] = {
    "heat": "resistive",
    "water": "motor",
    "motion": "motor",
    "light": "lamp",
    "air": "motor",
}


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
        "format": "aldea-plan/2",
        "house": house,
        "places": (),
        "probes": (),
        "loads": (),
        "rules": (),
    }
