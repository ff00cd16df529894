"""One part of several quantities: one seat, one address, one cable, one line to buy; all probes."""

import pytest
from tests.core.houses import pressed

from aldea.core.base.addresses import address_words, read_address
from aldea.core.base.errors import PlanError
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.models import SEVERAL
from aldea.core.devices.sensors.serial.model import SerialSensor
from aldea.core.plan.check import check_plan
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import move_part, part_of, put_part, remove_part
from aldea.core.plan.one_part import could_join, others_of_part, with_all_of_part
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines
from aldea.core.wiring.reassign import give_new_pins
from aldea.core.wiring.signals import signals
from aldea.demo.mill import mill_plan


def with_climate(key: str = "climate") -> Plan:
    """The mill with one more part in the drying room, seated."""
    several = SEVERAL[key]
    sensor = SerialSensor() if key == "radar" else BusSensor(address=0x46)
    lead = new_probe(
        probe_id="press", name="Press", place="drying_room", quantity=several.gives[0][0]
    ).model_copy(update={"sensor": sensor, "cable_m": 0.5})
    plan = with_all_of_part(mill_plan(), lead, several)
    lines = (s.id for s in signals(plan) if s.owner == "probe:press")
    return give_new_pins(*lines)(plan)


@pytest.mark.parametrize("key", SEVERAL)
def test_one_part_has_one_seat_one_cable_and_one_line_to_buy(key):
    before, plan = mill_plan(), with_climate(key)
    check_plan(plan)
    assert read_plan(plan_text(plan)) == plan
    probes = (
        part_of(plan, "probe", "press"),
        *others_of_part(plan, part_of(plan, "probe", "press")),
    )
    assert [p.quantity for p in probes] == [q for q, _ in SEVERAL[key].gives]
    assert len({p.name for p in probes}) == len(probes)
    more = {s.owner for s in signals(plan)} - {s.owner for s in signals(before)}
    assert more == {"probe:press"}
    wires = [w for w in conductors(plan) if w.owner.startswith("probe:press")]
    assert len(wires) == 4, "two lines, plus, zero"
    bought = [line for line in part_lines(plan) if line.group == "Sensors"]
    had = {line.part: line.needed for line in part_lines(before) if line.group == "Sensors"}
    new = [line for line in bought if line.needed != had.get(line.part)]
    assert sum(line.needed - had.get(line.part, 0) for line in new) == 1
    assert not [f for f in findings(plan) if "press" in f.at]


def test_a_part_moves_as_a_whole_and_stays_when_its_first_probe_goes():
    plan = with_climate()
    moved = move_part(plan, "probe", "press_rh", "root_cellar")
    assert {part_of(moved, "probe", name).place for name in ("press", "press_rh")} == {
        "root_cellar"
    }
    left = remove_part(plan, "probe", "press")
    check_plan(left)
    heir = part_of(left, "probe", "press_rh")
    assert heir.part_with is None
    assert (heir.sensor, heir.cable_m) == (part_of(plan, "probe", "press").sensor, 0.5)
    seats = {(r.board, r.pin) for r in plan.assignments if r.signal.startswith("probe:press.")}
    assert {
        (r.board, r.pin) for r in left.assignments if r.signal.startswith("probe:press_rh.")
    } == seats


@pytest.mark.parametrize(
    ("probe_id", "update", "where"),
    [
        ("press_rh", {"part_with": "nobody"}, "part_with"),
        ("press_rh", {"part_with": "press_rh"}, "part_with"),
        ("press_rh", {"sensor": BusSensor(address=0x47)}, "sensor"),
        ("press_rh", {"place": "loft"}, "place"),
        ("press_rh", {"quantity": "leak"}, "part_with"),
        ("press", {"part_with": "press_rh", "sensor": None}, "part_with"),
    ],
)
def test_a_part_that_cannot_be_is_refused_at_its_own_place(probe_id, update, where):
    plan = with_climate()
    probe = part_of(plan, "probe", probe_id).model_copy(update=update)
    with pytest.raises(PlanError) as refused:
        check_plan(put_part(plan, "probe", probe))
    assert refused.value.where.rsplit("/", 1)[-1] == where


def test_a_second_probe_may_join_a_part_that_gives_its_quantity_and_no_other():
    plan = mill_plan()
    rh = new_probe(probe_id="x", name="X", place="root_cellar", quantity="relative_humidity")
    assert [p.id for p in could_join(plan, rh)] == ["cellar_rh", "studio_air_2"]
    assert not could_join(plan, rh.model_copy(update={"quantity": "leak"}))
    assert not could_join(plan, rh.model_copy(update={"place": "loft"}))


def test_how_a_probe_is_made_is_asked_and_how_often_it_is_read_is_judged():
    plan = mill_plan()
    bare = put_part(
        plan, "probe", part_of(plan, "probe", "cellar_rh").model_copy(update={"sensor": None})
    )
    asked = {f.key: f for f in findings(bare)}["made-cellar_rh"]
    assert (asked.weight, asked.at) == ("open", "probe:cellar_rh")
    assert "two-wire bus" in asked.fix
    courtyard = part_of(plan, "probe", "courtyard_temp")
    hasty = put_part(plan, "probe", courtyard.model_copy(update={"reading_interval_s": 1.0}))
    fast = {f.key: f for f in findings(hasty)}["fast-courtyard_temp"]
    assert part_of(pressed(hasty, fast.key), "probe", "courtyard_temp").reading_interval_s == 2.0
    slow = put_part(plan, "probe", courtyard.model_copy(update={"reading_interval_s": 1200.0}))
    stale = {f.key: f for f in findings(slow)}["stale-courtyard_temp"]
    after = pressed(slow, stale.key)
    assert part_of(after, "probe", "courtyard_temp").stale_after_s == 3600.0
    assert not [f for f in findings(after) if f.key.startswith(("fast-", "stale-"))]


def test_an_address_is_read_in_either_way_and_shown_in_both():
    assert [read_address(text) for text in ("0x44", "44h", "68", "0x44 (68)", "")] == [68] * 4 + [
        None
    ]
    assert address_words(68) == "0x44 (68)"
    for wrong in ("128", "-1", "0x44 (69)", "x", "0x80"):
        with pytest.raises(ValueError):  # noqa: PT011  the form says what is allowed
            read_address(wrong)
    assert assign_pins(mill_plan()).conflict == ()
