"""How a rule stands, in words: what they say is what the condition of that moment is."""

from dataclasses import replace

import numpy as np
import pytest
from tests.core.plans import one_band

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.conditions import CountAbove
from aldea.core.plan.house_rules import Doorway
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.foresight import standing
from aldea.core.words.distance import distance

PLAN = one_band().model_copy(
    update={"doorways": (Doorway(id="way", name="the hall", outer="a", inner="b"),)}
)
QUIET = Trace(t_ms=np.array([0], dtype=np.int64), raw=np.array([40.0]))
NOW = standing(compile_plan(PLAN), {"rh": QUIET}, start_ms=0, at_ms=1000)


@pytest.mark.parametrize(
    ("value", "holds", "words"),
    [
        (0, True, "somebody is inside by the hall"),
        (0, False, "nobody is inside by the hall"),
        (1, True, "more than 1 person is inside by the hall"),
        (3, True, "more than 3 people are inside by the hall"),
        (3, False, "at most 3 people are inside by the hall"),  # not: nobody
    ],
)
def test_people_counted_are_told_by_the_number_that_is_asked(value, holds, words):
    now = replace(NOW, conditions=np.full_like(NOW.conditions, int(holds)))
    assert distance(PLAN, now, CountAbove(doorway="way", value=value), 0) == words
