"""A house begun from a problem: places, probes, a load, a board, its first rule, a must-never.

Each is a draft to change. Every figure in it is an assumption and says so on its rule.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from aldea.core.base.quantities import Quantity
from aldea.core.devices.loads.models import LoadType
from aldea.core.devices.sensors.models import SENSOR_FACTS, SEVERAL
from aldea.core.plan.conditions import Band, Beyond, Contact, Difference, Every, InWindow, Lasting
from aldea.core.plan.controls import Control
from aldea.core.plan.defaults import empty_house, new_load, new_place, new_probe
from aldea.core.plan.derived import Derived, MoistAir
from aldea.core.plan.document import House, OnSensorFault, PlaceType, Plan, PowerReturn, Rule
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.plan.house_rules import OverrideEnd
from aldea.core.plan.invariants import AtMost, Invariant, LoadIs, Never, ProbeIs, Term, ValueIs
from aldea.core.plan.one_part import with_all_of_part
from aldea.core.plan.panel import Board, Supply
from aldea.core.plan.rule_edits import put_rule
from aldea.core.plan.schedules import Schedule, Window
from aldea.core.plan.starting_points import with_starting_point
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.relays import with_relays

HOUR_S = 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class StartingProblem:
    """A problem to solve, what is sensed and switched for it, and the plan that is made of it."""

    key: str
    name: str
    sensed: str
    switched: str
    gives: tuple[tuple[str, str], ...]
    build: Callable[[Plan], Plan]


def begun_from(problem: StartingProblem, house: House) -> Plan:
    """A whole draft made of a problem: laid out, wired to one bare board, with its first rules."""
    plan = problem.build(Plan.model_validate(empty_house(house)))
    first = plan.places[0].id
    supply = Supply(id="supply", name="Supply", place=first, rating_ma=3000.0)
    plan = put_part(plan, "supply", supply)
    board = Board(id="board", name="Board", place=first, board_type="wifi_38", supply="supply")
    plan = put_part(plan, "board", board)
    for load in plan.loads:
        plan = with_relays(plan, load.id)
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def _place(plan: Plan, name: str, kind: PlaceType = "room") -> Plan:
    place = new_place(
        plan.places, id=fresh_id(name, {p.id for p in plan.places}), name=name, kind=kind, level=0
    )
    return put_part(plan, "place", place)


def _probe(plan: Plan, name: str, place: str, quantity: Quantity, sensor: str) -> Plan:
    probe = new_probe(
        probe_id=fresh_id(name, {p.id for p in plan.probes}), name=name, place=place,
        quantity=quantity,
    )  # fmt: skip
    kind = SENSOR_FACTS[sensor].model
    return put_part(plan, "probe", probe.model_copy(update={"sensor": kind(), "stage": "working"}))


def _climate(plan: Plan, name: str, place: str, address: int) -> Plan:
    """Temperature and humidity of one part on a two-wire bus."""
    several = SEVERAL["climate"]
    probe = new_probe(
        probe_id=fresh_id(name, {p.id for p in plan.probes}), name=name, place=place,
        quantity=several.gives[0][0],
    )  # fmt: skip
    sensor = SENSOR_FACTS["bus"].model.model_validate({"address": address})
    return with_all_of_part(
        plan, probe.model_copy(update={"sensor": sensor, "stage": "working"}), several
    )


def _load(plan: Plan, name: str, place: str, kind: LoadType, **facts: Any) -> Plan:
    load = new_load(load_id=fresh_id(name, {one.id for one in plan.loads}), name=name, place=place,
                    kind=kind, load_class=facts.get("load_class"))  # fmt: skip
    return put_part(plan, "load", load.model_copy(update={"stage": "working", **facts}))


def _rule(plan: Plan, load: str, priority: str, note: str, **facts: Any) -> Plan:
    """A rule whose figures are assumed."""
    taken = {rule.id for rule in plan.rules}
    row = {
        "id": fresh_id(f"{load} {priority}", taken),
        "load": load,
        "priority": priority,
        "note": note,
    }
    return put_rule(plan, Rule.model_validate({**row, "basis": "estimated", **facts}))


def _never(plan: Plan, why: str, *terms: Term, longer_than_s: float) -> Plan:
    rule = Never(when=terms, longer_than_s=longer_than_s)
    never = Invariant(id=f"never_{len(plan.invariants) + 1}", rule=rule, why=why)
    return plan.model_copy(update={"invariants": (*plan.invariants, never)})


def _of(plan: Plan, quantity: Quantity, place: str) -> str:
    return next(p.id for p in plan.probes if p.quantity == quantity and p.place == place)


def _damp(plan: Plan) -> Plan:
    plan = _place(_place(plan, "Damp room"), "Outside", "outside")
    plan = _climate(_climate(plan, "Room", "damp_room", 0x44), "Outside", "outside", 0x45)
    air = [
        Derived(id=f"water_{place}", name=f"Water in the air, {words}", made=MoistAir(
            kind="absolute_humidity",
            temperature=_of(plan, "air_temperature", place),
            humidity=_of(plan, "relative_humidity", place),
        ))
        for place, words in (("damp_room", "room"), ("outside", "outside"))
    ]  # fmt: skip
    plan = plan.model_copy(update={"derived": tuple(air)})
    plan = _load(
        plan, "Extractor", "damp_room", "relay", power_w=30.0, load_class="air", nature="motor",
        min_on_s=120.0, min_off_s=120.0, on_sensor_fault=OnSensorFault(after_s=30.0, state="off"),
    )  # fmt: skip
    rh = _of(plan, "relative_humidity", "damp_room")
    damp = Band(probe=rh, direction="rising", on_threshold=65.0, off_threshold=60.0)
    drier = Difference(
        probe="water_damp_room", less="water_outside", on_threshold=1.0, off_threshold=0.5
    )
    plan = _rule(
        plan, "extractor", "demand", "thresholds of an ordinary bathroom", want="on",
        condition=Every(of=(damp, drier)),
    )  # fmt: skip
    above = ValueIs(probe=rh, side="above", value=75.0)
    return _never(plan, "mould", above, longer_than_s=2 * HOUR_S)


def _hot(plan: Plan) -> Plan:
    plan = _place(plan, "Cupboard")
    plan = _probe(plan, "Cupboard air", "cupboard", "air_temperature", "thermistor")
    plan = _load(
        plan, "Cupboard fan", "cupboard", "relay", power_w=15.0, load_class="air", nature="motor",
        min_on_s=60.0,
    )  # fmt: skip
    hot = Beyond(kind="above", probe="cupboard_air", value=38.0, hysteresis=4.0)
    note = "below what electronics bear for long"
    plan = _rule(plan, "cupboard_fan", "demand", note, want="on", condition=hot)
    plan = _rule(
        plan, "cupboard_fan", "fault", "without a valid reading it should run", want="on",
        probe="cupboard_air", after_s=60.0,
    )  # fmt: skip
    above = ValueIs(probe="cupboard_air", side="above", value=50.0)
    return _never(plan, "batteries and boards", above, longer_than_s=600.0)


def _left_on(plan: Plan) -> Plan:
    plan = _place(plan, "Workroom")
    plan = _load(
        plan, "Bench outlet", "workroom", "outlet", power_w=1000.0, max_on_s=2 * HOUR_S,
        max_on_rest_s=0.0, power_return=PowerReturn(policy="off"),
        override=OverrideEnd(for_s=2 * HOUR_S),
    )  # fmt: skip
    rule = AtMost(load="bench_outlet", at_most_s=2.5 * HOUR_S, window_s=3 * HOUR_S)
    never = Invariant(id="never_1", rule=rule, why="an iron that was forgotten")
    plan = plan.model_copy(update={"invariants": (never,)})
    button = Control(
        id="bench_button", name="Bench button", place="workroom", kind="push_button",
        load="bench_outlet",
    )  # fmt: skip
    plan = put_part(plan, "control", button)
    night = Schedule(id="night", name="Night", windows=(Window(start="23:00", end="06:00"),))
    plan = plan.model_copy(update={"schedules": (night,)})
    return _rule(
        plan, "bench_outlet", "interlock", "nobody works at that time", want="off",
        condition=InWindow(schedule="night"),
    )  # fmt: skip


def _leak(plan: Plan) -> Plan:
    plan = _probe(_place(plan, "Kitchen"), "Floor tape", "kitchen", "leak", "leak_tape")
    plan = _load(plan, "Water valve", "kitchen", "valve", power_w=12.0)
    plan = with_starting_point(plan, "water_valve", "leak")
    wet = ValueIs(probe="floor_tape", side="below", value=20.0)
    return _never(plan, "a flood", wet, LoadIs(load="water_valve"), longer_than_s=60.0)


def _stair(plan: Plan) -> Plan:
    plan = _place(plan, "Stair", "stair")
    plan = _probe(plan, "Stair motion", "stair", "presence", "motion")
    plan = _probe(plan, "Stair light", "stair", "illuminance", "light_resistor")
    plan = _load(plan, "Stair lamp", "stair", "relay", power_w=20.0, load_class="light")
    plan = with_starting_point(plan, "stair_lamp", "stair")
    rule = AtMost(load="stair_lamp", at_most_s=6 * HOUR_S, window_s=24 * HOUR_S)
    never = Invariant(id="never_1", rule=rule, why="a lamp that never goes out")
    return plan.model_copy(update={"invariants": (*plan.invariants, never)})


def _door(plan: Plan) -> Plan:
    plan = _place(plan, "Hall")
    plan = _probe(plan, "Front door", "hall", "position", "contact")
    plan = _load(plan, "Door chime", "hall", "sounder")
    open_long = Lasting(of=Contact(probe="front_door", closed=False), on_s=600.0)
    note = "ten minutes: somebody carries things in"
    plan = _rule(plan, "door_chime", "demand", note, want="on", condition=open_long)
    silent = ProbeIs(probe="front_door", quality="not_good")
    return _never(plan, "a door that nobody sees", silent, longer_than_s=24 * HOUR_S)


def _kettle(plan: Plan) -> Plan:
    plan = _place(plan, "Kitchen")
    plan = _load(plan, "Kettle", "kitchen", "outlet", power_w=1800.0)
    plan = with_starting_point(plan, "kettle", "minute")
    rule = AtMost(load="kettle", at_most_s=1800.0, window_s=HOUR_S)
    never = Invariant(id="never_1", rule=rule, why="it must not boil dry")
    return plan.model_copy(update={"invariants": (*plan.invariants, never)})


STARTING_PROBLEMS: tuple[StartingProblem, ...] = (
    StartingProblem(key="damp", name="Damp room",
        sensed="humidity, in and out", switched="extractor",
        build=_damp, gives=(
        ("Places", "a room and the outside"),
        ("Probes", "humidity and temperature, one part in each"),
        ("Load", "an extractor on one relay"),
        ("Demand", "on at 65, off at 60 %RH, while the outside is drier by 1 g/m³"),
        ("Sensor fault", "off after 30 s without a valid reading"),
        ("Must never", "above 75 %RH for longer than 2 h"),
    )),
    StartingProblem(key="hot", name="Hot cupboard",
        sensed="air temperature", switched="fan",
        build=_hot, gives=(
        ("Places", "a cupboard"),
        ("Probe", "its air, a thermistor"),
        ("Load", "a fan on one relay"),
        ("Demand", "on at 38 °C, off at 34"),
        ("Sensor fault", "on after 60 s without a valid reading"),
        ("Must never", "above 50 °C for longer than 10 min"),
    )),
    StartingProblem(key="left_on", name="Something left on",
        sensed="a button press", switched="outlet",
        build=_left_on, gives=(
        ("Places", "a workroom"),
        ("Load", "an outlet on one relay, and a button"),
        ("Override", "on for 2 h, then off"),
        ("Interlock", "off at night, whatever requests it"),
        ("Must never", "on for more than 2 h 30 in any 3 h"),
    )),
    StartingProblem(key="leak", name="A leak",
        sensed="water on the floor", switched="inlet valve",
        build=_leak, gives=(
        ("Places", "a kitchen"),
        ("Probe", "a tape on the floor"),
        ("Load", "a valve that shuts without supply"),
        ("Trip", "shut by a wet tape, latched: a person must reset it"),
        ("Must never", "open for longer than a minute while the tape is wet"),
    )),
    StartingProblem(key="stair", name="Stair light",
        sensed="people, daylight", switched="lamp",
        build=_stair, gives=(
        ("Places", "a stair"),
        ("Probes", "motion and light"),
        ("Load", "a lamp on one relay"),
        ("Demand", "two minutes while somebody is there in the dark"),
        ("Must never", "on for more than 6 h a day"),
    )),
    StartingProblem(key="door", name="Door left open",
        sensed="a door contact", switched="sounder",
        build=_door, gives=(
        ("Places", "a hall"),
        ("Probe", "a contact on the door"),
        ("Load", "a sounder"),
        ("Demand", "sounds when it was open for 10 min"),
        ("Must never", "the contact without a reading for a day"),
    )),
    StartingProblem(key="kettle", name="Kettle at a minute",
        sensed="time of day", switched="outlet",
        build=_kettle, gives=(
        ("Places", "a kitchen"),
        ("Load", "an outlet on one relay"),
        ("Schedule", "at 07:00 for 10 min, each time occurs exactly once"),
        ("Must never", "on for more than 30 min in any hour"),
    )),
)  # fmt: skip


def starting_problem(key: str) -> StartingProblem | None:
    """The problem of a key; None where there is none such."""
    return next((row for row in STARTING_PROBLEMS if row.key == key), None)
