"""Another like this: a unit copied has all of it, and a change of the first reaches the copies."""

import pytest
from tests.core.houses import built

from aldea.core.base.errors import InputError
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.models import SEVERAL
from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.core.plan.check import check_plan
from aldea.core.plan.conditions import Band
from aldea.core.plan.controls import Control, RemoteCode
from aldea.core.plan.defaults import new_load, new_place, new_probe
from aldea.core.plan.document import Plan, Rule
from aldea.core.plan.edits import part_of, put_part, remove_part
from aldea.core.plan.one_part import with_all_of_part
from aldea.core.plan.panel import RelayOutput, Supply
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.copies import carried, copied, copies_of, unit_of
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines

ROOMS = [f"Room {number}" for number in range(2, 11)]


def radiator() -> Plan:
    """One radiator unit: a board, a climate part, a relay with its heater, a button, a band."""
    plan = built([], 0, ["wifi_38"])
    places = [new_place((), id="room", name="Room 1", kind="room", level=0)]
    for number, name in enumerate(ROOMS[:3]):
        places.append(new_place(tuple(places), id=f"r{number}", name=name, kind="room", level=0))
    heater = new_load(
        load_id="heater", name="Room 1 heater", place="room", kind="relay"
    ).model_copy(update={"load_class": "air", "nature": "resistive"})
    lead = new_probe(
        probe_id="air", name="Room 1", place="room", quantity="air_temperature"
    ).model_copy(update={"sensor": BusSensor(address=0x44)})
    board = plan.boards[0].model_copy(update={"name": "Room 1 board", "supply": "s"})
    plan = plan.model_copy(
        update={
            "places": tuple(places),
            "probes": (),
            "loads": (heater.model_copy(update={"power_w": 400.0, "feed": "F1"}),),
            "boards": (board,),
            "supplies": (Supply(id="s", name="Supply", place="room", rating_ma=9000.0),),
            "relays": (RelayOutput(id="k1", load="heater"),),
            "controls": (
                Control(
                    id="b", name="Room 1 button", place="room", kind="push_button", load="heater"
                ),
            ),
            "rules": (),
        }
    )
    plan = with_all_of_part(plan, lead, SEVERAL["climate"])
    band = Band(probe="air", direction="falling", on_threshold=19.0, off_threshold=20.0)
    plan = plan.model_copy(update={"rules": (Rule(id="warm", load="heater", condition=band),)})
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def test_ten_equal_units_by_copy_are_wired_alike_and_fit_together():
    one = radiator()
    assert not [f for f in findings(one) if f.weight == "severe"]
    plan = copied(one, "b0", "Room 1", ROOMS)
    check_plan(plan)
    assert read_plan(plan_text(plan)) == plan
    for key in ("boards", "loads", "relays", "controls", "rules"):
        assert len(getattr(plan, key)) == 10, key
    assert len(plan.probes) == 20
    assert len(conductors(plan)) == 10 * len(conductors(one))
    pins = {b.id: {r.pin for r in plan.assignments if r.board == b.id} for b in plan.boards}
    assert len({frozenset(p) for p in pins.values()}) == 1
    names = [p.name for p in plan.probes] + [p.name for p in plan.loads]
    names += [b.name for b in plan.boards] + [c.name for c in plan.controls]
    assert len(set(names)) == len(names)
    assert [b.place for b in plan.boards[:5]] == ["room", "r0", "r1", "r2", "room"]
    assert {f.key.split("-")[0] for f in findings(plan)} <= {
        f.key.split("-")[0] for f in findings(one)
    } | {"names"}
    bought = {line.part: line.needed for line in part_lines(plan)}
    for line in part_lines(one):
        if line.group in ("Boards", "Sensors", "Relays"):
            assert bought[line.part] == 10 * line.needed


def test_each_copy_is_its_own_in_its_references():
    plan = copied(radiator(), "b0", "Room 1", ["Room 2", "Room 3"])
    for board_id in ("b0", *copies_of(plan, "b0")):
        unit = unit_of(plan, board_id)
        mine = set(unit.parts)
        rules = [c for c in plan.rules if f"rule:{c.id}" in mine]
        assert len(rules) == 1
        assert f"load:{rules[0].load}" in mine
        assert f"probe:{rules[0].band.probe}" in mine
        (humidity,) = [p for p in plan.probes if f"probe:{p.id}" in mine and p.part_with]
        assert f"probe:{humidity.part_with}" in mine
        (button,) = [c for c in plan.controls if f"control:{c.id}" in mine]
        assert f"load:{button.load}" in mine


def test_one_change_reaches_all_copies_and_leaves_them_what_is_their_own():
    plan = copied(radiator(), "b0", "Room 1", ["Room 2", "Room 3"])
    air = part_of(plan, "probe", "air_2")
    own = air.calibration.model_copy(update={"intercept": 0.7})
    plan = put_part(plan, "probe", air.model_copy(update={"calibration": own}))
    heater = part_of(plan, "load", "heater")
    plan = put_part(plan, "load", heater.model_copy(update={"power_w": 650.0, "min_on_s": 60.0}))
    relay = part_of(plan, "relay", "k1").model_copy(update={"active": "low"})
    plan = put_part(plan, "relay", relay)
    rule = plan.rules[0]
    warmer = rule.band.model_copy(update={"on_threshold": 18.0})
    plan = plan.model_copy(
        update={"rules": (rule.model_copy(update={"condition": warmer}), *plan.rules[1:])}
    )
    done = carried(plan, "b0")
    check_plan(done)
    assert [load.power_w for load in done.loads] == [650.0] * 3
    assert [load.min_on_s for load in done.loads] == [60.0] * 3
    assert [relay.active for relay in done.relays] == ["low"] * 3
    assert [c.band.on_threshold for c in done.rules] == [18.0] * 3
    assert len({c.band.probe for c in done.rules}) == 3
    assert [load.name for load in done.loads] == [load.name for load in plan.loads]
    assert part_of(done, "probe", "air_2").calibration.intercept == 0.7
    assert part_of(done, "probe", "air").calibration.intercept == 0.0
    assert carried(done, "b0") == done


def test_codes_and_baselines_stay_with_the_part_that_has_them():
    plan = radiator()
    remote = Control(
        id="ir", name="Room 1 remote", place="room", kind="remote",
        codes=(RemoteCode(name="up", code="a1b2", load="heater"),),
    )  # fmt: skip
    tape = new_probe(probe_id="tape", name="Room 1 tape", place="room", quantity="leak")
    tape = tape.model_copy(update={"sensor": LeakTape(baseline_counts=2010.0)})
    cold = new_probe(probe_id="t", name="Room 1 cold", place="room", quantity="air_temperature")
    cold = cold.model_copy(update={"sensor": OneWireSensor(code="28ff641e8d3c0a5b")})
    plan = plan.model_copy(
        update={"probes": (*plan.probes, tape, cold), "controls": (*plan.controls, remote)}
    )
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    made = copied(plan, "b0", "Room 1", ["Room 2"])
    assert not [f for f in findings(made) if f.key.startswith("code-")]
    assert part_of(made, "control", "ir_2").codes == ()
    assert part_of(made, "probe", "tape_2").sensor.baseline_counts is None
    own = part_of(made, "probe", "tape_2")
    own = own.model_copy(
        update={"sensor": own.sensor.model_copy(update={"baseline_counts": 1950.0})}
    )
    thermometer = part_of(made, "probe", "t_2").model_copy(
        update={"sensor": OneWireSensor(code="28ff000000000001")}
    )
    made = put_part(put_part(made, "probe", own), "probe", thermometer)
    done = carried(put_part(made, "probe", tape.model_copy(update={"cable_mm2": 0.75})), "b0")
    assert part_of(done, "probe", "tape_2").cable_mm2 == 0.75
    assert part_of(done, "probe", "tape_2").sensor.baseline_counts == 1950.0
    assert part_of(done, "probe", "t_2").sensor.code == "28ff000000000001"
    assert part_of(done, "control", "ir_2").codes == ()


def test_a_copy_that_is_taken_away_is_no_copy_any_more():
    plan = copied(radiator(), "b0", "Room 1", ["Room 2"])
    (copy,) = copies_of(plan, "b0")
    less = remove_part(plan, "board", copy)
    check_plan(less)
    assert copies_of(less, "b0") == ()


@pytest.mark.parametrize("others", [[], ["Room 1"], ["A", "A"], [str(n) for n in range(51)]])
def test_words_that_do_not_tell_copies_apart_are_refused(others):
    with pytest.raises(InputError, match="each once"):
        copied(radiator(), "b0", "Room 1", others)
