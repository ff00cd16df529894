"""What rules share, in words: nothing of a schedule, a mode or a must-never is left out."""

from hypothesis import given
from hypothesis import strategies as st

from aldea.core.plan.schedules import (
    EVERY_DAY,
    DateSpan,
    DaysOut,
    Moments,
    Schedule,
    SunEdge,
    Window,
)
from aldea.core.words.house_rules import shared_rules
from aldea.core.words.schedules import days_words, schedule_sentences
from aldea.demo.mill import mill_plan

MILL = mill_plan()


def test_every_shared_rule_of_the_mill_stands_with_its_content():
    found = {title: dict(rows) for title, rows in shared_rules(MILL)}
    for schedule in MILL.schedules:
        text = found["Schedules"][schedule.name]
        times = [
            edge for w in schedule.windows for edge in (w.start, w.end) if isinstance(edge, str)
        ]
        times += [at for group in schedule.moments for at in group.at]
        assert all(time in text for time in times), schedule.name
    assert "Not on 8 Dec 2025." in found["Schedules"]["Studio open"]
    for mode in MILL.modes:
        assert all(value in found["Modes"][mode.name] for value in mode.values)
    for group in MILL.groups:
        names = {load.name for load in MILL.loads if load.id in group.members}
        assert all(name in found["Groups"][group.name] for name in names)
    assert len(found["What must never happen"]) == len(MILL.invariants)
    assert len(found["Named conditions"]) == len(MILL.conditions)


@given(days=st.sets(st.sampled_from(EVERY_DAY), min_size=1, max_size=6))
def test_days_are_told_so_that_each_can_be_read_back(days):
    ordered = tuple(day for day in EVERY_DAY if day in days)
    read: set[str] = set()
    names = [day.title() for day in EVERY_DAY]
    for part in days_words(ordered).replace(" and ", ", ").split(", "):
        first, _, last = part.partition(" to ")
        span = range(names.index(first), names.index(last or first) + 1)
        read.update(EVERY_DAY[n] for n in span)
    assert read == days
    assert days_words(EVERY_DAY) == "every day"


def test_a_schedule_says_all_that_it_does():
    made = Schedule(
        id="s",
        name="S",
        windows=(Window(start="22:00", end=SunEdge(at="sunrise", offset_min=-30)),),
        moments=(Moments(at=("07:00",), days=("sat", "sun")),),
        dates=(DateSpan(start="2026-12-24T18:00", end="2026-12-25T02:00"),),
        for_s=600.0,
        except_dates=("2026-12-08",),
        except_spans=(DaysOut(first="2024-12-24", last="2024-01-06", yearly=True),),
        catch_up=False,
    )
    assert schedule_sentences(made) == [
        "From 22:00 to 30 min before sunrise the next day, every day.",
        "At 07:00 for 10 min, Sat, Sun.",
        "Once from 2026-12-24 18:00 to 2026-12-25 02:00.",
        "Not on 8 Dec 2026 and 24 Dec to 6 Jan of every year.",
        "A time that passes without power or a set clock is skipped.",
    ]
