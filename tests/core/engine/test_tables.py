"""The tables of the engine: what does not fit is refused, a day has room, a board is small."""

import ctypes
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from benchmarks.engine import board_state_bytes
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.base.errors import InputError
from aldea.core.engine.calendar import instant_ms
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.compiling.moments import most_in_a_day
from aldea.core.engine.tables.rows import I8, I16, I64, Real, Row, cells_of, row, table_of
from aldea.core.plan.schedules import EVERY_DAY, Moments, Schedule
from aldea.demo.mill import mill_plan

ZONES = ("Europe/Madrid", "America/New_York", "Australia/Lord_Howe", "Africa/Casablanca", "UTC")


@row
class Odd(Row):
    """Columns that would leave holes as they are written."""

    flag: I8
    at_ms: I64
    code: I16
    value: Real


def test_columns_stand_the_widest_first_and_leave_no_hole_between():
    names = [name for name, *_ in Odd._fields_]
    assert names == ["at_ms", "value", "code", "flag"]
    places: Any = Odd  # the class tells where a column stands
    assert places.flag.offset == 18
    assert ctypes.sizeof(Odd) == 24, "whole words, for the next row"


@pytest.mark.parametrize(("column", "value"), [("flag", 128), ("code", -32_769), ("at_ms", 2**63)])
def test_a_figure_that_its_column_cannot_hold_is_refused_in_words(column, value):
    with pytest.raises(InputError, match=f"{value} is more than the engine counts.*Divide"):
        Odd(**{column: value})


@pytest.mark.parametrize(("width", "values"), [(I8, [200]), (I16, [0, 40_000]), (I64, [2**64])])
def test_cells_that_are_too_narrow_are_refused(width, values):
    with pytest.raises(InputError, match="Divide the house"):
        cells_of(width, values)


def test_a_column_that_is_not_there_is_refused():
    with pytest.raises(TypeError, match="nothing"):
        Odd(nothing=1)


def test_a_copied_row_is_another_one():
    first = table_of(Odd, [Odd(code=7)])
    copy = first[0].copied()
    copy.code = 8
    assert (first[0].code, copy.code) == (7, 8)


def test_the_state_of_the_mill_on_a_board_is_small():
    assert board_state_bytes(compile_plan(mill_plan())) < 40_000


CLOCK = st.builds("{:02d}:{:02d}".format, st.integers(0, 23), st.sampled_from([0, 30, 59]))
TIMES = CLOCK | st.just("24:00")


@settings(max_examples=60)
@given(
    st.lists(
        st.tuples(
            st.lists(st.sampled_from(EVERY_DAY), min_size=1, unique=True),
            st.lists(TIMES, min_size=1, max_size=4, unique=True),
        ),
        min_size=1,
        max_size=3,
    ),
    st.sampled_from(ZONES),
    st.sampled_from([datetime(2026, 3, 20, tzinfo=UTC), datetime(2026, 10, 18, tzinfo=UTC)]),
)
def test_no_day_has_more_moments_than_there_is_room_for(groups, zone, start):
    """Every 24 hours of three weeks, over a change of the clock, counted one by one."""
    schedule = Schedule(
        id="s",
        name="s",
        moments=tuple(Moments(days=tuple(days), at=tuple(at)) for days, at in groups),
        for_s=60.0,
    )
    instants = sorted(
        {
            instant_ms(day, at, zone)
            for after in range(21)
            for day in [(start + timedelta(days=after)).date()]
            for group in schedule.moments
            if EVERY_DAY[day.weekday()] in group.days
            for at in group.at
        }
    )
    most = max(sum(first <= other < first + 86_400_000 for other in instants) for first in instants)
    assert most <= most_in_a_day(schedule)
