"""Pairs pasted from a spreadsheet: every way that people part two numbers."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.errors import InputError
from aldea.formats.pasted import read_pasted, read_rows

NUMBERS = st.decimals(-500, 500, places=2, allow_nan=False)


@given(
    rows=st.lists(st.tuples(NUMBERS, NUMBERS), max_size=20),
    parted=st.sampled_from(["\t", ";", "; ", " ", "   ", "\t "]),
    comma=st.booleans(),
    heading=st.booleans(),
)
def test_what_is_pasted_is_read_back(rows, parted, comma, heading):
    def written(value):
        return str(value).replace(".", "," if comma else ".")

    lines = [f"{written(a)}{parted}{written(b)}" for a, b in rows]
    text = "\r\n".join(["temperature\tohm"] * heading + lines)
    assert read_pasted(text) == [(float(a), float(b)) for a, b in rows]


@pytest.mark.parametrize(
    ("text", "pairs"),
    [
        ("21.5,11650", [(21.5, 11650.0)]),
        ("21.5, 11650", [(21.5, 11650.0)]),
        ("21,5 11650", [(21.5, 11650.0)]),
        ("−3 40000\n\n", [(-3.0, 40000.0)]),
        ("", []),
    ],
)
def test_ways_of_writing_a_pair(text, pairs):
    assert read_pasted(text) == pairs


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("0 32650\n25", "line 2"),
        ("0 32650\n25 10000 7", "line 2"),
        ("0 cold", "line 1"),
        ("21,5,11650", "line 1"),
        ("t ohm\nu ohm\n0 1", "line 2"),
        ("1 2\n" * 201, "points"),
    ],
)
def test_what_is_no_pair_is_refused_with_its_line(text, where):
    with pytest.raises(InputError) as refused:
        read_pasted(text)
    assert refused.value.where == where


@given(
    rows=st.integers(1, 4).flatmap(
        lambda n: st.lists(st.lists(NUMBERS, min_size=n, max_size=n), max_size=9)
    ),
    parted=st.sampled_from(["\t", ";", " ", ","]),
    true_minus=st.booleans(),
    heading=st.booleans(),
)
def test_a_table_that_is_pasted_is_read_back_whole(rows, parted, true_minus, heading):
    text = "\n".join(
        ["a\tb"] * heading + [parted.join(str(value) for value in row) for row in rows]
    )
    read = read_rows(text.replace("-", "−") if true_minus else text)
    assert read == [[float(value) for value in row] for row in rows]


@pytest.mark.parametrize("first", ["1O.5 2", "nan 3", "inf 4", "1_000 5", "1e400 6"])
def test_a_first_row_with_a_digit_that_cannot_be_read_is_refused_not_dropped(first):
    with pytest.raises(InputError) as refused:
        read_rows(f"\n{first}\n11 3")
    assert refused.value.where == "line 2"


def test_rows_of_another_width_are_refused_with_their_line():
    with pytest.raises(InputError) as refused:
        read_rows("1 2\n3 4\n5 6 7")
    assert (refused.value.where, refused.value.got) == ("line 3", "3 values")
    with pytest.raises(InputError):
        read_rows("1\n" * 20_001)
