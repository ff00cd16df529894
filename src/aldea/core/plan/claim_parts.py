"""A claim's condition as people fill it in: what it hangs on, its waits, and “only while” rows."""

from dataclasses import dataclass
from typing import Any

from aldea.core.plan.conditions import Edge, Every, Lasting, Some, Unless, members_of


@dataclass(frozen=True, slots=True, kw_only=True)
class OnlyWhile:
    """A row under “only while”: one condition, or that it does not hold; `any_of` shares a group.

    Rows outside the group must all hold; of the group one is enough.
    """

    condition: Any
    reverse: bool = False
    any_of: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimParts:
    """What a claim hangs on, the waits around it, and the rows under “only while”."""

    main: Any
    reverse: bool = False
    on_s: float = 0.0
    off_s: float = 0.0
    for_s: float | None = None
    rows: tuple[OnlyWhile, ...] = ()


def taken_apart(condition: Any) -> ClaimParts | None:
    """The parts of a condition; None where it is nested deeper than a form can show."""
    if isinstance(condition, Every):
        first, *others = condition.of
        found = taken_apart(first)
        if found is None or found.rows:
            return None
        rows: list[OnlyWhile] = []
        for member in others:
            if isinstance(member, Some):
                rows += [_row(part, any_of=True) for part in member.of]
            else:
                rows.append(_row(member))
        if sum(isinstance(member, Some) for member in others) > 1 or not all(map(_flat, rows)):
            return None
        return ClaimParts(
            main=found.main,
            reverse=found.reverse,
            on_s=found.on_s,
            off_s=found.off_s,
            for_s=found.for_s,
            rows=tuple(rows),
        )
    for_s, on_s, off_s, reverse = None, 0.0, 0.0, False
    if isinstance(condition, Edge):
        for_s, condition = condition.for_s, condition.of
    if isinstance(condition, Lasting):
        on_s, off_s, condition = condition.on_s, condition.off_s, condition.of
    if isinstance(condition, Unless):
        reverse, condition = True, condition.of
    if members_of(condition):
        return None
    return ClaimParts(main=condition, reverse=reverse, on_s=on_s, off_s=off_s, for_s=for_s)


def put_together(parts: ClaimParts) -> Any:
    """The condition of some parts; taken apart again it gives the same."""
    made = Unless(of=parts.main) if parts.reverse else parts.main
    if parts.on_s or parts.off_s:
        made = Lasting(of=made, on_s=parts.on_s, off_s=parts.off_s)
    if parts.for_s is not None:
        made = Edge(of=made, for_s=parts.for_s)
    all_of = [_said(row) for row in parts.rows if not row.any_of]
    any_of = [_said(row) for row in parts.rows if row.any_of]
    if not parts.rows:
        return made
    return Every(of=(made, *all_of, *((Some(of=tuple(any_of)),) if any_of else ())))


def _row(condition: Any, *, any_of: bool = False) -> OnlyWhile:
    if isinstance(condition, Unless):
        return OnlyWhile(condition=condition.of, reverse=True, any_of=any_of)
    return OnlyWhile(condition=condition, any_of=any_of)


def _flat(row: OnlyWhile) -> bool:
    return not members_of(row.condition)


def _said(row: OnlyWhile) -> Any:
    return Unless(of=row.condition) if row.reverse else row.condition
