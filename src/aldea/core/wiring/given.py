"""Numbers that were given before, and those that are free: of conductors and of terminals."""

from collections.abc import Iterable

from aldea.core.base.memo import per_plan
from aldea.core.plan.document import Plan

FIRST_ELV = 101
TERMINAL = "x1:"  # before the load and the role that a terminal belongs to


@per_plan
def given_numbers(plan: Plan) -> dict[str, int]:
    """What the plan says was given, by key."""
    return {row.id: int(row.number) for row in plan.numbers}


def numbered(plan: Plan, keys: Iterable[str], *, first: int, terminals: bool) -> list[int]:
    """A number for each key: the one that it was given, else the next that nobody had."""
    given = given_numbers(plan)
    alike = (n for key, n in given.items() if key.startswith(TERMINAL) == terminals)
    free = max(max(alike, default=first - 1) + 1, first)
    numbers: list[int] = []
    taken: set[int] = set()
    for key in keys:
        number = given.get(key)
        if number is None or number in taken:  # two people's changes may have met in one number
            number, free = free, free + 1
        taken.add(number)
        numbers.append(number)
    return numbers
