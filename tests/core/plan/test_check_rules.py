"""What a rule must not say: each refusal at its path, with what is allowed."""

import pytest
from tests.core.plans import one_band

from aldea.core.base.errors import PlanError
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.layout import WANT_LEVEL, WANT_OFF
from aldea.core.plan import conditions as con
from aldea.core.plan.check import plan_problems
from aldea.core.plan.derived import Derived, Statistic
from aldea.core.plan.document import Averaging, Rule, Smoothing, Wanted
from aldea.core.plan.house_rules import Doorway, Exclusive, Memory, Mode
from aldea.core.plan.reading import readers_of, stand_on_load
from aldea.core.plan.schedules import DateSpan, Schedule, Window
from aldea.core.plan.text import plan_text, read_plan
from aldea.demo.mill import mill_plan

BASE = one_band()
ALWAYS = con.Always()


def with_rule(**fields):
    rule = {"id": "more", "load": "fan", "condition": ALWAYS, **fields}
    return BASE.model_copy(update={"rules": (*BASE.rules, Rule(**rule))})


def on(condition):
    return with_rule(condition=condition)


def with_parts(**parts):
    return BASE.model_copy(update=parts)


def named(*pairs):
    rows = tuple(con.NamedCondition(id=key, condition=condition) for key, condition in pairs)
    return with_parts(conditions=rows)


def derived(**members):
    made = tuple(
        Derived(id=key, name=key, made=Statistic(kind="mean", of=of)) for key, of in members.items()
    )
    return with_parts(derived=made)


REFUSED = [
    (with_rule(load="gone"), "/rules/1/load"),
    (with_rule(condition=None), "/rules/1/condition"),
    (with_rule(condition=None, priority="fault", probe="gone"), "/rules/1/probe"),
    (with_rule(want="pulse"), "/rules/1/pulse_s"),
    (with_rule(want="step"), "/rules/1/level"),
    (with_rule(want="percent"), "/rules/1/percent"),
    (on(con.Beyond(kind="above", probe="gone", value=1.0)), "/rules/1/condition/probe"),
    (on(con.Difference(probe="rh", less="gone", on_threshold=1.0, off_threshold=0.0)),
     "/rules/1/condition/less"),
    (on(con.LoadState(load="gone")), "/rules/1/condition/load"),
    (on(con.Dark(probe="rh", value=1.0, lamp="gone")), "/rules/1/condition/lamp"),
    (on(con.InMode(mode="gone", value="x")), "/rules/1/condition/mode"),
    (on(con.InWindow(schedule="gone")), "/rules/1/condition/schedule"),
    (on(con.CountAbove(doorway="gone")), "/rules/1/condition/doorway"),
    (on(con.Named(condition="gone")), "/rules/1/condition"),
    (on(con.Within(probe="rh", low=5.0, high=5.0)), "/rules/1/condition/high"),
    (on(con.Band(probe="rh", direction="rising", on_threshold=50.0, off_threshold=60.0)),
     "/rules/1/condition/off_threshold"),
    (on(con.Band(probe="rh", direction="rising", on_threshold=60.0, off_threshold=50.0,
                 entered=con.Setpoint(value=50.0, differential=4.0))),
     "/rules/1/condition/entered"),
    (named(("a", con.Named(condition="b")), ("b", con.Unless(of=con.Named(condition="a")))),
     "/conditions/0/condition"),
    (derived(one=("two",), two=("one", "rh")), "/derived/0"),
    (derived(one=("gone",)), "/derived/0"),
    (with_parts(schedules=(Schedule(id="s", name="s", windows=(Window(start="08:00",
                                                                        end="08:00"),)),)),
     "/schedules/0/windows/0/end"),
    (with_parts(schedules=(Schedule(id="s", name="s", dates=(DateSpan(
        start="2026-01-02T08:00", end="2026-01-01T08:00"),)),)), "/schedules/0/dates/0/end"),
    (with_parts(modes=(Mode(id="m", name="m", start="gone"),)), "/modes/0/start"),
    (with_parts(doorways=(Doorway(id="d", name="d", outer="rh", inner="rh"),)),
     "/doorways/0/inner"),
    (with_parts(doorways=(Doorway(id="d", name="d", outer="rh", inner="gone"),)),
     "/doorways/0/inner"),
    (with_parts(exclusive=(Exclusive(id="x", relays=("gone", "too")),)), "/exclusive/0/relays"),
    (with_parts(memory=Memory(fields=("load:gone",))), "/memory/fields/0"),
    (with_parts(probes=(BASE.probes[0].model_copy(
        update={"smoothing": Smoothing(tau_s=5.0), "averaging": Averaging(kind="mean", of=3)}),)),
     "/probes/0/averaging"),
    (named(("band", ALWAYS)), "/conditions/1/id"),
]  # fmt: skip


@pytest.mark.parametrize(("plan", "path"), REFUSED, ids=[path for _, path in REFUSED])
def test_a_rule_that_does_not_fit_is_refused_at_its_place(plan, path):
    found = list(plan_problems(plan))
    assert [problem.where for problem in found][:1] == [path]
    assert found[0].allowed


def test_an_offset_of_thirty_hours_is_refused_at_its_field():
    text = plan_text(on(con.Sun(state="down", offset_min=60.0))).replace("60.0", "1800.0")
    with pytest.raises(PlanError, match="offset_min"):
        read_plan(text)


@pytest.mark.parametrize(
    "idle", [Wanted(want="step", level=3), Wanted(want="pattern", level=1)], ids=["step", "pattern"]
)
def test_a_step_that_the_load_does_not_have_is_the_next_lower_one_to_the_compiler(idle):
    load = BASE.loads[0].model_copy(update={"default_state": idle})
    tables = compile_plan(BASE.model_copy(update={"loads": (load,)})).tables
    assert tables.rules[tables.loads[0].rest].want in (WANT_OFF, WANT_LEVEL + 1)


def test_a_plan_with_every_kind_of_rule_reads_back_as_it_was_written():
    nested = con.Every(of=(con.Unless(of=con.Lasting(of=ALWAYS, on_s=5.0)), con.Some(of=(ALWAYS,))))
    plan = on(nested)
    assert read_plan(plan_text(plan)) == plan


def test_who_reads_a_probe_and_who_stands_on_a_load():
    plan = with_parts(
        rules=(
            *BASE.rules,
            Rule(id="fault", load="fan", priority="fault", probe="rh"),
            Rule(id="seen", load="fan", condition=con.Presence(probe="rh")),
            Rule(id="other", load="fan", condition=ALWAYS),
        ),
        conditions=(
            con.NamedCondition(id="bad", condition=con.QualityIs(probe="rh", among=("stale",))),
            con.NamedCondition(id="runs", condition=con.LoadState(load="fan")),
        ),
        derived=(Derived(id="m", name="m", made=Statistic(kind="mean", of=("rh",))),),
        doorways=(Doorway(id="d", name="d", outer="rh", inner="x"),),
    )
    assert readers_of(plan, "rh") == ["band", "fault", "seen", "bad", "m", "d"]
    assert stand_on_load(plan, "fan") == ["runs"]


def test_ten_thousand_rules_on_one_load_are_refused_with_the_fix():
    plan = mill_plan()
    one = plan.rules_of("dehumidifier")[0]
    many = tuple(one.model_copy(update={"id": f"c{i}"}) for i in range(10_000))
    (problem,) = plan_problems(plan.model_copy(update={"rules": many}))
    assert problem.where == "/rules"
    assert "10\u202f000 rules on dehumidifier" in problem.got
    assert "named condition" in problem.fix
    few = plan.model_copy(update={"rules": many[:200]})
    assert not list(plan_problems(few))
