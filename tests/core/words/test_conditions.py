"""Every kind of condition has a clause, and it says the figures that it stands on."""

from typing import get_args

import pytest
from tests.core.plans import one_band

from aldea.core.plan import conditions as con
from aldea.core.plan.derived import Derived, MoistAir, RateOf
from aldea.core.plan.document import Load
from aldea.core.plan.house_rules import Doorway, Mode
from aldea.core.plan.schedules import Schedule
from aldea.core.words.conditions import WORDS, condition_words

BASE = one_band()
PLAN = BASE.model_copy(
    update={
        "loads": (
            *BASE.loads,
            Load(id="lamp", name="Lamp", place="room", kind="indicator", load_class="light"),
        ),
        "derived": (
            Derived(id="dew", name="Dew point",
                    made=MoistAir(kind="dew_point", temperature="rh", humidity="rh")),
            Derived(id="rise", name="Rise", made=RateOf(probe="rh", over_s=60.0)),
        ),
        "modes": (Mode(id="m", name="House", values=("home", "away")),),
        "schedules": (Schedule(id="night", name="Night"),),
        "doorways": (Doorway(id="way", name="the hall", outer="a", inner="b"),),
        "conditions": (con.NamedCondition(id="wet", name="too wet", condition=con.Always()),),
    }
)  # fmt: skip
DRY = con.Beyond(kind="below", probe="rh", value=40.0)
CASES = [
    (con.Band(probe="rh", direction="rising", on=60.0, off=50.0, delay_on_s=30.0),
     "RH is above 60 %RH, until it is below 50 (30 s after it begins)"),
    (con.Beyond(kind="above", probe="rh", value=60.0, gap=2.0),
     "RH is at or above 60 %RH, with a gap of 2"),
    (con.Beyond(kind="above", probe="dew", value=12.0), "Dew point is at or above 12 °C"),
    (con.Beyond(kind="above", probe="rise", value=2.0), "Rise is at or above 2 %RH a minute"),
    (con.Difference(probe="rh", less="rh", on=5.0, off=2.0),
     "RH less RH is above 5 %RH, until 2"),
    (con.Rate(probe="rh", over_s=300.0, on=1.5, off=0.5),
     "RH rises by 1.5 %RH a minute or more, over 5 min"),
    (con.Within(probe="rh", low=40.0, high=60.0), "RH is from 40 to under 60 %RH"),
    (con.Within(probe="rh", high=60.0), "RH is under 60 %RH"),
    (con.Within(probe="rh", low=60.0), "RH is 60 %RH or more"),
    (con.Tape(probe="rh", states=("wet", "short")), "RH is wet or short"),
    (con.Contact(probe="rh", closed=False), "RH is open"),
    (con.Presence(probe="rh", hold_s=90.0), "RH sees somebody, and 90 s after"),
    (con.Dark(probe="rh", value=20.0, lamp="lamp"),
     "RH is at or below 20 %RH without the light of Lamp"),
    (con.Gas(probe="rh", ratio=1.5), "RH reads 1.5 times more than clean air (a hint only)"),
    (con.Position(load="fan", state="open"), "Fan is open"),
    (con.CountAbove(doorway="way", value=0), "somebody is in by the hall"),
    (con.CountAbove(doorway="way", value=3), "more than 3 came in by the hall"),
    (con.InWindow(schedule="night"), "the schedule “Night” is on"),
    (con.Sun(state="down", offset_min=-30.0), "the sun is down, 30 min before"),
    (con.InMode(mode="m", value="away"), "House is “away”"),
    (con.LoadState(load="fan"), "Fan is on"),
    (con.LoadState(load="fan", state="missed"), "Fan did not do what it was told"),
    (con.LoadState(load="lamp", level=2), "Lamp is in pattern 2"),
    (con.QualityIs(probe="rh", among=("stale", "range")), "the readings of RH are stale or range"),
    (con.QualityIs(probe="rh", among=("good",)), "RH gives good readings"),
    (con.ClockKnown(), "the clock is known"),
    (con.Always(), "always"),
    (con.Named(condition="wet"), "“too wet” holds"),
    (con.Lasting(of=DRY, on_s=300.0), "RH is at or below 40 %RH for 5 min"),
    (con.Edge(of=DRY, for_s=20.0), "for 20 s after RH is at or below 40 %RH"),
    (con.Every(of=(con.Always(), con.Some(of=(DRY, con.ClockKnown())))),
     "always and (RH is at or below 40 %RH or the clock is known)"),
    (con.Some(of=(DRY, con.ClockKnown())), "RH is at or below 40 %RH or the clock is known"),
    (con.Unless(of=DRY), "RH is not at or below 40 %RH"),
    (con.Unless(of=con.Some(of=(DRY, con.ClockKnown()))),
     "not (RH is at or below 40 %RH or the clock is known)"),
]  # fmt: skip


@pytest.mark.parametrize(("condition", "words"), CASES, ids=[words for _, words in CASES])
def test_the_clause_of_a_condition(condition, words):
    assert condition_words(PLAN, condition) == words


def test_no_kind_is_without_words_or_without_a_case():
    kinds = set(get_args(get_args(con.Condition)[0]))
    assert set(WORDS) == kinds == {type(condition) for condition, _ in CASES}
