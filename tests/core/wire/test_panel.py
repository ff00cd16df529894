"""Conductors, circuits, findings: the demo house whole, each check by a plan that breaks it."""

import re
from collections.abc import Callable
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.wire.continuity import circuit, crossings, is_live
from tests.core.wire.test_assign import built

from aldea.core.engine.lines import compile_lines, states_of
from aldea.core.errors import InputError, PlanError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import (
    as_copy,
    fresh_id,
    move_part,
    put_part,
    remove_part,
    roles_wanted,
    with_relays,
)
from aldea.core.plan.check import check_plan
from aldea.core.plan.codec import plan_text, read_plan
from aldea.core.plan.document import House, Plan
from aldea.core.plan.kinds import LOAD_KINDS, empty_house, new_load, place_figures
from aldea.core.plan.loads import FanStep, TwoWay
from aldea.core.plan.sensors import AnalogSensor, BusSensor, ContactSensor, LeakTape, Thermistor
from aldea.core.plan.wiring import Board, Control, RelayLine, RemoteCode, SelectorPosition, Supply
from aldea.core.sensing.divider import Divider
from aldea.core.wire.assign import assign_pins
from aldea.core.wire.budget import supply_budget
from aldea.core.wire.circuit import driver_of
from aldea.core.wire.circuits import circuits
from aldea.core.wire.conductors import conductors, ohms
from aldea.core.wire.contacts import load_current_a
from aldea.core.wire.findings import findings, severe
from aldea.core.wire.leak import leak_states
from aldea.core.wire.mains import terminals
from aldea.core.wire.names import alike_names
from aldea.core.wire.parts import part_lines, total_price
from aldea.core.wire.receiver import Heard, presses, stand_in, stand_in_pattern
from aldea.core.wire.series import below_ohm, nearest_ohm, series_ohm
from aldea.core.wire.signals import signals
from aldea.core.words.invariants import invariant_sentence, suggestions
from aldea.demo.mill import mill_plan


def mended(plan: Plan) -> Plan:
    """Press every mend until none is left to press."""
    for _ in range(60):
        found = next((f for f in findings(plan) if f.apply is not None), None)
        if found is None:
            return plan
        assert found.press
        assert found.apply is not None
        after = found.apply(plan)
        check_plan(after)
        assert found.key not in {f.key for f in findings(after)}, found.head
        plan = after
    raise AssertionError("mends that never end")


def wired_up(plan: Plan) -> Plan:
    for load in plan.loads:
        plan = with_relays(plan, load.id)
    done = assign_pins(plan)
    assert not done.conflict
    return plan.model_copy(update={"assignments": done.assignments})


def of_kind(kind: str, power_w: float = 100.0, **relay: object) -> Plan:
    """One load of a kind, wired to a terminal board, everything mended that can be."""
    plan = built([], 0, ["terminal_24v"])
    load = new_load(load_id="thing", name="Thing", place="room", kind=kind)  # type: ignore[arg-type]
    load = load.model_copy(update={"feed": "F1", "power_w": power_w})
    supply = Supply(id="s", name="Supply", place="room", volts=24.0)
    plan = plan.model_copy(update={"loads": (load,), "claims": (), "supplies": (supply,)})
    plan = wired_up(plan)
    for made in plan.relays:
        plan = put_part(plan, "relay", made.model_copy(update=relay))
    return mended(plan)


def with_one_contactor(kind: str, place: int) -> Plan:
    """A load of a kind of which one relay alone switches a contactor."""
    plan = of_kind(kind)
    relay = plan.relays[place].model_copy(update={"contactor": True})
    return put_part(plan, "relay", relay)


def two_in_series(*contactors: bool) -> Plan:
    plan = of_kind("valve")
    valve = plan.loads[0].valve
    assert valve is not None
    series = valve.model_copy(update={"in_series": 2})
    plan = mended(put_part(plan, "load", plan.loads[0].model_copy(update={"valve": series})))
    for relay, contactor in zip(plan.relays, contactors, strict=True):
        plan = put_part(plan, "relay", relay.model_copy(update={"contactor": contactor}))
    return plan


def test_the_demo_house_is_wired_and_wrong_in_two_places():
    plan = mill_plan()
    check_plan(plan)
    assert {row.signal for row in plan.assignments} == {s.id for s in signals(plan)}
    assert [f.key for f in findings(plan)] == ["twitch-k11", "far-end-drain_tape"]
    whole = mended(plan)
    assert findings(whole) == ()
    assert read_plan(plan_text(whole)) == whole


@pytest.mark.parametrize(
    "plan",
    [
        mill_plan(),
        *(of_kind(kind) for kind in LOAD_KINDS),
        *(of_kind(kind, 3000.0) for kind in LOAD_KINDS),
        *(of_kind(kind, contact="nc") for kind in ("relay", "two_way")),
        *(with_one_contactor("stepped", place) for place in range(3)),
        *(two_in_series(a, b) for a in (False, True) for b in (False, True)),
    ],
)
def test_no_conductor_is_missing_and_mains_meets_no_low_voltage(plan):
    """Every signal is carried once, numbers are unique, each load is live when it should be."""
    wires = conductors(plan)
    carried = [w.signal for w in wires if w.signal]
    assert sorted(carried) == sorted({row.signal for row in plan.assignments})
    numbers = [w.number for w in wires]
    assert len(set(numbers)) == len(numbers)
    assert crossings(plan) == []
    lines = compile_lines(plan)
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        if not relays or load.kind == "pulse_drive":
            continue
        for index, state in enumerate(states_of(load)):
            conducts = {r.id: r.role in state for r in relays}
            live = is_live(circuit(plan, wires, conducts), load)
            assert live == (index > 0), f"{load.name}, state {index}"
        for relay in relays:
            others = {r.id: False for r in plan.relays} | {relay.id: True}
            if load.kind == "valve" and len(relays) > 1:
                assert not is_live(circuit(plan, wires, others), load), "both contacts in series"
        ends = {w.end for w in wires}
        assert {f"{load.name}:N", f"{load.name}:PE"} <= ends
        mine = [w for w in wires if w.owner == f"load:{load.id}" and w.feed == "mains"]
        idle = [w for w in mine if not w.current_a]
        assert {w.end for w in mine if w.end.endswith((":PE", ":A1", ":A2"))} <= {
            w.end for w in idle
        }, "no load current flows in earth or in a contactor's coil"
        assert sum(w.end == f"{load.name}:N" for w in mine if w.current_a) == bool(load.power_w)
    labels = [t.label for t in terminals(plan)]
    assert len(labels) == len(set(labels))
    for relay in plan.relays:
        name = relay.id.upper()
        assert any(w.end.startswith(f"{name}:") for w in wires), name
    assert len(lines.relays) == len(plan.relays)


def test_a_drives_contact_is_volt_free_and_parallel_to_its_button():
    plan = of_kind("pulse_drive")
    ends = {(w.start, w.end): w.feed for w in conductors(plan) if "button" in w.end}
    assert ends == {("K1:11", "Thing:button 1"): "ELV", ("K1:14", "Thing:button 2"): "ELV"}


@pytest.mark.parametrize("kind", LOAD_KINDS)
def test_a_mend_that_is_pressed_changes_the_wiring_and_not_only_the_warning(kind):
    """A load too strong for its contact: the contactor is wired, or the warning stays."""
    plan = of_kind(kind, 3000.0)
    weak = [f for f in findings(plan) if f.key.startswith("contact-")]
    for relay in plan.relays:
        coil = [w for w in conductors(plan) if w.end == f"KM {relay.id.upper()}:A1"]
        assert len(coil) == relay.contactor
    if kind == "two_way":
        assert [(f.weight, f.press) for f in weak] == [("severe", "")]
        assert "131 A" in weak[0].mend, "3000 W / 230 V over a tenth for lamps"
    else:
        assert weak == []


@pytest.mark.parametrize("kind", ["two_way", "pulse_drive"])
def test_a_contactor_where_none_can_be_is_said_and_drawn_nowhere(kind):
    plan = with_one_contactor(kind, 0)
    found = {f.key: f for f in findings(plan)}["contactor-k1"]
    assert found.weight == "severe"
    assert not [w for w in conductors(plan) if "KM" in w.start + w.end]
    assert not [line for line in part_lines(plan) if "contactor" in line.part]
    assert found.apply is not None
    assert not found.apply(plan).relays[0].contactor


def test_a_contactor_whose_coil_is_not_wired_leaves_its_load_dead():
    """The walk itself can fail: without any one conductor of its path the load is dead."""
    plan = two_in_series(True, True)
    wires = conductors(plan)
    load, on = plan.loads[0], {r.id: True for r in plan.relays}
    assert is_live(circuit(plan, wires, on), load)
    path = [w for w in wires if w.feed == "mains" and not w.number.startswith(("N", "PE"))]
    assert len(path) == 10
    for missing in path:
        rest = tuple(w for w in wires if w is not missing)
        assert not is_live(circuit(plan, rest, on), load), missing.number


def transistor(coil_ma: float) -> Plan:
    return changed("relay", "k1", driver="transistor", coil_ma=coil_ma)


@pytest.mark.parametrize("coil_ma", [0.0, 100_000.0])
def test_a_coil_that_no_transistor_carries_is_a_finding_and_no_crash(coil_ma):
    plan = transistor(coil_ma)
    facts = dict(next(c for c in circuits(plan) if c.owner == "relay:k1").facts)
    assert facts["Base resistor"] == "none carries this coil"
    assert "base-k1" in {f.key for f in severe(plan)}
    assert part_lines(plan)


def test_a_driver_is_held_against_its_own_pin_and_its_resistor_is_bought():
    """The pin's limit is the board's, not a usual one; the computed resistor is on the list."""
    plan = transistor(72.0)
    row = next(a for a in plan.assignments if a.signal == "relay:k1.coil")
    board = plan.board(row.board)
    assert board is not None
    kind = board_types(plan)[board.board_type]
    weak = tuple(
        pin.model_copy(update={"limit_ma": 1.0}) if pin.name == row.pin else pin
        for pin in kind.pins
    )
    own = kind.model_copy(update={"id": "own", "pins": weak})
    board = board.model_copy(update={"board_type": "own"})
    less = put_part(
        plan.model_copy(update={"board_types": (*plan.board_types, own)}), "board", board
    )
    assert "base-k1" not in {f.key for f in findings(plan)}
    assert "base-k1" in {f.key for f in severe(less)}
    assert (
        "more than it gives"
        in dict(next(c for c in circuits(less) if c.owner == "relay:k1").facts)["From the pin"]
    )
    base = driver_of(plan, plan.relays[0])
    assert base is not None
    part = f"resistor {ohms(base.chosen_ohm)}"
    before = {line.part: line.needed for line in part_lines(mended(mill_plan()))}
    after = {line.part: line.needed for line in part_lines(plan)}
    assert after[part] == before.get(part, 0) + 1


def test_every_pull_up_that_the_schedule_names_is_on_the_parts_list():
    plan = mill_plan()
    lines = {(row.board, row.pin) for row in plan.assignments if row.signal in
             {s.id for s in signals(plan) if s.share}}  # fmt: skip
    noted = [w for w in conductors(plan) if "4.7 kΩ pull-up" in w.note]
    assert noted
    assert {line.part: line.needed for line in part_lines(plan)}["resistor 4.7 kΩ"] == len(
        lines
    ) + sum(r.pull_ohm == 4700.0 for r in plan.relays)


def changed(kind: str, part_id: str, **update: object) -> Plan:
    plan = mended(mill_plan())
    key = {"relay": "relays", "load": "loads", "probe": "probes", "supply": "supplies",
           "control": "controls", "board": "boards"}[kind]  # fmt: skip
    part = next(p for p in getattr(plan, key) if p.id == part_id)
    return put_part(plan, kind, part.model_copy(update=update))


def test_a_device_joins_the_bus_that_is_there_and_nothing_else_moves():
    plan = put_part(
        mill_plan(),
        "board",
        Board(
            id="more", name="More", place="drying_room", board_type="expander_16",
            host="board_b", address=0x20,
        ),
    )  # fmt: skip
    missing = next(f for f in findings(plan) if f.key == "no-pin-board:more")
    assert missing.apply is not None
    done = missing.apply(plan)
    before = {a.signal: (a.board, a.pin) for a in plan.assignments}
    after = {a.signal: (a.board, a.pin) for a in done.assignments}
    assert {k: v for k, v in after.items() if k in before} == before
    assert {k: v for k, v in after.items() if k not in before} == {
        "board:more.data": ("board_b", "IO21"),
        "board:more.clock": ("board_b", "IO22"),
    }


def test_a_board_with_the_right_rail_is_taken_before_a_nearer_one():
    plan = wired_up(mill_plan().model_copy(update={"assignments": ()}))
    assert not [f for f in findings(plan) if f.key.startswith("rail-")]


def seated(signal: str, board: str, pin: str) -> Plan:
    """The demo house with one signal put on a pin by hand."""
    plan = mill_plan()
    return plan.model_copy(
        update={
            "assignments": tuple(
                row.model_copy(update={"board": board, "pin": pin, "by": "hand"})
                if row.signal == signal
                else row
                for row in plan.assignments
            )
        }
    )


def sensor(probe_id: str, **update: object) -> Plan:
    probe = mended(mill_plan()).probe(probe_id)
    assert probe is not None
    assert probe.sensor is not None
    return changed("probe", probe_id, sensor=probe.sensor.model_copy(update=update))


BROKEN: list[tuple[str, str, Callable[[], Plan]]] = [
    ("contact-k8", "severe", lambda: changed("relay", "k8", contactor=False, rated_a=10.0)),
    ("rest-k10", "severe", lambda: changed("relay", "k10", contact="nc")),
    ("coil-k5", "severe", lambda: changed("relay", "k5", coil_v=5.0)),
    ("drive-k1", "severe", lambda: changed("relay", "k1", driver="board", coil_ma=72.0)),
    ("supply-supply_24", "severe", lambda: changed("supply", "supply_24", rating_ma=200.0)),
    ("volts-board_a", "severe", lambda: changed("board", "board_a", supply="supply_5")),
    ("unfed-board_b", "open", lambda: changed("board", "board_b", supply=None)),
    ("far-end-plinth_tape", "severe", lambda: sensor("plinth_tape", end_of_line_ohm=None)),
    ("overlap-plinth_tape", "severe", lambda: sensor("plinth_tape", wet_ohm=400_000.0)),
    ("address-board_b-68", "severe", lambda: sensor("courtyard_rh", address=0x44)),
    ("reserved-probe:courtyard_rh.data", "severe", lambda: sensor("courtyard_rh", address=3)),
    ("sense-night_lights", "severe", lambda: changed("load", "night_lights", two_way=TwoWay())),
    (
        "drop-courtyard_temp",
        "warning",
        lambda: put_part(
            changed("probe", "courtyard_temp", cable_m=500.0),
            "probe",
            changed("probe", "courtyard_temp", cable_m=500.0)
            .probe("courtyard_temp")
            .model_copy(  # type: ignore[union-attr]
                update={
                    "sensor": mill_plan()
                    .probe("courtyard_temp")
                    .sensor.model_copy(  # type: ignore[union-attr]
                        update={"supply_ma": 50.0}
                    )
                }
            ),
        ),
    ),
    ("volts-probe:stair_radar.rx", "severe", lambda: sensor("stair_radar", output_v=5.0)),
    ("rail-cellar_rh", "severe", lambda: sensor("cellar_rh", supply_v=3.3)),
    ("split-probe:stair_radar", "severe", lambda: seated("probe:stair_radar.tx", "board_b", "TX0")),
    ("split-probe:cellar_rh", "severe", lambda: seated("probe:cellar_rh.clock", "board_b", "IO22")),
    ("hung-rack_inputs", "severe", lambda: changed("board", "rack_inputs", board_type="mux_8")),
    ("hung-rack_inputs", "severe", lambda: changed("board", "rack_inputs", host="board_a")),
    ("relays-dehumidifier", "open", lambda: remove_part(mended(mill_plan()), "relay", "k4")),
    (
        "never-booster_pump",
        "open",
        lambda: remove_part(mended(mill_plan()), "invariant", "pump_dry"),
    ),
    (
        "names-Dehumidifier-Dehumidifyer",
        "warning",
        lambda: changed("control", "mode_button", name="Dehumidifyer"),
    ),
    (
        "code-drying_remote-slower",
        "severe",
        lambda: changed(
            "control",
            "drying_remote",
            codes=(RemoteCode(name="faster", code="aa11"), RemoteCode(name="slower", code="aa11")),
        ),
    ),
    (
        "position-step_selector-2",
        "warning",
        lambda: changed(
            "control",
            "step_selector",
            positions=(
                SelectorPosition(name="1", pattern="010"),
                SelectorPosition(name="2", pattern="010"),
            ),
        ),
    ),
]


@pytest.mark.parametrize(("key", "weight", "broken"), BROKEN, ids=[row[0] for row in BROKEN])
def test_each_fault_is_found_with_why_and_mend(key, weight, broken):
    plan = broken()
    found = {f.key: f for f in findings(plan)}
    assert key in found, list(found)
    assert found[key].weight == weight
    assert found[key].why
    assert found[key].mend
    mend = found[key].apply
    if mend is not None:
        assert key not in {f.key for f in findings(mend(plan))}


def fan_with(**update: object) -> Plan:
    fan = mended(mill_plan()).load("extractor").stepped  # type: ignore[union-attr]
    assert fan is not None
    return changed("load", "extractor", stepped=fan.model_copy(update=update))


def test_a_fan_near_resonance_without_bleed_and_with_a_step_that_cannot_be():
    keys = {f.key for f in findings(fan_with(motor_henry=1.9))}
    assert "resonance-extractor-3" in keys, "more capacitance is not always more speed"
    assert "bleed-extractor" in {f.key for f in severe(fan_with(bleed_ohm=None))}
    step = fan_with().load("extractor").stepped.steps[0]  # type: ignore[union-attr]
    bad = step.model_copy(update={"name": "5", "closed": ("c1", "direct")})
    plan = fan_with(steps=(*fan_with().load("extractor").stepped.steps, bad))  # type: ignore[union-attr]
    assert "step-extractor-5" in {f.key for f in findings(plan)}
    table = next(c for c in circuits(plan) if c.owner == "load:extractor")
    assert [row[-1] for row in table.rows].count("unreachable") == 1


def test_five_volts_on_a_small_pin_get_a_divider_that_holds_at_the_worst():
    plan = built([AnalogSensor(highest_v=5.0)], 0, ["wifi_38"])
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    found = next(f for f in severe(plan) if f.key == "volts-probe:p0.sense")
    assert found.apply is not None
    after = found.apply(plan).probe("p0")
    assert after is not None
    assert isinstance(after.sensor, AnalogSensor)
    upper, lower = after.sensor.upper_ohm, after.sensor.lower_ohm
    assert upper is not None
    assert lower is not None
    assert 5.25 * lower * 1.01 / (lower * 1.01 + upper * 0.99) <= 3.6


def test_a_supply_counts_exclusive_relays_once():
    plan = mill_plan()
    budget = supply_budget(plan, plan.supplies[1])
    fan = next(d for d in budget.draws if "extractor" in d.name)
    assert (fan.each_ma, fan.at_once) == (72.0, 2), "c1 and c2 together, never the third"


@given(
    end=st.floats(1e4, 1e6) | st.none(),
    wet=st.floats(1e3, 9e4),
    fixed=st.floats(1e4, 1e6),
)
def test_leak_states_have_no_hole_and_no_overlap(end, wet, fixed):
    tape = LeakTape(end_of_line_ohm=end, wet_ohm=wet, fixed_ohm=fixed)
    divider = Divider(
        side="sensor_high", fixed_ohm=fixed, supply_v=3.3, reference_v=3.3, full_scale_counts=4095
    )
    states = leak_states(tape, divider)
    assert states[0].low_ohm == 0
    assert states[-1].high_ohm == float("inf")
    for before, after in pairwise(states):
        assert before.high_ohm == after.low_ohm
        assert before.low_ohm <= before.high_ohm
        assert before.high_counts == pytest.approx(after.low_counts)
    assert ("open" in {s.name for s in states}) == (end is not None)


@given(st.floats(1.0, 1e7))
def test_standard_resistors_are_nearest_in_ratio_and_never_above(ohm):
    values = series_ohm("E24")
    near = nearest_ohm(ohm)
    assert max(near / ohm, ohm / near) <= min(max(v / ohm, ohm / v) for v in values) + 1e-12
    assert below_ohm(ohm) <= ohm * (1 + 1e-9)


def test_repeats_of_one_press_are_one_press():
    heard = [*stand_in(1, "r"), *(Heard(t_ms=2000 + h.t_ms, code=h.code) for h in stand_in(1, "r"))]
    found = presses(heard, 400)
    assert [(p.t_ms, p.times) for p in found] == [(0, 4), (2000, 4)]
    assert len(presses(heard, 50)) == 8, "a lock-out shorter than the repeats counts each"
    assert stand_in(1, "r")[0].code != stand_in(2, "r")[0].code
    assert len({stand_in_pattern(n, 3) for n in range(8)}) == 8


@pytest.mark.parametrize(
    ("names", "how"),
    [
        (["Hall", "hall"], "are the same word"),
        (["Stair", "Stare"], "sound the same"),
        (["Skylight", "Skylights"], "differ by a letter"),
        (["Lamp 1", "Lamp 2"], None),
        (["Pump", "Heater"], None),
    ],
)
def test_names_that_could_be_confused(names, how):
    found = alike_names(names)
    assert [pair.how for pair in found] == ([how] if how else [])


def test_parts_are_counted_in_whole_packs_less_the_drawer():
    lines = {line.part: line for line in part_lines(mill_plan())}
    module = lines["relay module, 5 V, 10 A, active low"]
    assert (module.needed, module.missing, module.packs, module.price) == (4, 5, 2, 23.0)
    assert lines["resistor 10 kΩ"].packs == 0
    assert lines["resistor 470 kΩ"].needed == 5, "three in dividers, two at far ends"
    assert total_price(tuple(lines.values())) == pytest.approx(23 + 1.2 + 95)


def test_every_class_has_something_that_must_never_happen():
    plan = mill_plan()
    for load in plan.loads:
        for sentence, made in suggestions(load, plan):
            assert sentence.endswith(".")
            after = put_part(plan, "invariant", made.model_copy(update={"id": "new"}))
            check_plan(after)
            assert sentence not in [s for s, _ in suggestions(load, after)]
    said = [invariant_sentence(made, plan) for made in plan.invariants]
    assert (
        "Never Cistern inlet valve open while Manifold tape below 60 kΩ for longer than 30 s."
        in said
    )


def test_taking_a_part_away_takes_what_hangs_on_it_and_nothing_else():
    plan = mill_plan()
    less = remove_part(plan, "load", "booster_pump")
    check_plan(less)
    assert not less.relays_of("booster_pump")
    assert not [r for r in less.assignments if r.signal == "relay:k8.coil"]
    assert not [i for i in less.invariants if "booster_pump" in i.loads]
    assert len(less.probes) == len(plan.probes)
    for kind, part, word in (
        ("place", "loft", "Loft skylight"),
        ("probe", "drying_rh", "drying_band"),
    ):
        with pytest.raises(InputError, match=word):
            remove_part(plan, kind, part)
    check_plan(remove_part(plan, "probe", "skylight_open"))
    check_plan(remove_part(plan, "board", "board_b"))
    check_plan(remove_part(plan, "supply", "supply_5"))


def test_a_copy_claims_no_certificate_of_the_other_house():
    plan = as_copy(mill_plan(), House(name="Other", time_zone="UTC"))
    check_plan(plan)
    assert plan.house.name == "Other"
    assert {p.calibration.basis for p in plan.probes} == {"stated"}
    empty = Plan.model_validate(empty_house(House(name="Empty", time_zone="UTC")))
    check_plan(empty)
    assert conductors(empty) == ()
    assert findings(empty) == ()


def test_moving_and_naming():
    plan = move_part(mill_plan(), "load", "skylight", "stair_hall")
    assert plan.load("skylight").place == "stair_hall"  # type: ignore[union-attr]
    with pytest.raises(InputError):
        move_part(plan, "place", "loft", "stair_hall")
    assert fresh_id("Würde s lamp 2", {"wurde_s_lamp_2"}) == "wurde_s_lamp_2_2"
    assert re.fullmatch(r"[a-z][a-z0-9_]*", fresh_id("7 – ½", set()))
    assert roles_wanted(mill_plan(), "inlet_valve") == ("on", "series")


def test_a_places_sizes_are_marked_where_they_are_only_usual():
    place = mill_plan().places[1]
    assert place_figures(place)["depth_m"] == (5.0, True)
    own = place.model_copy(update={"depth_m": 7.5})
    assert place_figures(own)["depth_m"] == (7.5, False)


@pytest.mark.parametrize(
    ("where", "update"),
    [
        ("/places/10/within", {"places": "loop"}),
        ("/boards/0/board_type", {"boards": {"board_type": "nothing"}}),
        ("/boards/0/supply", {"boards": {"supply": "nothing"}}),
        ("/relays/0/load", {"relays": {"load": "nothing"}}),
        ("/assignments/0/pin", {"assignments": {"pin": "XX"}}),
        ("/controls/0/place", {"controls": {"place": "nothing"}}),
        ("/controls/0/load", {"controls": {"load": "nothing"}}),
        ("/loads/1/stepped", {"loads": "stepped"}),
    ],
)
def test_wiring_that_leads_nowhere_is_refused_with_its_path(where, update):
    plan = mill_plan()
    (key, change), *_ = update.items()
    parts = list(getattr(plan, key))
    if change == "loop":
        parts[7] = parts[7].model_copy(update={"within": "panel"})
        where = "/places/7/within"
    elif change == "stepped":
        parts[1] = parts[1].model_copy(update={"stepped": parts[0].stepped})
    else:
        parts[0] = parts[0].model_copy(update=change)
    with pytest.raises(PlanError) as refused:
        check_plan(plan.model_copy(update={key: tuple(parts)}))
    assert refused.value.where == where
    assert refused.value.allowed


def test_a_fans_contacts_are_judged_by_what_flows_and_not_by_its_plate_alone():
    """Circuits, drawing, contact and schedule name one current for one motor."""
    for stated_w in (1.0, 120.0, 900.0):
        plan = changed("load", "extractor", power_w=stated_w)
        fan = plan.load("extractor")
        assert fan is not None
        rows = next(c for c in circuits(plan) if c.owner == "load:extractor").rows
        flowing = max(float(row[3].split()[0]) for row in rows)
        assert load_current_a(fan, plan) >= flowing - 0.005
        assert {w.current_a for w in conductors(plan) if w.owner == "load:extractor"} <= {
            0.0,
            load_current_a(fan, plan),
        }
    strong = fan_with(motor_ohm=40.0, motor_henry=0.05)
    assert {"contact-k1", "contact-k2", "contact-k3"} <= {f.key for f in severe(strong)}


def test_a_step_that_closes_nothing_draws_nothing():
    fan = mended(mill_plan()).load("extractor").stepped  # type: ignore[union-attr]
    assert fan is not None
    plan = fan_with(steps=(FanStep(name="pause", closed=()), *fan.steps))
    rows = next(c for c in circuits(plan) if c.owner == "load:extractor").rows
    assert rows[0] == ("pause", "none", "–", "–", "off")
    only = fan_with(steps=(FanStep(name="pause", closed=()),))
    load = only.load("extractor")
    assert load is not None
    assert load_current_a(load, only) == pytest.approx(load.power_w / (230 * 0.8))


def test_circuits_say_what_an_instrument_should_show():
    found = {c.owner: c for c in circuits(mill_plan())}
    assert dict(found["probe:manifold_tape"].facts)["An ohmmeter shows, dry"] == "365 to 494 kΩ"
    assert "unplugged" in dict(found["probe:drain_tape"].facts)["An ohmmeter shows, dry"]
    assert dict(found["probe:studio_temp"].facts)["Unplugged"] == "4095 counts: open"
    assert len(found["load:night_lights"].rows) == 4
    assert found["load:extractor"].caution


def test_buttons_and_buses_need_what_they_need():
    plan = built([ContactSensor(), BusSensor(address=0x20), Thermistor()], 0, ["wifi_38"])
    button = Control(id="b", name="B", place="room", kind="push_button", contacts=2)
    plan = plan.model_copy(
        update={"controls": (button,), "relays": (RelayLine(id="k1", load="fan"),)}
    )
    needs = {s.id: s.needs for s in signals(plan)}
    assert needs["control:b.contact2"] == {"digital_in"}
    assert needs["probe:p1.clock"] == {"bus_clock"}
    assert needs["relay:k1.coil"] == {"digital_out"}
