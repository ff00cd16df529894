"""Rules whose probe has died: nothing is heated, fed or moved by its last reading."""

import pytest
from tests.core.engine.runs import ENGINES, switches
from tests.core.plans import one_band, samples_of

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.conditions import Beyond, Every, InMode, Lasting, Unless
from aldea.core.plan.document import OnSensorFault, Rule
from aldea.core.plan.starting_points import starting_points, with_starting_point
from aldea.core.plan.without_reading import Result, with_result, with_usual_result
from aldea.core.rules.findings import rule_findings
from aldea.core.words.conditions import condition_words
from aldea.demo.mill import mill_plan

HOUR_S = 3600


@pytest.fixture(params=list(ENGINES.values()), ids=list(ENGINES))
def engine(request):
    return request.param


def by_guard(priority: str, want: str, condition, *, usual: bool):
    """A fan of class water under a rule that is stronger than its sensor fault rule."""
    plan = one_band(stale_after_s=30.0, on_sensor_fault=OnSensorFault(after_s=30.0, state="off"))
    rule = Rule.model_validate(
        {"id": "guard", "load": "fan", "priority": priority, "want": want, "condition": condition}
    )
    made = with_usual_result(plan.loads[0], rule) if usual else rule
    return plan.model_copy(update={"rules": (made, *plan.rules)})


def until_it_dies(value: float, end_s: int):
    """A reading every 10 s; then the probe is dead for ever."""
    return samples_of([(t, value) for t in range(0, end_s + 1, 10)])


def ran(plan, samples, **engine):
    return run_replay(compile_plan(plan), samples, start_ms=0, end_ms=3 * HOUR_S * 1000, **engine)


def test_a_rule_that_switches_on_lets_go_a_minute_after_the_last_reading(engine):
    """Under 20 %RH it runs; the last sample comes at 600 s."""
    dry = Beyond(kind="below", probe="rh", value=20.0)
    kept = ran(by_guard("interlock", "on", dry, usual=False), until_it_dies(10, 600), **engine)
    assert switches(kept) == [(0.0, "on")], "it runs for ever by a dead probe"
    safe = ran(by_guard("interlock", "on", dry, usual=True), until_it_dies(10, 600), **engine)
    assert switches(safe) == [(0.0, "on"), (660.0, "off")]


def test_a_guard_that_is_blind_for_a_quarter_of_an_hour_stops_its_load(engine):
    """Nothing else would: its own fault rule keeps it, and the band asked for it at the end."""
    wet = Beyond(kind="above", probe="rh", value=90.0)
    plan = by_guard("interlock", "off", wet, usual=True)
    keeps = plan.loads[0].model_copy(
        update={"on_sensor_fault": OnSensorFault(after_s=0.0, state="keep")}
    )
    plan = plan.model_copy(update={"loads": (keeps,)})
    assert switches(ran(plan, until_it_dies(70, 600), **engine)) == [(0.0, "on"), (1500.0, "off")]


def test_under_a_not_the_opposite_is_stated_so_that_the_whole_counts_the_same(engine):
    moist = Unless(of=Beyond(kind="above", probe="rh", value=20.0))
    safe = ran(by_guard("interlock", "on", moist, usual=True), until_it_dies(10, 600), **engine)
    assert switches(safe) == [(0.0, "on"), (660.0, "off")]


def test_every_part_on_a_value_is_stated_once_and_nothing_else_is_touched():
    above = Beyond(kind="above", probe="rh", value=60.0)
    own = Beyond(kind="below", probe="rh", value=20.0, without_reading="true")
    home = InMode(mode="m", value="home")
    whole = Every(of=(Lasting(of=above, on_s=5.0), Unless(of=above), own, home))
    made = with_result(whole, Result(counts="false", after_s=60.0))
    stated = above.model_copy(update={"without_reading": "false", "unchanged_for_s": 60.0})
    under_not = above.model_copy(update={"without_reading": "true", "unchanged_for_s": 60.0})
    assert made == Every(of=(Lasting(of=stated, on_s=5.0), Unless(of=under_not), own, home))


def test_the_sentence_says_what_is_stated_and_nothing_of_what_is_kept():
    plan = one_band()
    above = Beyond(kind="above", probe="rh", value=60.0)
    assert condition_words(plan, above) == "RH is 60 %RH or above"
    stated = with_result(above, Result(counts="false", after_s=600.0))
    said = condition_words(plan, stated)
    assert said == "RH is 60 %RH or above (without a valid reading: false after 10 min)"


def test_no_starting_point_puts_in_a_rule_that_acts_on_a_dead_probe():
    plan, tried = mill_plan(), 0
    for load in plan.loads:
        bare = plan.model_copy(update={"rules": tuple(c for c in plan.rules if c.load != load.id)})
        for point in starting_points(load):
            keys = [f.key for f in rule_findings(with_starting_point(bare, load.id, point.key))]
            assert not [key for key in keys if key.startswith("unread-")], point.key
            tried += 1
    assert tried >= 8


def test_the_mill_house_acts_on_no_dead_probe():
    assert not [f.key for f in rule_findings(mill_plan()) if f.key.startswith("unread-")]
