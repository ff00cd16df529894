"""Pin tables out and in: round trips, and what is refused with row and column."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.errors import InputError
from aldea.core.plan.board_types import generic_types
from aldea.core.plan.panel import BoardType, Pin
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.parts import part_lines
from aldea.demo.mill import mill_plan
from aldea.formats.board_csv import board_csv, read_board_csv
from aldea.formats.tables_csv import parts_csv, schedule_csv


@pytest.mark.parametrize("kind", generic_types().values(), ids=lambda kind: kind.id)
def test_every_generic_board_survives_its_own_file(kind):
    assert read_board_csv(board_csv(kind).encode()) == kind.pins
    assert "check against" in kind.note.lower()


@given(
    st.lists(
        st.builds(
            Pin,
            name=st.from_regex(r"[A-Z]{1,2}[0-9]{1,3}", fullmatch=True),
            number=st.integers(1, 400),
            can=st.lists(st.sampled_from(("digital_in", "analog_in", "pull_up")), unique=True).map(
                tuple
            ),
            boot_ms=st.integers(0, 500).map(float),
            programming=st.booleans(),
            note=st.text(alphabet='abc =+-;,"', max_size=12).map(str.strip),
        ),
        min_size=1,
        max_size=20,
        unique_by=(lambda p: p.name, lambda p: p.number),
    )
)
def test_any_pin_table_comes_back_as_it_was(pins):
    kind = BoardType(id="x", name="X", pins=tuple(pins))
    back = read_board_csv(board_csv(kind).encode())
    assert [p.model_copy(update={"note": p.note.lstrip("'")}) for p in back] == [
        p.model_copy(update={"note": p.note.lstrip("'")}) for p in pins
    ]


@pytest.mark.parametrize(
    ("text", "where", "got"),
    [
        ("name,nmuber,can\n", "line 1", "nmuber"),
        ("", "line 1", "none"),
        ("name,number,can\n", "pins", "none"),
        ("name,number,can\nA1,1,digital_in\nA1,2,digital_in\n", "row 3", "A1 again"),
        ("name,number,can\nA1,1,fly\n", "row 2, can", "'fly'"),
        ("name,number,can\nA1,one,digital_in\n", "row 2, number", "'one'"),
        ("name,number,can\nA1,0,digital_in\n", "row 2, number", "'0'"),
        ("name,number,can,limit_ma\nA1,1,analog_in,-4\n", "row 2, limit_ma", "'-4'"),
        ("name;number;can\nÄ;1;analog_in\n", "row 2, name", "'Ä'"),
        ("name,number,can\n" + "x" * 300_000, "board file", "bytes"),
    ],
)
def test_a_wrong_table_is_refused_whole(text, where, got):
    with pytest.raises(InputError) as refused:
        read_board_csv(text.encode())
    assert refused.value.where == where
    assert got in refused.value.got + refused.value.fix
    assert refused.value.allowed


def test_semicolons_and_a_byte_order_mark_are_taken():
    pins = read_board_csv("\ufeffname;number;can;limit_ma\nA1;1;analog_in;2,5\n".encode())
    assert pins[0].limit_ma == 2.5


def test_schedule_and_parts_have_a_row_for_each():
    plan = mill_plan()
    rows = list(csv.DictReader(io.StringIO(schedule_csv(conductors(plan)))))
    assert [row["number"] for row in rows] == [wire.number for wire in conductors(plan)]
    assert {row["section"] for row in rows if row["net"] == "mains"} == {"electrician decides"}
    parts = list(csv.DictReader(io.StringIO(parts_csv(part_lines(plan)))))
    assert {row["part"] for row in parts} == {line.part for line in part_lines(plan)}
