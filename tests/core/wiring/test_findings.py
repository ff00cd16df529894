"""What is wrong with wiring is found, with why and a fix that fixes."""

from collections.abc import Callable

import pytest
from tests.core.houses import built, fixed, of_kind

from aldea.core.base.errors import PlanError
from aldea.core.base.figures import ohms
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.devices.loads.ratings import load_current_a
from aldea.core.devices.loads.two_way.model import TwoWay
from aldea.core.devices.sensors.analog.model import AnalogSensor
from aldea.core.plan.board_types import board_types
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import RemoteCode, SelectorPosition
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part, remove_part
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.candidates import WRONG_RAIL, rail_cost
from aldea.core.wiring.circuits import circuits
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.drivers import driver_of
from aldea.core.wiring.findings import findings, severe
from aldea.core.wiring.parts import part_lines
from aldea.demo.mill import mill_plan


def with_one_contactor(kind: str, place: int) -> Plan:
    """A load of a kind of which one relay alone switches a contactor."""
    plan = of_kind(kind)
    relay = plan.relays[place].model_copy(update={"contactor": True})
    return put_part(plan, "relay", relay)


@pytest.mark.parametrize("kind", LOAD_FACTS)
def test_a_fix_that_is_pressed_changes_the_wiring_and_not_only_the_warning(kind):
    """A load too strong for its contact: the contactor is wired, or the warning stays."""
    plan = of_kind(kind, 3000.0)
    weak = [f for f in findings(plan) if f.key.startswith("contact-")]
    for relay in plan.relays:
        coil = [w for w in conductors(plan) if w.end == f"KM {relay.id.upper()}:A1"]
        assert len(coil) == relay.contactor
    if kind == "two_way":
        assert [(f.weight, f.press) for f in weak] == [("severe", "")]
        assert "131 A" in weak[0].fix, "3000 W / 230 V over a tenth for lamps"
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
    before = {line.part: line.needed for line in part_lines(fixed(mill_plan()))}
    after = {line.part: line.needed for line in part_lines(plan)}
    assert after[part] == before.get(part, 0) + 1


def changed(kind: str, part_id: str, **update: object) -> Plan:
    plan = fixed(mill_plan())
    key = {"relay": "relays", "load": "loads", "probe": "probes", "supply": "supplies",
           "control": "controls", "board": "boards"}[kind]  # fmt: skip
    part = next(p for p in getattr(plan, key) if p.id == part_id)
    return put_part(plan, kind, part.model_copy(update=update))


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
    probe = fixed(mill_plan()).probe(probe_id)
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
    ("address-board_b-68", "severe", lambda: sensor("drying_temp", address=0x44)),
    ("reserved-probe:drying_temp.data", "severe", lambda: sensor("drying_temp", address=3)),
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
    ("relays-dehumidifier", "open", lambda: remove_part(fixed(mill_plan()), "relay", "k4")),
    (
        "never-booster_pump",
        "open",
        lambda: remove_part(fixed(mill_plan()), "invariant", "pump_dry"),
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
def test_each_fault_is_found_with_why_and_fix(key, weight, broken):
    plan = broken()
    found = {f.key: f for f in findings(plan)}
    assert key in found, list(found)
    assert found[key].weight == weight
    assert found[key].why
    assert found[key].fix
    fix = found[key].apply
    if fix is not None:
        assert key not in {f.key for f in findings(fix(plan))}


def fan_with(**update: object) -> Plan:
    fan = fixed(mill_plan()).load("extractor").stepped  # type: ignore[union-attr]
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
    fitted = found.apply(plan)
    assert "range-p0" not in {f.key for f in findings(fitted)}, "the converter reads all of it"
    after = fitted.probe("p0")
    assert after is not None
    assert isinstance(after.sensor, AnalogSensor)
    upper, lower = after.sensor.upper_ohm, after.sensor.lower_ohm
    assert upper is not None
    assert lower is not None
    assert 5.25 * lower * 1.01 / (lower * 1.01 + upper * 0.99) <= 3.3


def test_a_fans_contacts_are_judged_by_what_flows_and_not_by_its_plate_alone():
    """Circuits, drawing, contact and schedule name one current for one motor."""
    for stated_w in (1.0, 120.0, 900.0):
        plan = changed("load", "extractor", power_w=stated_w)
        fan = plan.load("extractor")
        assert fan is not None
        rows = next(c for c in circuits(plan) if c.owner == "load:extractor").rows
        flowing = max(float(row[3].split()[0]) for row in rows)
        assert load_current_a(fan, plan) >= flowing - 0.005
        flows = [w.current_a for w in conductors(plan) if w.owner == "load:extractor"]
        assert max(flows) == pytest.approx(load_current_a(fan, plan))
    strong = fan_with(motor_ohm=40.0, motor_henry=0.05)
    keys = {f.key for f in severe(strong)}
    assert "contact-k3" in keys, "direct it carries all"
    assert "contact-k1" not in keys, "behind 2.2 µF it does not"


@pytest.mark.parametrize(("volts", "wrong"), [(4.5, True), (4.8, False), (5.2, False), (5.5, True)])
def test_a_rail_serves_a_sensor_within_five_percent_and_no_further(volts, wrong):
    plan = sensor("cellar_rh", supply_v=volts)
    assert ("rail-cellar_rh" in {f.key for f in findings(plan)}) is wrong
    board = next(b for b in plan.boards if b.id == "board_b")
    rails = board_types(plan)[board.board_type].rails_v
    fits = any(abs(rail - volts) < 0.05 * volts for rail in rails)
    assert rail_cost(plan, "probe:cellar_rh", board) == (0 if fits else WRONG_RAIL)


@pytest.mark.parametrize(("volts", "wrong"), [(4.5, True), (4.8, False), (5.2, False), (5.5, True)])
def test_a_rail_serves_a_hung_board_within_five_percent_and_no_further(volts, wrong):
    plan = changed("board", "rack_inputs", board_type="odd_mux")
    odd = board_types(mill_plan())["mux_8_at_5v"].model_copy(
        update={"id": "odd_mux", "supply_v": volts}
    )
    plan = plan.model_copy(update={"board_types": (*plan.board_types, odd)})
    host = plan.board("board_c")
    assert host is not None
    assert 5.0 in board_types(plan)[host.board_type].rails_v
    found = {f.key: f.head for f in findings(plan)}
    assert ("needs" in found.get("hung-rack_inputs", "")) is wrong


def test_a_controller_hangs_on_no_board():
    plan = mill_plan()
    first, second = (b for b in plan.boards if b.id in ("board_a", "board_b"))
    hung = put_part(plan, "board", second.model_copy(update={"host": first.id}))
    with pytest.raises(PlanError, match="none, for a controller"):
        check_plan(hung)
