"""A condition whole, as it follows “when”: groups as lists, a duration beside what it is about.

A list has a line for each member, indented by its depth; nothing is joined by “and” or “or”.
"""

from typing import Any

from aldea.core.base.instants import duration
from aldea.core.plan import conditions as con
from aldea.core.plan.document import Plan
from aldea.core.words.clauses import LEAVES, delays, window_words

GROUPS: dict[type, str] = {
    con.Every: "all of these are true",
    con.Some: "any of these is true",
}
NONE_OF: dict[type, str] = {
    con.Every: "not all of these are true",
    con.Some: "none of these is true",
}
INDENT = "\u2003"  # an em of space for each level of a list


def condition_words(plan: Plan, condition: Any, depth: int = 0) -> str:
    """The clause of a condition; lists have a line for each member."""
    kind = type(condition)
    if kind in GROUPS:
        return _group(plan, condition, GROUPS[kind], depth)
    if isinstance(condition, con.Unless):
        return _unless(plan, condition.of, depth)
    if isinstance(condition, con.Lasting):
        return _lasting(plan, condition, depth)
    if isinstance(condition, con.Edge):
        return f"for {duration(condition.for_s)} {becoming(plan, condition.of, depth)}"
    if isinstance(condition, con.Named):
        return _named(plan, condition, depth)
    return f"{LEAVES[kind](plan, condition)}{without_reading(condition)}"


def one_line(words: str) -> str:
    """Words with their lists in one line, for a place that has no more."""
    return " ".join(words.split())


def without_reading(condition: Any) -> str:
    """What a condition counts as without a valid reading, in brackets, where that is stated."""
    if not isinstance(condition, con.OnValue) or condition.without_reading == "keep":
        return ""
    after = f" after {duration(condition.unchanged_for_s)}" if condition.unchanged_for_s else ""
    return f" (without a valid reading: {condition.without_reading}{after})"


def becoming(plan: Plan, condition: Any, depth: int = 0) -> str:
    """What makes a pulse begin: “each time Door contact opens”, “from when House is “away””."""
    if isinstance(condition, con.Contact):
        text = LEAVES[con.Contact](plan, condition).rpartition(" is ")[0]
        return f"each time {text} {'closes' if condition.closed else 'opens'}"
    return f"from when {condition_words(plan, condition, depth)}"


def _group(plan: Plan, group: Any, lead: str, depth: int, extra: str = "") -> str:
    lines = [
        f"\n{INDENT * depth}· {condition_words(plan, member, depth + 1)}" for member in group.of
    ]
    return f"{lead}{extra}:{''.join(lines)}"


def _unless(plan: Plan, inner: Any, depth: int) -> str:
    if type(inner) in NONE_OF:
        return _group(plan, inner, NONE_OF[type(inner)], depth)
    if isinstance(inner, con.InWindow):
        return f"the time is outside {window_words(plan, inner)}"
    if isinstance(inner, con.Presence):
        name = LEAVES[con.Presence](plan, inner).partition(" detects ")[0]
        if inner.hold_s:
            return f"{name} has detected nobody for {duration(inner.hold_s)}"
        return f"{name} detects nobody"
    return f"it is not true that {condition_words(plan, inner, depth)}"


def _lasting(plan: Plan, row: con.Lasting, depth: int) -> str:
    if type(row.of) in GROUPS:
        extra = f" for {duration(row.on_s)}" if row.on_s else ""
        return _group(plan, row.of, GROUPS[type(row.of)], depth, extra + delays(0.0, row.off_s))
    if type(row.of) in LEAVES and not _waits(row.of):
        return f"{condition_words(plan, row.of, depth)}{delays(row.on_s, row.off_s)}"
    inner = condition_words(plan, row.of, depth)
    last = f"with an off delay of {duration(row.off_s)}, " if row.off_s else ""
    # A colon where the off delay is of what lasts, not of the lasting.
    own = ":" if not last and inner.startswith("with an off delay of ") else ","
    first = f"for at least {duration(row.on_s)}{own} " if row.on_s else ""
    return f"{first}{last}{inner}"


def _waits(condition: Any) -> bool:
    """Whether a condition says delays of its own."""
    return isinstance(condition, con.Band) and bool(condition.delay_on_s or condition.delay_off_s)


def _named(plan: Plan, row: con.Named, depth: int) -> str:
    under = next((named for named in plan.conditions if named.id == row.condition), None)
    if under is None:
        return row.condition
    return (
        f"“{under.name}” is true" if under.name else condition_words(plan, under.condition, depth)
    )
