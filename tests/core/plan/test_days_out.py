"""Dates that a schedule leaves out: single, in spans, every year; and a mode's value renamed."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.engine.calendar import moments_ms, window_spans
from aldea.core.plan.document import House
from aldea.core.plan.mode_values import renamed_values, with_values_renamed
from aldea.core.plan.schedules import DaysOut, Moments, Schedule, Window
from aldea.demo.mill import mill_plan

DAYS = st.dates(date(2025, 1, 1), date(2028, 12, 31))


@given(first=DAYS, length=st.integers(0, 300), day=DAYS)
def test_a_span_holds_from_its_first_to_its_last_date(first, length, day):
    last = first + timedelta(days=length)
    once = DaysOut(first=first.isoformat(), last=last.isoformat())
    assert once.holds(day) == (first <= day <= last)


@given(day=DAYS)
def test_every_year_passes_the_new_year(day):
    winter = DaysOut(first="2024-12-24", last="2024-01-06", yearly=True)
    near = (day.month, day.day) >= (12, 24) or (day.month, day.day) <= (1, 6)
    assert winter.holds(day) == near


def test_nothing_happens_on_a_day_that_is_left_out():
    out = DaysOut(first="2024-12-25", last="2024-12-25", yearly=True)
    schedule = Schedule(
        id="s",
        name="S",
        windows=(Window(start="08:00", end="09:00"),),
        moments=(Moments(at=("12:00",)),),
        except_spans=(out,),
    )
    days = [date(2026, 12, 24) + timedelta(days=n) for n in range(3)]
    house = House(name="X", time_zone="UTC")
    assert len(window_spans(schedule, house, days, "UTC")) == 2
    assert len(moments_ms(schedule, days, "UTC")) == 2


@pytest.mark.parametrize(
    ("before", "after", "found"),
    [
        (("automatic", "by hand"), ("auto", "by hand"), {"automatic": "auto"}),
        (("a", "b"), ("b", "a"), {}),
        (("a", "b"), ("a", "b", "c"), {}),
        (("a", "b"), ("c", "d"), {"a": "c", "b": "d"}),
    ],
)
def test_a_value_in_the_place_of_one_that_is_gone_is_the_same_under_another_name(
    before, after, found
):
    assert renamed_values(before, after) == found


def test_a_renamed_value_is_renamed_wherever_it_is_named():
    plan = mill_plan()
    mode = next(mode for mode in plan.modes if "away" in mode.values)
    values = tuple("empty house" if value == "away" else value for value in mode.values)
    made = with_values_renamed(plan, mode, values)
    before, text = plan.model_dump_json(), made.model_dump_json()
    assert before.count('"value":"away"') > 0
    assert '"value":"away"' not in text
    assert text.count('"value":"empty house"') == before.count('"value":"away"')
    assert values in [m.values for m in made.modes]
    back = next(m for m in made.modes if m.id == mode.id)
    assert with_values_renamed(made, back, mode.values) == plan
