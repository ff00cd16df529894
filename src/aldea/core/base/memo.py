"""What follows from a plan alone is worked out once for each plan object.

A plan never changes, but hashing one by value costs more than most of what follows from it: the
object itself is the key, and what was kept goes when the plan does.
"""

import weakref
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

Kept = TypeVar("Kept")


def per_plan(make: Callable[[Any], Kept]) -> Callable[[Any], Kept]:
    """Remember what a function of a plan returned for as long as that plan lives."""
    kept: dict[int, tuple[weakref.ref[Any], Kept]] = {}

    @wraps(make)
    def remembered(plan: Any) -> Kept:
        key = id(plan)
        found = kept.get(key)
        if found is not None and found[0]() is plan:
            return found[1]
        made = make(plan)
        kept[key] = (weakref.ref(plan, lambda _gone: kept.pop(key, None)), made)
        return made

    return remembered
