"""A fix fixes: each that is offered takes its finding away and makes no other."""

import random
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.houses import built

from aldea.core.devices.loads.models import LOAD_FACTS, LoadType
from aldea.core.devices.sensors.analog.model import AnalogSensor
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.echo.model import EchoSensor
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.devices.sensors.serial.model import SerialSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.board_types import board_types
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import Control
from aldea.core.plan.defaults import new_load
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment, RelayOutput, Supply, TransistorSwitch
from aldea.core.plan.seats import pin_of
from aldea.core.wiring.board_terminals import board_terminals
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings, offered
from aldea.core.wiring.signals import signals
from aldea.core.wiring.starting import levels_at_start

SENSORS: tuple[Sensor, ...] = (
    Thermistor(),
    LeakTape(end_of_line_ohm=None),
    ContactSensor(),
    ContactSensor(pull="resistor"),
    MotionSensor(output_v=5.0),
    SerialSensor(),
    EchoSensor(),
    AnalogSensor(highest_v=10.0),
    BusSensor(address=0x40),
    BusSensor(address=0x40, supply_v=5.0),
)
KINDS: tuple[LoadType, ...] = ("relay", "two_way", "valve", "stepped", "pulse_drive", "indicator")

RUNS: tuple[dict[str, object], ...] = (
    {},
    {},
    {"volts": 24.0, "runs_on": "dc", "supply": "s"},
    {"volts": 12.0, "runs_on": "dc", "supply": "s"},
    {"volts": 24.0, "runs_on": "dc"},
)


@st.composite
def panels(draw: st.DrawFn) -> Plan:
    """A panel as somebody in a hurry leaves it: pins where they cannot be, relays missing."""
    boards = draw(
        st.lists(st.sampled_from(("wifi_38", "terminal_24v", "small_5v")), min_size=1, max_size=2)
    )
    plan = built(draw(st.lists(st.sampled_from(SENSORS), max_size=5)), 0, boards)
    kinds = draw(st.lists(st.sampled_from(KINDS), max_size=4))
    loads = tuple(
        new_load(
            load_id=f"l{i}",
            name=f"Load {'abcdef'[i]}{i}",
            place="room",
            kind=kind,
        ).model_copy(
            update={
                **(draw(st.sampled_from(RUNS)) if LOAD_FACTS[kind].low_voltage_too else {}),
                "load_class": draw(st.sampled_from(("air", "heat", "water"))),
                "power_w": draw(st.sampled_from((10.0, 300.0, 3000.0))),
                "nature": draw(st.sampled_from(("resistive", "motor", "lamp"))),
            }
        )
        for i, kind in enumerate(kinds)
    )
    relays = tuple(
        RelayOutput(
            id=f"k{i}",
            load=load.id,
            active=draw(st.sampled_from(("high", "low"))),
            contact=draw(st.sampled_from(("no", "nc"))),
            driver=draw(st.sampled_from(("module", "transistor", "board"))),
            coil_v=draw(st.sampled_from((5.0, 24.0))),
            contactor=draw(st.booleans()),
            transistor=draw(st.sampled_from((None, None, TransistorSwitch()))),
        )
        for i, load in enumerate(loads)
        if load.kind in ("relay", "two_way", "pulse_drive", "valve") and draw(st.booleans())
    )
    rating_ma = draw(st.sampled_from((100.0, 60_000.0)))
    supplies: tuple[Supply, ...] = (
        Supply(id="s", name="Supply", place="room", volts=24.0, rating_ma=rating_ma),
    )
    if not any(load.supply for load in loads) and draw(st.booleans()):
        supplies = ()
    controls = tuple(
        Control(id=f"c{i}", name=f"Button {i}", place="room", kind="push_button")
        for i in range(draw(st.integers(0, 2)))
    )
    plan = plan.model_copy(
        update={
            "loads": (*plan.loads, *loads),
            "relays": relays,
            "supplies": supplies,
            "controls": controls,
        }
    )
    return plan.model_copy(update={"assignments": tuple(_by_hand(plan, draw(st.integers(0, 99))))})


def _by_hand(plan: Plan, seed: int) -> Iterator[Assignment]:
    chance = random.Random(seed)
    types = board_types(plan)
    for signal in signals(plan):
        if chance.random() < 0.8:
            board = chance.choice(plan.boards)
            pin = chance.choice(types[board.board_type].pins)
            yield Assignment(signal=signal.id, board=board.id, pin=pin.name, by="hand")


@settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(plan=panels())
def test_every_offered_fix_takes_its_finding_away_and_makes_no_other(plan):
    before = {finding.key for finding in findings(plan)}
    for finding in offered(plan):
        if finding.apply is None:
            assert finding.press == ""
            continue
        after = finding.apply(plan)
        check_plan(after)
        left = {other.key: other.head for other in findings(after)}
        assert finding.key not in left
        brought = [head for key, head in left.items() if key not in before]
        if finding.weight == "open":  # often the one way: what comes with it is said
            assert not brought or brought[0] in finding.fix
        else:
            assert not brought


@settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(plan=panels())
def test_every_conductor_ends_on_what_is_there_and_every_load_on_its_volts(plan):
    """On a board only its own terminals; a load's volts come from what gives them."""
    boards = {b.name: board_terminals(board_types(plan)[b.board_type]) for b in plan.boards}
    supplies = {s.name: s for s in plan.supplies}
    things = {part.name for part in (*plan.probes, *plan.loads, *plan.controls)}
    things |= {relay.id.upper() for relay in plan.relays} | set(supplies) | set(boards)
    loads = {f"load:{load.id}": load for load in plan.loads}
    for wire in conductors(plan):
        for end in (wire.start, wire.end):
            name, terminal = end.rsplit(":", 1)
            assert terminal
            if name in boards:
                assert terminal in boards[name], end
            elif wire.net == "ELV":
                assert name in things, end
        load = loads.get(wire.owner)
        if load is None:
            continue
        fed = supplies.get(wire.start.rsplit(":", 1)[0])
        if wire.net == "mains":
            assert load.on_mains
            assert fed is None
        elif fed is not None:
            assert not load.on_mains
            assert fed.id == load.supply


def test_a_fix_that_would_do_harm_is_in_words_only():
    """Two relays on one pin of a board that has no other output left: nothing to press."""
    plan = built([], 15, ["terminal_24v"])
    outs = [p.name for p in board_types(plan)["terminal_24v"].pins if p.name.startswith("DO")]
    rows = tuple(
        Assignment(signal=f"relay:k{i}.coil", board="b0", pin=outs[min(i, 13)], by="hand")
        for i in range(15)
    )
    found = {f.key: f for f in offered(plan.model_copy(update={"assignments": rows}))}
    twice = found["twice-b0-DO14"]
    assert (twice.apply, twice.press) == (None, "")
    assert twice.fix


@pytest.mark.parametrize(
    ("pin", "active", "driver", "upset"),
    [
        ("IO12", "high", "module", False),
        ("IO12", "low", "module", True),
        ("IO15", "high", "module", True),
        ("IO15", "low", "module", False),
        ("IO15", "high", "transistor", True),
        ("IO12", "high", "transistor", False),
        ("IO33", "low", "module", False),
    ],
)
def test_what_idles_where_a_boot_pin_needs_it_is_fine(pin, active, driver, upset):
    """IO12 must be low at the start, IO15 high; a module idles where its input is pulled."""
    row = Assignment(signal="relay:k0.coil", board="b0", pin=pin, by="hand")
    plan = built([], 1, ["wifi_38"], assignments=(row,))
    relay = plan.relays[0].model_copy(update={"active": active, "driver": driver})
    plan = plan.model_copy(update={"relays": (relay,)})
    told = [f for f in findings(plan) if f.key == "boot-relay:k0.coil"]
    assert bool(told) == upset
    signal = next(s for s in signals(plan) if s.id == "relay:k0.coil")
    seat = pin_of(plan, signal.id)
    assert seat is not None
    assert bool(levels_at_start(plan, signal, seat) - {seat.boot_needs}) == (upset or pin == "IO33")


@pytest.mark.parametrize(
    ("pin", "pull", "upset"),
    [("IO12", "board", False), ("IO12", "resistor", True), ("IO15", "board", True)],
)
def test_a_contact_to_zero_volts_is_harmless_on_a_pin_that_must_be_low(pin, pull, upset):
    """Open, the pin's own pull-down decides; with a resistor to plus beside it, that does."""
    row = Assignment(signal="probe:p0.contact", board="b0", pin=pin, by="hand")
    plan = built([ContactSensor(pull=pull)], 0, ["wifi_38"], assignments=(row,))
    assert bool([f for f in findings(plan) if f.key.startswith("boot-")]) == upset


def test_no_resistor_is_offered_on_a_pin_that_is_driven_or_must_be_otherwise():
    """IO5 is driven high before the start, IO12 must be low: a module active low holds it high."""
    for pin, active, driver in (("IO5", "high", "transistor"), ("IO12", "low", "module")):
        row = Assignment(signal="relay:k0.coil", board="b0", pin=pin, by="hand")
        plan = built([], 1, ["wifi_38"], assignments=(row,))
        relay = plan.relays[0].model_copy(update={"active": active, "driver": driver})
        plan = plan.model_copy(update={"relays": (relay,)})
        for finding in offered(plan):
            assert "kΩ" not in finding.press, finding.head
            if finding.apply is not None and finding.key.startswith(("twitch", "boot")):
                moved = finding.apply(plan)
                assert moved.assignments[0].pin != pin
