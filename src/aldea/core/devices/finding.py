"""A finding: what is wrong with the wiring, why, its fix, and the fix done where it can be.

A finding is severe where somebody can be hurt, something burnt, or a load would not do what the
plan says; such a plan is published only with a written reason.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part

Weight = Literal["severe", "warning", "open"]
Fix = Callable[[Plan], Plan]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One thing that is wrong or missing.

    `at` is the owner that it is about (`probe:…`, `relay:…`, `load:…`), `about` others that it is
    about too, `field` the field of the owner in the plan that it is about, where one is; `pins`
    the pins to ring.
    `press` is what a button for the fix says; empty where only a hand can fix it.
    """

    key: str
    weight: Weight
    head: str
    why: str
    fix: str
    at: str
    about: tuple[str, ...] = ()
    field: str = ""
    pins: tuple[tuple[str, str], ...] = ()
    press: str = ""
    apply: Fix | None = None


Check = Callable[[Plan], Iterator[Finding]]


def put_changed(kind: str, part: object) -> Fix:
    """A fix that puts a changed part in the place of the one with its id."""
    return lambda plan: put_part(plan, kind, part)


def change_around(change: Callable[[Plan, str], Plan], part_id: str) -> Fix:
    """A fix that changes a plan round one part."""
    return lambda plan: change(plan, part_id)
