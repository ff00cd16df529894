"""What a calendar is made of is written down where its cache's key is made: seen by reading it."""

from dataclasses import replace
from typing import Any

import pytest

from aldea.core.engine.calendar import calendar_of, calendar_reads
from aldea.core.engine.compiled_plan import compile_plan
from aldea.demo.mill import mill_plan

DAY_MS = 86_400_000
START_MS = 1_762_992_000_000


class Watched:
    """A part of a plan that writes down which of its fields are looked at."""

    def __init__(self, part: object, name: str, seen: set[str]) -> None:
        self.part, self.name, self.seen = part, name, seen

    def __getattr__(self, field: str) -> object:
        self.seen.add(f"{self.name}{field}")
        value = getattr(self.part, field)
        return Watched(value, "house.", self.seen) if field == "house" else value


@pytest.mark.parametrize("sun", [True, False])
def test_the_key_of_a_calendar_has_every_field_that_was_read_to_make_it(sun):
    compiled = compile_plan(mill_plan())
    if not sun:
        compiled = replace(compiled, sun=False)
    seen: set[str] = set()
    plan: Any = Watched(compiled.plan, "", seen)
    calendar_of(replace(compiled, plan=plan), START_MS, START_MS + 3 * DAY_MS)
    fields_read = {name for name in seen if name != "house"}
    keyed: set[str] = set()
    plan = Watched(compiled.plan, "", keyed)
    calendar_reads(replace(compiled, plan=plan))
    assert fields_read
    assert fields_read <= keyed
