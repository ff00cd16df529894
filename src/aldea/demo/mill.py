"""The plan of the made-up mill house Molino Alto, as its builder keeps it."""

from datetime import UTC, datetime
from functools import cache

from aldea.core.base.quantities import QUANTITIES, Quantity
from aldea.core.devices.loads.classes import LoadClass
from aldea.core.devices.loads.models import LoadType
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.conditions import Band, Limit
from aldea.core.plan.document import (
    House,
    Load,
    OnSensorFault,
    Place,
    PlaceType,
    Plan,
    PowerReturn,
    Probe,
    Range,
    Relay,
    Rule,
    Stuck,
)
from aldea.demo.mill_rules import ruled
from aldea.demo.mill_wiring import wired

ZONE = "Europe/Madrid"
LATITUDE_DEG, LONGITUDE_DEG = 42.2, 1.9
NOW = datetime(2025, 11, 13, 18, 42, tzinfo=UTC)  # Thu 13 Nov 2025, 19:42 in the house
DRYING_RH = "drying_rh"
AS_SOLD: dict[Quantity, float] = {
    "air_temperature": 0.4,
    "relative_humidity": 3.0,
    "illuminance": 4.0,
    "leak": 20.0,
    "distance": 0.03,
}
DEHUMIDIFIER = "dehumidifier"


def _place(
    key: str,
    name: str,
    kind: PlaceType,
    level: int,
    walls_m: tuple[float, float] = (0.0, 0.0),
    *,
    top: int | None = None,
    people: tuple[str, ...] = (),
) -> Place:
    return Place(
        id=key,
        name=name,
        kind=kind,
        level=level,
        top_level=top,
        from_m=walls_m[0],
        to_m=walls_m[1],
        people=people,
    )


PLACES = (
    _place("loft", "Loft", "loft", 2, (0.0, 23.0)),
    _place("print_studio", "Print studio", "room", 1, (0.0, 9.9)),
    _place("stair_hall", "Stair hall", "stair", 0, (9.9, 14.4), top=1),
    _place("drying_room", "Drying room", "room", 1, (14.4, 23.0)),
    _place("weir_flat", "Weir flat", "private", 0, (0.0, 4.95), people=("Oriol", "Nela")),
    _place("mid_flat", "Mid flat", "private", 0, (4.95, 9.9), people=("Ines", "Tomàs")),
    _place("north_flat", "North flat", "private", 0, (14.4, 23.0), people=("Jon", "Bea")),
    _place("cistern_room", "Cistern room", "room", -1, (0.0, 12.4)),
    _place("root_cellar", "Root cellar", "room", -1, (12.4, 23.0)),
    _place("courtyard", "Courtyard", "outside", 0),
    Place(id="panel", name="Panel", kind="enclosure", level=-1, within="cistern_room"),
)


def _probe(key: str, name: str, place: str, quantity: Quantity, top: float) -> Probe:
    low = -30.0 if quantity == "air_temperature" else 0.0
    return Probe(
        id=key,
        name=name,
        place=place,
        quantity=quantity,
        range=Range(low=low, high=top),
        resolution=QUANTITIES[quantity].resolution,
        stale_after_s=300.0,
        reading_interval_s=60.0,
        calibration=Calibration(expanded_uncertainty=AS_SOLD.get(quantity, 0.5)),
    )


PROBES = (
    Probe(
        id=DRYING_RH,
        name="Drying room RH",
        place="drying_room",
        quantity="relative_humidity",
        range=Range(low=0.0, high=100.0),
        stale_after_s=120.0,
        stuck=Stuck(after_s=1800.0, band=0.0),
        good_run=3,
        calibration=Calibration(expanded_uncertainty=3.5),
    ),
    Probe(
        id="drying_temp",
        name="Drying room temperature",
        place="drying_room",
        quantity="air_temperature",
        range=Range(low=-20.0, high=60.0),
        stale_after_s=300.0,
        calibration=Calibration(expanded_uncertainty=0.5),
    ),
    Probe(
        id="courtyard_temp",
        name="Courtyard temperature",
        place="courtyard",
        quantity="air_temperature",
        range=Range(low=-30.0, high=60.0),
        stale_after_s=1200.0,
        calibration=Calibration(expanded_uncertainty=0.5),
    ),
    Probe(
        id="courtyard_rh",
        name="Courtyard RH",
        place="courtyard",
        quantity="relative_humidity",
        range=Range(low=0.0, high=100.0),
        stale_after_s=1200.0,
        calibration=Calibration(expanded_uncertainty=3.5),
    ),
    _probe("studio_temp", "Studio thermistor", "print_studio", "air_temperature", 60.0),
    _probe("stair_light", "Stair light", "stair_hall", "illuminance", 2000.0),
    _probe("stair_radar", "Stair radar", "stair_hall", "presence", 1.0),
    _probe("cellar_temp", "Cellar thermistor", "root_cellar", "air_temperature", 60.0),
    _probe("cellar_rh", "Cellar RH", "root_cellar", "relative_humidity", 100.0),
    _probe("manifold_tape", "Manifold tape", "cistern_room", "leak", 2000.0),
    _probe("plinth_tape", "Plinth tape", "cistern_room", "leak", 2000.0),
    _probe("drain_tape", "Floor drain tape", "cistern_room", "leak", 2000.0),
    _probe("skylight_shut", "Skylight shut reed", "loft", "position", 1.0),
    _probe("skylight_open", "Skylight open reed", "loft", "position", 1.0),
    _probe("door_outer", "Outer door motion", "stair_hall", "presence", 1.0),
    _probe("door_inner", "Inner door motion", "stair_hall", "presence", 1.0),
    _probe("cart_distance", "Cart distance", "loft", "distance", 4.0),
    _probe("studio_gas", "Studio solvent hint", "print_studio", "gas_hint", 5.0),
    _probe("rack_top", "Rack top", "drying_room", "air_temperature", 60.0),
    _probe("rack_middle", "Rack middle", "drying_room", "air_temperature", 60.0),
    _probe("rack_foot", "Rack foot", "drying_room", "air_temperature", 60.0),
    _probe("studio_air", "Studio air", "print_studio", "air_temperature", 60.0),
    _probe("studio_rh", "Studio RH", "print_studio", "relative_humidity", 100.0),
    _probe("night_sensed", "Night lights sensed", "panel", "sensed_output", 1.0),
)


def _load(
    key: str,
    name: str,
    place: str,
    load_class: LoadClass,
    power_w: float,
    kind: LoadType = "relay",
) -> Load:
    return Load(
        id=key,
        name=name,
        place=place,
        kind=kind,
        load_class=load_class,
        power_w=power_w,
        power_return=PowerReturn(policy="off"),
    )


LOADS = (
    _load("extractor", "Drying extractor", "drying_room", "air", 120.0, "stepped"),
    Load(
        id=DEHUMIDIFIER,
        name="Dehumidifier",
        place="drying_room",
        load_class="water",
        power_w=310.0,
        relay=Relay(
            rated_cycles=60_000, basis="60,000 switching cycles at 2.4 A, from the relay’s sheet"
        ),
        on_sensor_fault=OnSensorFault(after_s=900.0, state="off"),
        power_return=PowerReturn(policy="follow_rules", delay_s=60.0),
    ),
    _load("cellar_cooler", "Cellar cooler", "root_cellar", "motion", 180.0),
    _load("inlet_valve", "Cistern inlet valve", "cistern_room", "water", 8.0, "valve"),
    _load("booster_pump", "Booster pump", "cistern_room", "water", 550.0),
    _load("night_lights", "Stair night lights", "stair_hall", "light", 24.0, "two_way"),
    _load("panel_heater", "Studio panel heater", "print_studio", "heat", 1500.0),
    _load("skylight", "Loft skylight", "loft", "motion", 90.0, "pulse_drive"),
    _load("store_fan", "Store fan", "root_cellar", "air", 6.0),
    _load("bench_outlet", "Bench outlet", "print_studio", "heat", 1200.0, "outlet"),
)


def mill_plan(
    *, on: float = 60.0, off: float = 59.5, min_on_s: float = 0.0, min_off_s: float = 0.0
) -> Plan:
    """The plan with the given marks (%RH) and shortest times on the dehumidifier.

    The defaults are what the panel runs: a pair so close that the probe's noise makes it chatter.
    """
    times = {"min_on_s": min_on_s, "min_off_s": min_off_s}
    whole = _whole()
    rule = whole.rules[0]
    band = rule.band.model_copy(update={"on_threshold": on, "off_threshold": off})
    loads = tuple(
        load.model_copy(update=times) if load.id == DEHUMIDIFIER else load for load in whole.loads
    )
    return whole.model_copy(
        update={
            "loads": loads,
            "rules": (rule.model_copy(update={"condition": band}), *whole.rules[1:]),
        }
    )


@cache
def _whole() -> Plan:
    """All of it, laid out and wired."""
    laid_out = Plan(
        format="aldea-plan/2",
        house=House(
            name="Molino Alto",
            time_zone=ZONE,
            tariff_per_kwh=0.21,
            currency="€",
            latitude_deg=LATITUDE_DEG,
            longitude_deg=LONGITUDE_DEG,
        ),
        places=PLACES,
        probes=PROBES,
        loads=LOADS,
        rules=(
            Rule(
                id="drying_band",
                load=DEHUMIDIFIER,
                condition=Band(
                    probe=DRYING_RH,
                    direction="rising",
                    on_threshold=60.0,
                    off_threshold=59.5,
                    limit=Limit(value=65.0, why="plaster mould"),
                ),
            ),
        ),
    )
    return ruled(wired(laid_out))
