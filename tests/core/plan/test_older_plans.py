"""What was exported before still opens, means the same, and goes out in today's text."""

from pathlib import Path

from aldea.core.plan.check import check_plan
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import severe

OLDER = Path(__file__).parents[2] / "vectors" / "mill-exported-at-0.4.json"


def test_a_plan_of_before_the_panel_grew_opens_and_is_wired_as_it_was():
    plan = read_plan(OLDER.read_bytes())
    check_plan(plan)
    assert (len(plan.probes), len(plan.loads), len(plan.relays)) == (22, 8, 11)
    assert all(load.on_mains for load in plan.loads)
    assert all(probe.part_with is None for probe in plan.probes)
    wires = conductors(plan)
    assert wires[0].number == "101"
    assert len({wire.number for wire in wires}) == len(wires)
    assert {f.key for f in severe(plan)} >= {"twitch-k11", "far-end-drain_tape"}
    assert read_plan(plan_text(plan)) == plan
