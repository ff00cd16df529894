"""A mode that a schedule or a condition sets: once at its beginning and its end, as a press would.

The instants are worked out by hand; Night begins at 00:02 and ends at 00:04 UTC.
"""

import pytest
from tests.core.engine.runs import ENGINES
from tests.core.plans import one_band, samples_of

from aldea.core.base.errors import PlanError
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.inputs import Inputs, PowerCut
from aldea.core.engine.replay import run_replay
from aldea.core.plan import conditions as con
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import ButtonPress, Control, OnlyIn
from aldea.core.plan.document import Rule
from aldea.core.plan.house_rules import Mode, ModeChange
from aldea.core.plan.mode_values import with_values_renamed
from aldea.core.plan.schedules import Schedule, Window

NIGHT = ModeChange(when=con.InWindow(schedule="night"), value="night", end_value="day")
WET = ModeChange(when=con.Named(condition="wet"), value="airing")


@pytest.fixture(params=list(ENGINES.values()), ids=list(ENGINES))
def engine(request):
    return request.param


def house(*changes, retained=True, rules=()):
    """A mode, a schedule, a named condition at 60/50 %RH; a button sets airing."""
    base = one_band()
    return base.model_copy(
        update={
            "modes": (
                Mode(id="m", name="House mode", values=("day", "night", "airing"),
                     retained=retained, changes=changes),
            ),
            "schedules": (
                Schedule(id="night", name="Night", windows=(Window(start="00:02", end="00:04"),)),
            ),
            "conditions": (
                con.NamedCondition(
                    id="wet", name="Too wet",
                    condition=con.Beyond(kind="above", probe="rh", value=60.0, hysteresis=10.0),
                ),
            ),
            "controls": (
                Control(
                    id="key", name="Key", place="room", kind="push_button",
                    presses=(
                        ButtonPress(press="short", does="mode", mode="m", value="airing"),
                        ButtonPress(press="long", load="fan", does="on",
                                    only=OnlyIn(mode="m", value="day"), ends_with_mode=True,
                                    ends_by="automatic"),
                    ),
                ),
            ),
            "rules": rules,
        }
    )  # fmt: skip


def ran(plan, *, pairs=(), levels=(), cuts=(), clock=(), end_s=400, **engine):
    return run_replay(
        compile_plan(plan, every_probe=True), samples_of(pairs), start_ms=0, end_ms=end_s * 1000,
        inputs=Inputs(levels=list(levels), cuts=list(cuts), clock=list(clock)), **engine,
    )  # fmt: skip


def changes(run):
    """Seconds, from, to and author of each change of the mode."""
    values = run.compiled.plan.modes[0].values
    return [
        (e.t_ms / 1000, values[e.state_from], values[e.state_to], run.author(e.author))
        for e in run.events()
        if e.event_type == lay.EVENT_MODE
    ]


def fan(run):
    return [
        (e.t_ms / 1000, e.state_to)
        for e in run.events()
        if e.event_type == lay.EVENT_LOAD and e.state_from != e.state_to
    ]


def press(at_s, for_s=0.2):
    return [
        (round(at_s * 1000), "control:key", 1),
        (round((at_s + for_s) * 1000), "control:key", 0),
    ]


def test_a_schedule_sets_the_mode_at_its_beginning_and_its_end(engine):
    run = ran(house(NIGHT), **engine)
    assert changes(run) == [(120.0, "day", "night", "night"), (240.0, "night", "day", "night")]


def test_what_a_person_sets_meanwhile_stays_until_the_next_beginning_or_end(engine):
    run = ran(house(NIGHT), levels=[*press(150.0), *press(300.0)], **engine)
    assert [row[:3] for row in changes(run)] == [
        (120.0, "day", "night"), (151.0, "night", "airing"),
        (240.0, "airing", "day"), (301.0, "day", "airing"),
    ]  # fmt: skip


def test_a_mode_without_an_end_value_stays_when_the_condition_ends(engine):
    pairs = [(10, 40.0), (30, 61.0), (60, 45.0), (90, 62.0)]
    run = ran(house(WET), pairs=pairs, levels=press(70.0), **engine)
    assert changes(run) == [(30.0, "day", "airing", "wet")]


def test_rules_see_the_mode_in_the_scan_in_which_it_is_set(engine):
    """On exactly from 00:02 to 00:04, by a rule on the mode; and never for an instant before."""
    on_night = Rule(id="r", load="fan", priority="demand",
                    condition=con.InMode(mode="m", value="night"))  # fmt: skip
    assert fan(ran(house(NIGHT, rules=(on_night,)), **engine)) == [(120.0, 1), (240.0, 0)]
    never = Rule(
        id="r", load="fan", priority="demand",
        condition=con.Every(
            of=(con.InWindow(schedule="night"), con.InMode(mode="m", value="day"))
        ),
    )  # fmt: skip
    assert fan(ran(house(NIGHT, rules=(never,)), **engine)) == []


def test_an_override_that_ends_with_the_mode_ends_when_a_schedule_leaves_it(engine):
    run = ran(house(NIGHT), levels=press(100.0, for_s=1.5), **engine)
    assert [at for at, _ in fan(run)][-1] == 120.0
    assert [to for _, to in fan(run)] == [1, 0]


@pytest.mark.parametrize(("policy", "after"), [("keep", []), ("set", [("airing", "night")])])
def test_after_a_power_cut_inside_the_window_the_plan_says_which(engine, policy, after):
    """Somebody chose airing in the night, then the power went: kept, or set again."""
    change = NIGHT.model_copy(update={"after_power_cut": policy})
    run = ran(
        house(change), levels=press(150.0), cuts=[PowerCut(from_ms=170_000, to_ms=180_000)],
        **engine,
    )  # fmt: skip
    seen = [row[:3] for row in changes(run)]
    assert seen[:2] == [(120.0, "day", "night"), (151.0, "night", "airing")]
    assert [row[1:] for row in seen[2:-1]] == after
    assert (seen[-1][0], seen[-1][2]) == (240.0, "day")


@pytest.mark.parametrize(("policy", "mode"), [("keep", "day"), ("set", "night")])
def test_a_beginning_that_falls_into_a_cut(engine, policy, mode):
    change = NIGHT.model_copy(update={"after_power_cut": policy})
    in_night = Rule(id="r", load="fan", condition=con.InMode(mode="m", value="night"))
    run = ran(
        house(change, rules=(in_night,)), cuts=[PowerCut(from_ms=100_000, to_ms=150_000)], **engine
    )
    assert fan(run) == ([(150.0, 1), (240.0, 0)] if mode == "night" else [])


def test_of_two_that_begin_together_the_last_in_the_list_decides(engine):
    second = ModeChange(when=con.InWindow(schedule="night"), value="airing")
    run = ran(house(NIGHT, second), **engine)
    assert [row[:3] for row in changes(run)] == [
        (120.0, "day", "night"), (120.0, "night", "airing"), (240.0, "airing", "day"),
    ]  # fmt: skip


def test_a_condition_on_a_mode_and_a_value_that_is_not_there_are_refused():
    circle = house(WET).model_copy(
        update={
            "conditions": (
                con.NamedCondition(id="wet", condition=con.InMode(mode="m", value="day")),
            )
        }
    )
    for plan, text in (
        (circle, "reads no mode"),
        (house(WET.model_copy(update={"value": "dusk"})), "day, night, airing"),
        (house(WET.model_copy(update={"value": None})), "for one of them"),
        (house(WET.model_copy(update={"when": con.Named(condition="gone")})), "condition"),
        (house(NIGHT.model_copy(update={"when": con.InWindow(schedule="x")})), "a schedule"),
    ):
        with pytest.raises(PlanError, match=text):
            check_plan(plan)


def test_a_renamed_value_is_renamed_in_what_sets_it():
    plan = with_values_renamed(house(NIGHT), house(NIGHT).modes[0], ("day", "dark", "airing"))
    assert plan.modes[0].changes[0].value == "dark"
    assert plan.modes[0].changes[0].end_value == "day"
