"""The one reader of numbers: what people type is read, what only a machine writes is not."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.figures import exact
from aldea.core.base.numbers import number_of, whole_of


@given(
    value=st.floats(allow_nan=False, allow_infinity=False),
    comma=st.booleans(),
    true_minus=st.booleans(),
)
def test_a_number_is_read_back_however_it_is_written(value, comma, true_minus):
    text = repr(value)
    if comma:
        text = text.replace(".", ",")
    if true_minus:
        text = text.replace("-", "−")
    assert number_of(f" {text} ") == value


@given(st.floats(-1e9, 1e9))
def test_a_figure_that_aldea_writes_is_read_as_it_was(value):
    text = exact(value)
    assert number_of(text) == float(text.replace("−", "-").replace("\u202f", ""))


@pytest.mark.parametrize(
    "text",
    ["", "nan", "inf", "−inf", "Infinity", "1_000", "1 000", "1e400", "٣", "²", "0x10", "1.2.3",
     "1,2,3", "--5", "5-", "e5", "1e", ".", "1O.5", "5 K", "\x00"],
)  # fmt: skip
def test_what_no_person_calls_a_number_is_refused(text):
    with pytest.raises(ValueError, match=r"is not a number|is too large"):
        number_of(text)


def test_whole_numbers_are_of_plain_digits_that_a_database_holds():
    assert [whole_of(text) for text in ("0", "12", "9" * 15)] == [0, 12, 10**15 - 1]
    assert [whole_of(t) for t in ("²", "abc", "-1", "1.0", "٣", "9" * 16, "")] == [None] * 7
    assert math.isfinite(number_of("9" * 300))
