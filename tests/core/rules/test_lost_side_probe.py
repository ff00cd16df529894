"""One lost probe of several: the whole load falls back, or only the rules on it stop (case 7)."""

from typing import Any

import numpy as np
import pytest
from tests.core.engine.runs import ENGINES, switches
from tests.core.plans import one_band

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import Run, run_replay
from aldea.core.plan.conditions import Beyond
from aldea.core.plan.defaults import new_load, new_probe
from aldea.core.plan.document import OnSensorFault, Plan, Rule
from aldea.core.readings.samples import Samples
from aldea.core.words.lost_probe import lost_probe_words, probe_words
from aldea.core.words.rules import load_sentences

END_S = 3600


@pytest.fixture(params=list(ENGINES.values()), ids=list(ENGINES))
def engine(request):
    return request.param


def bath(each: str, state: str = "off") -> Plan:
    """On by steam, or by heat; the thermometer is the side probe."""
    plan = one_band(
        stale_after_s=30.0, on_sensor_fault=OnSensorFault.model_validate(
            {"after_s": 300.0, "state": state, "each": each}
        )
    )  # fmt: skip
    air = new_probe(probe_id="air", name="Bath air", place="room", quantity="air_temperature")
    air = air.model_copy(update={"stage": "working", "stale_after_s": 30.0})
    hot = Rule(id="hot", load="fan", condition=Beyond(kind="above", probe="air", value=28.0))
    return plan.model_copy(update={"probes": (*plan.probes, air), "rules": (*plan.rules, hot)})


def ran(plan: Plan, rh_until_s: int, air_until_s: int, rh: float, air: float, **engine: Any) -> Run:
    rows = [(t, 0, rh) for t in range(0, rh_until_s + 1, 10)]
    rows += [(t, 1, air) for t in range(0, air_until_s + 1, 10)]
    t_s, probe, value = zip(*sorted(rows), strict=True)
    samples = Samples(
        t_ms=np.array(t_s, dtype=np.int64) * 1000,
        probe=np.array(probe, dtype=np.int64),
        value=np.array(value, dtype=np.float64),
    )
    return run_replay(compile_plan(plan), samples, start_ms=0, end_ms=END_S * 1000, **engine)


def test_a_lost_side_probe_stops_the_whole_load_where_that_is_said(engine):
    run = ran(bath("load"), END_S, 600, 80.0, 20.0, **engine)
    assert switches(run) == [(0.0, "on"), (900.0, "off")], "in the steam, for a thermometer"


def test_a_lost_side_probe_stops_only_its_rules_where_that_is_said(engine):
    run = ran(bath("rule"), END_S, 600, 80.0, 20.0, **engine)
    assert switches(run) == [(0.0, "on")]


def test_a_rule_on_the_lost_probe_asks_no_more(engine):
    """Hot and dry: its last reading would keep it on for ever; five minutes after it lets go."""
    run = ran(bath("rule"), END_S, 600, 20.0, 30.0, **engine)
    assert switches(run) == [(0.0, "on"), (900.0, "off")]


def test_when_none_is_left_the_load_goes_to_its_state(engine):
    run = ran(bath("rule", "on"), 1200, 600, 20.0, 20.0, **engine)
    assert switches(run) == [(1500.0, "on")], "five minutes after the last of both"


def test_a_side_probe_stops_nothing_else_where_the_other_has_a_fault_rule_of_its_own(engine):
    """As the starting point of a fan in steps makes one: in the steam it runs on."""
    plan = bath("rule")
    own = Rule(id="own", load="fan", priority="fault", want="on", probe="rh", after_s=300.0)
    plan = plan.model_copy(update={"rules": (own, *plan.rules)})
    assert switches(ran(plan, END_S, 600, 80.0, 20.0, **engine)) == [(0.0, "on")]
    assert switches(ran(plan, 600, 600, 20.0, 20.0, **engine)) == [(900.0, "on")]
    assert probe_words(plan, plan.loads[0], "air") == "only the rules on it stop, after 5 min"


def test_page_and_sheet_say_which(engine):
    del engine
    whole, each = bath("load"), bath("rule")
    assert lost_probe_words(whole, whole.loads[0]) == "Off after 5 min"
    assert lost_probe_words(each, each.loads[0]) == "only the rules on it stop, after 5 min"
    said = " ".join(text for _, text in load_sentences(each, each.loads[0]))
    assert "only the rules on it become inactive" in said
    assert "Off when none of" in said
    new = new_load(load_id="x", name="X", place="room", kind="relay")
    assert new.on_sensor_fault.each == "rule", "one lost side probe switches nothing off unasked"
