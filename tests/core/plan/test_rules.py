"""Rules taken apart and put together, moved inside their level; starting points begin a load."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.plans import one_band

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan import conditions as con
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import Rule
from aldea.core.plan.rule_edits import moved_rule, put_rule, switched, without_rule
from aldea.core.plan.rule_parts import OnlyWhile, RuleParts, put_together, taken_apart
from aldea.core.plan.starting_points import POINTS, starting_points, with_starting_point
from aldea.core.rules.findings import rule_findings
from aldea.core.words.rules import load_sentences
from aldea.demo.mill import mill_plan

LEAVES = st.sampled_from(
    [
        con.Always(),
        con.ClockKnown(),
        con.Named(condition="wet"),
        con.Beyond(kind="above", probe="rh", value=70.0, hysteresis=2.0),
        con.InMode(mode="house", value="away"),
    ]
)
ROWS = st.builds(
    OnlyWhile,
    condition=LEAVES,
    reverse=st.booleans(),
    any_of=st.booleans(),
    hold_s=st.sampled_from([0.0, 300.0]),
)


def settled(parts: RuleParts) -> RuleParts:
    """Parts as a form has them: a group needs a row of it, and stands where it belongs."""
    rows = parts.rows
    among = parts.among and any(row.any_of for row in rows)
    ordered = sorted(rows, key=lambda row: row.any_of, reverse=among)
    whole_s = parts.whole_s if rows else 0.0
    return replace(parts, rows=tuple(ordered), among=among, whole_s=whole_s)


PARTS = st.builds(
    RuleParts,
    main=LEAVES,
    reverse=st.booleans(),
    on_s=st.sampled_from([0.0, 20.0]),
    off_s=st.sampled_from([0.0, 60.0]),
    for_s=st.sampled_from([None, 30.0]),
    rows=st.lists(ROWS, max_size=5).map(tuple),
    among=st.booleans(),
    whole_s=st.sampled_from([0.0, 120.0]),
).map(settled)


@given(PARTS)
def test_what_is_put_together_is_taken_apart_again(parts):
    again = taken_apart(put_together(parts))
    assert again == parts
    assert again is not None
    assert put_together(again) == put_together(parts)


def test_what_is_nested_deeper_than_a_form_is_left_whole():
    deep = con.Every(of=(con.Always(), con.Every(of=(con.Always(), con.ClockKnown()))))
    assert taken_apart(deep) is None
    two = con.Every(of=(con.Always(), con.Some(of=(con.Always(),)), con.Some(of=(con.Always(),))))
    assert taken_apart(two) is None
    inner = con.Some(of=(con.Always(), con.Every(of=(con.Always(), con.ClockKnown()))))
    assert taken_apart(inner) is None


def test_one_of_several_has_a_form_and_so_has_what_must_hold_together():
    """Motion for two minutes and the window open, both for five minutes; or the clock is known."""
    either = con.Some(of=(con.Always(), con.ClockKnown()))
    parts = taken_apart(con.Lasting(of=either, on_s=300.0))
    assert parts is not None
    assert (parts.among, parts.whole_s, len(parts.rows)) == (True, 300.0, 1)
    assert put_together(parts) == con.Lasting(of=either, on_s=300.0)


def three():
    plan = one_band()
    more = [
        Rule.model_validate(
            {
                "id": key,
                "load": "fan",
                "priority": priority,
                "want": "off",
                "condition": con.Always(),
            }
        )
        for key, priority in (("a", "demand"), ("t", "trip"), ("b", "demand"))
    ]
    for rule in more:
        plan = put_rule(plan, rule)
    return plan


def order(plan) -> list[str]:
    return [rule.id for rule in plan.rules]


def test_a_rule_moves_inside_its_level_and_never_out_of_it():
    plan = three()
    assert order(plan) == ["band", "a", "t", "b"]
    assert order(moved_rule(plan, "b", -1)) == ["band", "b", "t", "a"]
    assert order(moved_rule(plan, "band", -1)) == order(plan)
    assert order(moved_rule(plan, "t", 1)) == order(plan)
    assert order(moved_rule(moved_rule(plan, "a", 1), "a", -1)) == order(plan)
    assert order(moved_rule(plan, "b", -2)) == ["b", "band", "t", "a"]
    assert order(moved_rule(plan, "b", -99)) == ["b", "band", "t", "a"], "no further than its end"


def test_switching_and_taking_out():
    plan = three()
    off = switched(plan, "a")
    assert [rule.disabled for rule in off.rules] == [False, True, False, False]
    assert switched(off, "a") == plan
    assert order(without_rule(plan, "t")) == ["band", "a", "b"]
    with pytest.raises(NotFoundError):
        without_rule(plan, "nobody")


FITS = {
    "steps": "extractor",
    "leak": "inlet_valve",
    "drive": "skylight",
    "drier": "dehumidifier",
    "heater": "panel_heater",
    "stair": "night_lights",
    "dusk": "night_lights",
    "minute": "bench_outlet",
    "airing": "extractor",
}


@pytest.mark.parametrize("key", [point.key for point in POINTS])
def test_each_starting_point_begins_a_load_that_runs_and_says_what_it_assumes(key):
    bare = mill_plan().model_copy(
        update={"rules": (), "schedules": (), "conditions": (), "invariants": ()}
    )
    load = next(load for load in bare.loads if load.id == FITS[key])
    assert key in {point.key for point in starting_points(load)}
    made = with_starting_point(bare, load.id, key)
    check_plan(made)
    compile_plan(made)
    rules = made.rules_of(load.id)
    assert rules
    assert {rule.basis for rule in rules} == {"estimated"}
    assert all(rule.note for rule in rules)
    weights = {f.weight for f in rule_findings(made) if f.at.endswith(load.id)}
    assert "severe" not in weights
    after = next(one for one in made.loads if one.id == load.id)
    assert len(load_sentences(made, after)) >= len(rules) + 3
    rests = after.default_state.want in ("off", "shut")
    assert after.max_on_s is not None or load.load_class == "air" or not rests


def test_a_starting_point_says_what_the_house_lacks():
    plan = mill_plan().model_copy(update={"rules": ()})
    dry = plan.model_copy(
        update={"probes": tuple(p for p in plan.probes if p.quantity != "relative_humidity")}
    )
    with pytest.raises(InputError, match="no working probe of relative humidity"):
        with_starting_point(dry, "extractor", "steps")
    with pytest.raises(InputError, match="offered for this load"):
        with_starting_point(plan, "inlet_valve", "heater")
