"""What follows from a plan alone is worked out once for each plan object.

A plan never changes, but hashing one by value costs more than most of what follows from it: the
object itself is the key, and what was kept goes when the plan does.
"""

import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from threading import Lock
from typing import Any, Generic, TypeVar

Kept = TypeVar("Kept")
MOST_PAIRS = 32


def per_plan(make: Callable[[Any], Kept]) -> Callable[[Any], Kept]:
    """Remember what a function of a plan returned for as long as that plan lives."""
    kept: dict[int, tuple[weakref.ref[Any], Kept]] = {}

    @wraps(make)
    def remembered(plan: Any) -> Kept:
        key = id(plan)
        entry = kept.get(key)
        if entry is not None and entry[0]() is plan:
            return entry[1]
        value = make(plan)
        kept[key] = (weakref.ref(plan, lambda _gone: kept.pop(key, None)), value)
        return value

    return remembered


class ByIdentity(Generic[Kept]):
    """What was made of some objects that never change, found by the objects themselves.

    The objects are kept with it, so that no other takes the place of one in memory. Of more than
    `most` the one that was used longest ago goes.
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._held: OrderedDict[Hashable, tuple[Kept, tuple[object, ...]]] = OrderedDict()
        self._lock = Lock()

    def get(self, of: tuple[object, ...], beside: Hashable, make: Callable[[], Kept]) -> Kept:
        """What was made of these objects, and of values `beside` them; made now where it is not."""
        key = (tuple(map(id, of)), beside)
        with self._lock:
            entry = self._held.get(key)
            if entry is not None:
                self._held.move_to_end(key)
                return entry[0]
        value = make()
        with self._lock:
            self._held[key] = (value, of)
            while len(self._held) > self._most:
                self._held.popitem(last=False)
        return value


def per_pair(make: Callable[[Any, Any], Kept]) -> Callable[[Any, Any], Kept]:
    """Remember what a function of two plans returned, for the pairs that were asked for last."""
    kept: ByIdentity[Kept] = ByIdentity(MOST_PAIRS)

    @wraps(make)
    def remembered(one: Any, other: Any) -> Kept:
        return kept.get((one, other), None, lambda: make(one, other))

    return remembered
