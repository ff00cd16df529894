"""Spans and instants in words."""

import pytest

from aldea.core.base.figures import years
from aldea.core.base.instants import near, span
from aldea.demo.recorded import END_MS

MADRID = "Europe/Madrid"


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(45, "45 s"), (150, "2 min 30 s"), (900, "15 min"), (7500, "2 h 5 min"), (273_600, "3 d 4 h")],
)
def test_spans_in_words(seconds, text):
    assert span(seconds) == text


def test_instants_of_another_day_name_the_day():
    assert near(END_MS, END_MS, MADRID) == "19:42"
    assert near(END_MS, END_MS - 86_400_000, MADRID) == "Thu 13 Nov 19:42"
    assert years(float("inf")) == "no wear"
    assert years(1232.0) == "over 100"
