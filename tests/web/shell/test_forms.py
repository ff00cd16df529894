"""Fields as people type them."""

import pytest
from hypothesis import strategies as st

from aldea.core.base.instants import ms_of
from aldea.demo.mill import NOW
from aldea.web.shell.forms import Fields

MADRID = "Europe/Madrid"


odd = st.one_of(st.none(), st.integers(-(10**15), 10**15))


@pytest.mark.parametrize(
    ("typed", "value"),
    [("62", 62.0), (" 62,5 ", 62.5), ("−3", -3.0), ("1e1", 10.0)],
)
def test_numbers_are_read_as_people_type_them(typed, value):
    assert Fields({"on": typed}).number("on", low=-5, high=100) == value


@pytest.mark.parametrize("typed", ["", "x", "nan", "inf", "-inf", "1e999", "101"])
def test_what_is_no_number_inside_the_limits_is_refused(typed):
    fields = Fields({"on": typed})
    fields.number("on", low=0, high=100, unit="%RH")
    assert "0 to 100 %RH" in fields.errors["on"]


def test_a_moment_is_the_house_s_wall_clock():
    fields = Fields({"at": "2025-11-13T19:42", "odd": "soon", "zoned": "2025-11-13T19:42+01:00"})
    assert fields.moment_ms("at", MADRID) == ms_of(NOW)
    assert fields.moment_ms("odd", MADRID) is None
    assert fields.moment_ms("zoned", MADRID) is None
    assert set(fields.errors) == {"odd", "zoned"}


@pytest.mark.parametrize(
    ("typed", "value"),
    [("0", 0), ("7", 7), ("30", 30), (" 8 ", 8), ("31", None), ("-1", None), ("", None),
     ("1.5", None), ("²", None), ("٣", None), ("9" * 60, None), ("1e1", None), ("1_0", None)],
)  # fmt: skip
def test_a_whole_number_is_digits_within_its_limits_and_nothing_else(typed, value):
    fields = Fields({"rows": typed})
    assert fields.whole("rows", low=0, high=30) == (value or 0)
    assert ("rows" in fields.errors) is (value is None)
    if value is None:
        assert "0 to 30" in fields.errors["rows"]


@pytest.mark.parametrize("typed", ["a\x00b", "\x1b[31m", "a\x7f"])
def test_text_has_no_control_characters(typed):
    fields = Fields({"reason": typed})
    fields.text("reason")
    assert "can be seen" in fields.errors["reason"]
    plain = Fields({"reason": "two\r\nlines\tand a tab"})
    plain.text("reason")
    assert plain.errors == {}
