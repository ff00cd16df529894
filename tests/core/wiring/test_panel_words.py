"""What a panel takes, what it does without supply, in which order it is wired, and its nets."""

import pytest
from tests.core.houses import built

from aldea.core.devices.loads.valve.model import Valve
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.plan.defaults import new_load, new_place, new_probe
from aldea.core.plan.document import Plan, PowerReturn
from aldea.core.plan.edits import put_part
from aldea.core.plan.panel import Assignment, RelayOutput, Supply
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.checks.boxes import box_rise_k, box_watts
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines, tools
from aldea.core.wiring.standby import standby
from aldea.core.words.power_cut import power_cut_sentence
from aldea.core.words.work_order import work_order
from aldea.demo.mill import mill_plan
from aldea.formats.tables_csv import netlist_csv, nets, points_csv

UNTIL = "until every rule that requests it has been inactive once."


def panel(**facts: object) -> Plan:
    """A Wi-Fi module on a 5 V supply, one sensor and two modules."""
    supply = Supply(id="s", name="Supply", place="room", volts=5.0, rating_ma=2000.0)
    plan = built([BusSensor(address=0x40)], 2, ["wifi_38"], supplies=(supply,), **facts)
    board = plan.boards[0].model_copy(update={"supply": "s"})
    plan = plan.model_copy(update={"boards": (board,)})
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def test_standby_is_what_boards_and_sensors_take_behind_their_supply():
    """240 mA · 5 V + 2.5 mA · 3.3 V + 2 · 20 mW = 1.248 W; / 0.75 + 0.2 W = 1.864 W; 16.3 kWh."""
    idle = standby(panel())
    assert idle.watts == pytest.approx((1.2 + 0.00825 + 0.04) / 0.75 + 0.2)
    assert idle.kwh_a_year == pytest.approx(idle.watts * 8.766)
    tariff = panel().house.model_copy(update={"tariff_per_kwh": 0.2})
    assert standby(panel(house=tariff)).cost == pytest.approx(idle.kwh_a_year * 0.2)


@pytest.mark.parametrize(
    ("kind", "update", "sentence"),
    [
        ("relay", {}, "Thing is off without supply, then follows its rules again."),
        (
            "relay",
            {"power_return": PowerReturn(policy="last", delay_s=90.0, reason="x")},
            (
                "Thing is off without supply, then waits 90 s, then returns to its last state "
                "until a rule decides."
            ),
        ),
        (
            "valve",
            {},
            "Thing shuts by itself without supply, then stays shut " + UNTIL,
        ),
        (
            "valve",
            {"valve": Valve(at_rest="open")},
            "Thing opens by itself without supply, then stays open " + UNTIL,
        ),
        (
            "pulse_drive",
            {},
            "Thing stays where it is without supply, and then " + UNTIL,
        ),
        (
            "two_way",
            {},
            (
                "Thing is worked by its wall switch alone without supply, "
                "then follows its rules again."
            ),
        ),
    ],
)
def test_one_sentence_says_what_a_power_cut_does(kind, update, sentence):
    load = new_load(load_id="t", name="Thing", place="room", kind=kind).model_copy(update=update)
    assert power_cut_sentence(load, mill_plan()) == sentence


def test_a_contact_closed_at_rest_runs_without_supply():
    load = new_load(load_id="t", name="Fan", place="room", kind="relay")
    relay = RelayOutput(id="k1", load="t", contact="nc")
    plan = mill_plan().model_copy(update={"loads": (load,), "relays": (relay,)})
    assert power_cut_sentence(load, plan).startswith("Fan runs: its contact is closed at rest")


def test_the_order_puts_low_voltage_first_and_mains_last_and_names_what_is_unplugged():
    steps = work_order(mill_plan())
    assert "extra-low voltage" in steps[0]
    assert "mains conductors, dead and proven dead" in steps[-1]
    assert not any("unplug" in step for step in steps)
    plan = panel()
    row = Assignment(signal="relay:k0.coil", board="b0", pin="RX0", by="hand")
    left = tuple(r for r in plan.assignments if r.signal != row.signal)
    on_rx = plan.model_copy(update={"assignments": (*left, row)})
    assert any("unplug K0, L0 (RX0)" in step for step in work_order(on_rx))
    assert work_order(plan.model_copy(update={"boards": (), "assignments": (), "relays": ()})) == ()


def test_nets_join_what_conductors_join_and_every_terminal_is_in_one():
    low = [wire for wire in conductors(mill_plan()) if wire.net == "ELV"]
    made = nets(low)
    ends = [end for _, net in made for end in net]
    assert len(ends) == len(set(ends))
    assert set(ends) == {end for wire in low for end in (wire.start, wire.end)}
    where = {end: name for name, net in made for end in net}
    for wire in low:
        assert where[wire.start] == where[wire.end]
    zero = where["24 V supply:−"]
    assert where["Board A:0 V"] == zero, "joined by the board's own feed"
    assert where["24 V supply:+"] != zero
    text = netlist_csv(conductors(mill_plan()))
    assert text.splitlines()[0] == "net,part,terminal"
    assert len(text.splitlines()) == len(ends) + 1
    assert "X1" not in text
    assert len(points_csv(conductors(mill_plan())).splitlines()) == len(low) + 1


def test_tools_are_those_that_the_plan_asks_for():
    low = panel().model_copy(update={"relays": ()})
    assert not any("1000 V" in tool for tool in tools(low))
    assert any("1000 V" in tool for tool in tools(mill_plan()))
    assert any("programming adapter" in tool for tool in tools(low))
    assert tools(low.model_copy(update={"boards": (), "assignments": ()})) == ()
    bought = {line.part: line.needed for line in part_lines(mill_plan())}
    assert bought["enclosure for a panel"] == 5, "panel, drying room, hall, studio, cellar"
    sensors = {line.part for line in part_lines(mill_plan()) if line.group == "Sensors"}
    assert "digital, single wire: temperature + relative humidity" in sensors


def test_a_box_warms_by_what_stands_in_it_and_a_sensor_in_there_is_told():
    """1.248 W and a third of it lost in the supply; 0.4 · 0.3 · 0.2 m have 0.52 m²."""
    plan = panel()
    box = new_place(
        plan.places, id="box", name="Box", kind="enclosure", level=0, within="room",
        from_m=0.0, to_m=0.4, depth_m=0.2, height_m=0.3,
    )  # fmt: skip
    inside = {"place": "box"}
    plan = plan.model_copy(
        update={
            "places": (*plan.places, box),
            "boards": (plan.boards[0].model_copy(update=inside),),
            "supplies": (plan.supplies[0].model_copy(update=inside),),
        }
    )
    coils = 2 * 5.0 * 0.072
    assert box_watts(plan, box) == pytest.approx((1.2 + coils) / 0.75)
    area = 2 * (0.4 * 0.2 + 0.4 * 0.3 + 0.2 * 0.3)
    rise = box_rise_k(plan, box)
    assert rise == pytest.approx((1.2 + coils) / 0.75 / (5.5 * area))
    probe = new_probe(probe_id="in", name="In", place="box", quantity="air_temperature")
    told = {f.key: f for f in findings(put_part(plan, "probe", probe))}["in-box-in"]
    assert f"{rise:.1f} K too warm" in told.head
    small = put_part(
        plan, "place", box.model_copy(update={"height_m": 0.03, "depth_m": 0.03, "to_m": 0.1})
    )
    assert "warm-box" in {f.key for f in findings(small)}
