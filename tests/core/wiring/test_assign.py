"""Pins for everything at once: what holds of every answer, and what is said when there is none."""

from collections import Counter
from functools import partial

import pytest
from benchmarks.large_house import large_house
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.houses import built

from aldea.core.base.errors import InputError
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.echo.model import EchoSensor
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.core.devices.sensors.serial.model import SerialSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.board_types import board_types, generic_types
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment, Board
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.candidates import slots, usable
from aldea.core.wiring.findings import could_not_avoid, findings
from aldea.core.wiring.pin_count import refuse_too_few_pins
from aldea.core.wiring.signals import signals

SENSORS = (
    Thermistor(),
    LeakTape(),
    ContactSensor(),
    MotionSensor(),
    SerialSensor(),
    EchoSensor(),
    OneWireSensor(),
    BusSensor(address=0x40),
    BusSensor(address=0x41),
    BusSensor(address=0x40),
)


def check_answer(plan: Plan) -> None:
    """What holds of every full answer."""
    check_plan(plan)
    types, known = board_types(plan), {s.id: s for s in signals(plan)}
    assert {row.signal for row in plan.assignments} == set(known)
    on: dict[tuple[str, str], set[str]] = {}
    roots: dict[str, set[str]] = {}
    for row in plan.assignments:
        board, signal = plan.board(row.board), known[row.signal]
        assert board is not None
        pin = types[board.board_type].pin(row.pin)
        assert pin is not None
        if row.by == "solver":
            assert usable(board, types[board.board_type], pin, signal) == ""
            assert row.reason
        on.setdefault((row.board, row.pin), set()).add(signal.share or signal.id)
        roots.setdefault(signal.group, set()).add(board.host or board.id)
    assert all(len(users) == 1 for users in on.values()), "one pin, one signal or one bus"
    assert all(len(at) == 1 for at in roots.values()), "the lines of one thing end on one board"
    buses = Counter(
        (key[0], share) for key, users in on.items() for share in users if ":" not in share
    )
    assert all(count == 1 for count in buses.values()), "one bus a board"


@settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
@given(
    picks=st.lists(st.sampled_from(SENSORS), max_size=9),
    relays=st.integers(0, 6),
    boards=st.lists(
        st.sampled_from(("wifi_38", "terminal_24v", "small_5v")), min_size=1, max_size=3
    ),
)
def test_every_answer_is_right_or_the_quarrel_is_smallest(picks, relays, boards):
    plan = built(picks, relays, boards)
    done = assign_pins(plan)
    if not done.conflict:
        check_answer(plan.model_copy(update={"assignments": done.assignments}))
        return
    keys = {wish.key for wish in done.conflict}
    assert _possible(plan, keys) is False, "the wishes that are named cannot hold together"
    for key in keys:
        assert _possible(plan, keys - {key}), "without any one of them the others can"


def _possible(plan: Plan, keys: set[str]) -> bool:
    probes = tuple(p for p in plan.probes if f"probe:{p.id}" in keys or p.sensor is None)
    relays = tuple(r for r in plan.relays if f"load:{r.load}" in keys)
    return not assign_pins(plan.model_copy(update={"probes": probes, "relays": relays})).conflict


def test_seven_analog_probes_do_not_fit_beside_a_radio():
    """Six pins of the module read analog while the radio is on; the quarrel names all seven."""
    done = assign_pins(built([Thermistor()] * 7, 0, ["wifi_38"]))
    assert len(done.conflict) == 7
    assert all("analog in" in wish.words for wish in done.conflict)
    assert not assign_pins(built([Thermistor()] * 6, 0, ["wifi_38"])).conflict


def test_with_the_radio_off_they_do():
    plan = built([Thermistor()] * 7, 0, ["wifi_38"])
    quiet = plan.boards[0].model_copy(update={"radio_on": False})
    assert not assign_pins(plan.model_copy(update={"boards": (quiet,)})).conflict


def test_two_devices_of_one_address_go_to_two_boards_or_quarrel():
    pair = [BusSensor(address=0x44), BusSensor(address=0x44)]
    done = assign_pins(built(pair, 0, ["wifi_38"]))
    assert {w.key for w in done.conflict} == {"probe:p0", "probe:p1"}
    plan = built(pair, 0, ["wifi_38", "wifi_38"])
    rows = assign_pins(plan).assignments
    assert {row.board for row in rows} == {"b0", "b1"}


def test_what_a_hand_chose_stays_and_can_be_part_of_a_quarrel():
    hand = (
        Assignment(signal="probe:p0.sense", board="b0", pin="IO33", by="hand"),
        Assignment(signal="relay:k0.coil", board="b0", pin="IO32", by="hand"),
    )
    plan = built([Thermistor()] * 5, 1, ["wifi_38"], assignments=hand)
    done = assign_pins(plan)
    assert all(row in done.assignments for row in hand)
    full = built([Thermistor()] * 6, 1, ["wifi_38"], assignments=hand)
    words = [wish.words for wish in assign_pins(full).conflict]
    assert sum("as chosen by hand" in w for w in words) == 1
    assert any("stays on b0, IO32" in w for w in words), "the relay sits on an analog pin"
    assert len(words) == 7


def test_an_output_that_twitches_or_decides_the_boot_is_taken_last():
    plan = built([], 8, ["wifi_38"])
    used = {row.pin for row in assign_pins(plan).assignments}
    kind = generic_types()["wifi_38"]
    pins = [kind.pin(name) for name in used]
    assert all(p is not None and not p.decides_boot and p.at_boot == "floating" for p in pins)


def test_inputs_leave_outputs_free():
    plan = built([Thermistor()] * 4, 0, ["wifi_38"])
    assert {row.pin for row in assign_pins(plan).assignments} == {"IO34", "IO35", "IO36", "IO39"}


def test_pins_stay_when_something_is_added():
    plan = built([Thermistor(), ContactSensor()], 3, ["wifi_38"])
    before = {r.signal: r.pin for r in assign_pins(plan).assignments}
    kept = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    again = {r.signal: r.pin for r in assign_pins(kept).assignments}
    assert again == before


def test_a_multiplexer_gives_channels_and_takes_address_lines():
    plan = built([Thermistor()] * 9, 0, ["wifi_38"])
    mux = Board(id="mux", name="Mux", place="room", board_type="mux_8", host="b0")
    plan = plan.model_copy(update={"boards": (*plan.boards, mux)})
    done = assign_pins(plan)
    assert not done.conflict
    check_answer(plan.model_copy(update={"assignments": done.assignments}))
    lines = {row.signal for row in done.assignments if row.signal.startswith("board:mux")}
    assert lines == {f"board:mux.{line}" for line in ("common", "s0", "s1", "s2")}


def test_an_expander_is_a_device_on_its_hosts_bus():
    plan = built([ContactSensor()] * 3, 0, ["low_power"])
    more = Board(
        id="more", name="More", place="room", board_type="expander_16", host="b0", address=0x20
    )
    plan = plan.model_copy(
        update={
            "boards": (*plan.boards, more),
            "controls": tuple(
                Control(id=f"c{i}", name=f"C{i}", place="room", kind="push_button")
                for i in range(16)
            ),
        }
    )
    done = assign_pins(plan)
    assert not done.conflict
    check_answer(plan.model_copy(update={"assignments": done.assignments}))
    assert {"board:more.data", "board:more.clock"} <= {row.signal for row in done.assignments}


def test_a_large_house_has_pins_for_all():
    plan = large_house()
    assert len(signals(plan)) > 300
    done = assign_pins(plan)
    assert not done.conflict
    check_answer(plan.model_copy(update={"assignments": done.assignments}))


@pytest.mark.parametrize("pin", ["IO15", "IO0", "TX0", "IO25", "IO34"])
def test_a_hand_that_chose_badly_is_told_and_the_fix_fixes(pin):
    signal = "relay:k0.coil" if pin == "IO34" else "probe:p0.contact"
    sensors: list[Sensor] = [ContactSensor()]
    if pin == "IO25":
        sensors, signal = [Thermistor()], "probe:p0.sense"
    row = Assignment(signal=signal, board="b0", pin=pin, by="hand")
    plan = built(sensors, 1, ["wifi_38"], assignments=(row,))
    told = [f for f in findings(plan) if ("b0", pin) in f.pins]
    assert told
    assert told[0].apply is not None
    fixed = told[0].apply(plan)
    assert not [f for f in findings(fixed) if f.key == told[0].key]
    assert next(a for a in fixed.assignments if a.signal == signal).pin != pin


def test_more_than_the_solver_is_asked_are_dealt_to_the_nearest_clean_pins():
    """Eight hundred contacts on forty boards: all have a pin of their own, none a bad one."""
    plan = built([ContactSensor()] * 800, 0, ["wifi_38"] * 42)
    done = assign_pins(plan)
    assert not done.conflict
    plan = plan.model_copy(update={"assignments": done.assignments})
    check_answer(plan)
    assert not [f for f in findings(plan) if f.weight == "severe"]
    assert not [row for row in plan.assignments if row.pin in ("RX0", "TX0", "IO15", "IO0")]


def dealt(contacts: int) -> Plan:
    """One board with a number of contacts, every line on its pin, or none where that cannot be."""
    plan = built([ContactSensor()] * contacts, 0, ["wifi_38"])
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def test_what_dealing_could_not_avoid_is_told_and_nothing_that_a_hand_did():
    crowded = next(plan for count in range(30, 0, -1) if (plan := dealt(count)).assignments)
    told = could_not_avoid(crowded)
    assert told, "with every pin in use some decide how the board starts"
    assert could_not_avoid(dealt(3)) == ()
    by_hand = tuple(row.model_copy(update={"by": "hand"}) for row in crowded.assignments)
    assert could_not_avoid(crowded.model_copy(update={"assignments": by_hand})) == ()


@settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
@given(
    picks=st.lists(st.sampled_from(SENSORS[:6]), min_size=5, max_size=14),
    relays=st.integers(0, 12),
    board=st.sampled_from(("wifi_38", "terminal_24v", "small_5v")),
)
def test_what_counting_refuses_no_dealing_can_do(picks, relays, board):
    plan = built(picks, relays, [board])
    try:
        refuse_too_few_pins(plan, signals(plan), slots(plan, {}), few=0)
    except InputError:
        assert assign_pins(plan).conflict


def test_far_too_few_pins_are_refused_by_two_counts():
    """Sixty thermistors; a board reads six beside its radio: fifty-four more pins are wanted."""
    with pytest.raises(InputError, match=r"60 lines .* analog in; 6 free pins can.* 54 more"):
        assign_pins(built([Thermistor()] * 60, 0, ["wifi_38"]))


class _StopError(Exception):
    pass


@pytest.mark.parametrize(
    ("make", "doing"),
    [
        (partial(built, [ContactSensor()] * 800, 0, ["wifi_38"] * 42), "cleanest pins"),
        (large_house, "each line could sit"),
        (large_house, "possible seats"),
        (partial(built, [Thermistor()] * 9, 6, ["wifi_38"]), "Narrowing down"),
    ],
)
def test_who_listens_can_end_the_work_in_every_stage(make, doing):
    """And no share that is told leaves 0 to 1."""
    plan = make()

    def told(words: str, share: float) -> None:
        assert 0.0 <= share <= 1.0
        if doing in words:
            raise _StopError

    with pytest.raises(_StopError):
        assign_pins(plan, tell=told)
