"""A plan of one load alone: it fits together, and does what the load does in its house."""

import pytest
from tests.core.rehearse.test_by_load import MILL, MILL_TRACES, TWO_DAYS_MS

from aldea.core.plan.excerpt import excerpt
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.rehearse.load_parts import load_parts
from aldea.core.rehearse.rehearsal import rehearse
from aldea.core.words.rules import rule_sentence


def days_of(plan, load_id):
    part = load_parts(plan)[load_id]
    start_ms, end_ms = TWO_DAYS_MS
    traces = {probe: MILL_TRACES[probe] for probe in part.reads if probe in MILL_TRACES}
    stretches = rehearse(part.plan, traces, start_ms=start_ms, end_ms=end_ms).stretches[load_id]
    return [(s.start_ms, s.end_ms, s.state, s.inhibit) for s in stretches]


@pytest.mark.parametrize("load_id", [load.id for load in MILL.loads if load.stage == "working"])
def test_a_load_taken_out_of_its_house_does_the_same(load_id):
    alone = read_plan(plan_text(excerpt(MILL, frozenset({load_id}))))
    assert len(alone.loads) < len(MILL.loads)
    mine = [rule_sentence(MILL, rule) for rule in MILL.rules if rule.load == load_id]
    assert [rule_sentence(alone, r) for r in alone.rules if r.load == load_id] == mine
    assert days_of(alone, load_id) == days_of(MILL, load_id)


def test_what_the_load_does_not_need_stays_behind():
    alone = excerpt(MILL, frozenset({"cellar_cooler"}))
    # Never beside the heater, which never runs beside the pump: those two come along.
    assert {load.id for load in alone.loads} == {"cellar_cooler", "panel_heater", "booster_pump"}
    assert "drying_rh" not in {probe.id for probe in alone.probes}
    assert alone.assignments == ()
    assert alone.numbers == ()
    assert alone.house.name == "Cellar cooler, Molino Alto"
