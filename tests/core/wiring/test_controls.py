"""What people work by hand: presses and names."""

import pytest

from aldea.core.wiring.names import alike_names
from aldea.core.wiring.receiver import Heard, presses, stand_in, stand_in_pattern


def test_repeats_of_one_press_are_one_press():
    heard = [*stand_in(1, "r"), *(Heard(t_ms=2000 + h.t_ms, code=h.code) for h in stand_in(1, "r"))]
    found = presses(heard, 400)
    assert [(p.t_ms, p.times) for p in found] == [(0, 4), (2000, 4)]
    assert len(presses(heard, 50)) == 8, "a lock-out shorter than the repeats counts each"
    assert stand_in(1, "r")[0].code != stand_in(2, "r")[0].code
    assert len({stand_in_pattern(n, 3) for n in range(8)}) == 8


@pytest.mark.parametrize(
    ("names", "how"),
    [
        (["Hall", "hall"], "are the same word"),
        (["Hall", "Hall"], "are the same word"),
        (["Stair", "Stare"], "sound the same"),
        (["Skylight", "Skylights"], "differ by a letter"),
        (["Lamp 1", "Lamp 2"], None),
        (["Pump", "Heater"], None),
    ],
)
def test_names_that_could_be_confused(names, how):
    found = alike_names(names)
    assert [pair.how for pair in found] == ([how] if how else [])
    assert [pair.names for pair in found] == ([tuple(names)] if how else [])


def test_a_row_of_alike_names_is_told_once():
    row = [f"Light {letter}" for letter in "ABCDEFGH"]
    told = {one.how: one for one in alike_names([*row, "Pump", "Stair", "Stare"])}
    letters = told["differ by a letter"]
    assert set(letters.names) <= set(row)
    assert letters.sentence == "“Light A”, 6 more and “Light H” differ by a letter."
    assert any("Stair" in one.names for one in alike_names([*row, "Stair", "Stare"]))
    assert len(alike_names(row)) <= 2, "28 pairs are told as a row or two"
