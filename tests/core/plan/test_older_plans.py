"""What was exported before still opens, means the same, and goes out in today's text."""

import json
from pathlib import Path

import pytest

from aldea.core.base.errors import PlanError
from aldea.core.plan.check import check_plan
from aldea.core.plan.text import FORMAT, plan_text, read_plan
from aldea.core.plan.version_1 import from_version_1
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import severe
from aldea.demo.mill import mill_plan

MILL_1 = Path(__file__).parents[2] / "vectors" / "mill-of-version-1.json"
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


def test_the_mill_as_version_1_wrote_it_is_the_mill():
    """Every part, field for field: the demo's plan as the last release of version 1 had it."""
    plan = read_plan(MILL_1.read_bytes())
    assert plan == mill_plan()
    assert json.loads(plan_text(plan))["format"] == FORMAT


def test_reading_an_older_document_leaves_it_alone():
    document = json.loads(MILL_1.read_bytes())
    kept = json.dumps(document)
    from_version_1(document)
    assert json.dumps(document) == kept


@pytest.mark.parametrize("version", [0, 3, "2", None])
def test_another_version_is_refused_with_what_can_be_read(version):
    document = {**json.loads(MILL_1.read_bytes()), "format": f"aldea-plan/{version}"}
    with (
        pytest.raises(PlanError, match="versions 1 and 2")
        if version != "2"
        else pytest.raises(PlanError)
    ):
        read_plan(json.dumps(document))


@pytest.mark.parametrize(
    "change",
    [
        {"rules": []},  # the new name beside the old one
        {"claims": [{"rank": "demand", "priority": "demand"}]},
        {"claims": "all of them"},
        {"loads": [{"idle": 3, "default_state": 4}]},
        {"controls": [{"presses": [{"school": {"a": []}}]}]},
        {"memory": {"fields": [["hand:fan"]]}},
    ],
)
def test_what_is_neither_version_is_refused_and_nothing_falls_over(change):
    with pytest.raises(PlanError):
        read_plan(json.dumps({**json.loads(MILL_1.read_bytes()), **change}))
