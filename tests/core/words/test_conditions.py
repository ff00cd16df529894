"""Every kind of condition has a clause, and it says the figures that it stands on."""

from typing import get_args

import pytest
from tests.core.plans import one_band

from aldea.core.plan import conditions as con
from aldea.core.plan.derived import Derived, MoistAir, RateOf
from aldea.core.plan.document import Load
from aldea.core.plan.house_rules import Doorway, Mode
from aldea.core.plan.schedules import Schedule, Window
from aldea.core.words.conditions import condition_words

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
        "schedules": (
            Schedule(id="night", name="Night", windows=(Window(start="22:30", end="07:00"),)),
        ),
        "doorways": (Doorway(id="way", name="the hall", outer="a", inner="b"),),
        "conditions": (con.NamedCondition(id="wet", name="too wet", condition=con.Always()),),
    }
)  # fmt: skip
DRY = con.Beyond(kind="below", probe="rh", value=40.0)
CASES = [
    (con.Band(probe="rh", direction="rising", on_threshold=60.0, off_threshold=50.0,
              delay_on_s=30.0),
     "RH is 60 %RH or above, until 50 %RH or below (on delay 30 s)"),
    (con.Band(probe="rh", direction="falling", on_threshold=40.0, off_threshold=45.0,
              delay_on_s=30.0, delay_off_s=60.0),
     "RH is 40 %RH or below, until 45 %RH or above (on delay 30 s, off delay 60 s)"),
    (con.Beyond(kind="above", probe="rh", value=60.0, hysteresis=2.0),
     "RH is 60 %RH or above, until 58 %RH or below"),
    (con.Beyond(kind="above", probe="dew", value=12.0), "Dew point is 12 °C or above"),
    (con.Beyond(kind="above", probe="rise", value=2.0), "Rise is 2 %RH a minute or above"),
    (con.Difference(probe="rh", less="rh", on_threshold=5.0, off_threshold=2.0),
     "RH is at least 5 %RH above RH, until 2 %RH or less"),
    (con.Difference(probe="dew", less="dew", on_threshold=2.0, off_threshold=4.0),
     "Dew point is at most 2 K warmer than Dew point, until 4 K or more"),
    (con.Rate(probe="rh", over_s=300.0, on_threshold=1.5, off_threshold=0.5),
     "RH rises by 1.5 %RH/min or more over 5 min, until 0.5 %RH/min or less"),
    (con.Rate(probe="rh", over_s=300.0, on_threshold=-1.5, off_threshold=-0.5),
     "RH changes by −1.5 %RH/min or less over 5 min, until −0.5 %RH/min or more"),
    (con.Within(probe="rh", low=40.0, high=60.0), "RH is at least 40 %RH and below 60 %RH"),
    (con.Within(probe="rh", high=60.0), "RH is below 60 %RH"),
    (con.Within(probe="rh", low=60.0), "RH is at least 60 %RH"),
    (con.Within(probe="rh"), "RH has a valid reading"),
    (con.Tape(probe="rh", states=("wet", "short")), "RH is wet or short"),
    (con.Contact(probe="rh", closed=False), "RH is open"),
    (con.Presence(probe="rh", hold_s=90.0), "RH detects somebody, or did in the last 90 s"),
    (con.Dark(probe="rh", value=20.0, hysteresis=8.0, lamp="lamp", lamp_lx=23.0),
     "RH is 20 %RH or below, until 28 %RH or above (without Lamp’s own 23 lx)"),
    (con.Gas(probe="rh", ratio=1.5), "RH is at least 1.5 times clean air (a hint only)"),
    (con.Position(load="fan", state="open"), "Fan is open"),
    (con.CountAbove(doorway="way", value=0), "somebody is inside by the hall"),
    (con.CountAbove(doorway="way", value=3), "more than 3 people are inside by the hall"),
    (con.InWindow(schedule="night"), "the time is within “Night” (every day 22:30–07:00)"),
    (con.Sun(state="down", offset_min=-30.0),
     "the time is from 30 min before sunset to 30 min before sunrise"),
    (con.InMode(mode="m", value="away"), "House is “away”"),
    (con.LoadState(load="fan"), "Fan is on"),
    (con.LoadState(load="fan", state="missed"), "Fan has not done what was requested"),
    (con.LoadState(load="lamp", level=2), "Lamp is on pattern 2"),
    (con.QualityIs(probe="rh", among=("stale", "range")), "RH is stale or out of range"),
    (con.QualityIs(probe="rh", among=("good",)), "RH has a valid reading"),
    (con.ClockKnown(), "the clock is set"),
    (con.Always(), "always"),
    (con.Named(condition="wet"), "“too wet” is true"),
    (con.Lasting(of=DRY, on_s=300.0), "RH is 40 %RH or below (on delay 5 min)"),
    (con.Lasting(of=DRY, off_s=300.0), "RH is 40 %RH or below (off delay 5 min)"),
    (con.Lasting(of=con.Unless(of=DRY), on_s=300.0, off_s=60.0),
     ("for at least 5 min, with an off delay of 60 s, "
      "it is not true that RH is 40 %RH or below")),
    (con.Edge(of=DRY, for_s=20.0),
     "for 20 s from when RH is 40 %RH or below"),
    (con.Edge(of=con.Contact(probe="rh", closed=False), for_s=20.0),
     "for 20 s each time RH opens"),
    (con.Every(of=(con.Always(), con.Some(of=(DRY, con.ClockKnown())))),
     ("all of these are true:\n· always\n· any of these is true:"
      "\n\u2003· RH is 40 %RH or below\n\u2003· the clock is set")),
    (con.Lasting(of=con.Some(of=(DRY, con.ClockKnown())), on_s=20.0, off_s=60.0),
     ("any of these is true for 20 s (off delay 60 s):\n· RH is 40 %RH or below"
      "\n· the clock is set")),
    (con.Some(of=(DRY, con.ClockKnown())),
     "any of these is true:\n· RH is 40 %RH or below\n· the clock is set"),
    (con.Unless(of=DRY), "it is not true that RH is 40 %RH or below"),
    (con.Unless(of=con.InWindow(schedule="night")),
     "the time is outside “Night” (every day 22:30–07:00)"),
    (con.Unless(of=con.Presence(probe="rh", hold_s=600.0)),
     "RH has detected nobody for 10 min"),
    (con.Unless(of=con.Some(of=(DRY, con.ClockKnown()))),
     "none of these is true:\n· RH is 40 %RH or below\n· the clock is set"),
    (con.Unless(of=con.Every(of=(DRY, con.ClockKnown()))),
     "not all of these are true:\n· RH is 40 %RH or below\n· the clock is set"),
]  # fmt: skip


@pytest.mark.parametrize(("condition", "words"), CASES, ids=[words[:60] for _, words in CASES])
def test_the_clause_of_a_condition(condition, words):
    assert condition_words(PLAN, condition) == words


def test_no_kind_is_without_words_or_without_a_case():
    kinds = set(get_args(get_args(con.Condition)[0]))
    assert kinds == {type(condition) for condition, _ in CASES}
