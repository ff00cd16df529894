"""A rule's condition as people fill it in: what it hangs on, its waits, and “only while” rows."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from aldea.core.plan.conditions import Edge, Every, Lasting, Some, Unless, members_of


@dataclass(frozen=True, slots=True, kw_only=True)
class OnlyWhile:
    """A row under “only while”: one condition, or that it does not hold; `any_of` shares a group.

    Rows outside the group must all hold; of the group one is enough. With `hold_s` the row counts
    once it has held so long.
    """

    condition: Any
    reverse: bool = False
    any_of: bool = False
    hold_s: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleParts:
    """What a rule hangs on, the waits around it, and the rows under “only while”.

    With `among` what it hangs on is one of the group of which one is enough, and not required by
    itself. `whole_s` is how long all together must have held.
    """

    main: Any
    reverse: bool = False
    on_s: float = 0.0
    off_s: float = 0.0
    for_s: float | None = None
    rows: tuple[OnlyWhile, ...] = ()
    among: bool = False
    whole_s: float = 0.0


def taken_apart(condition: Any) -> RuleParts | None:
    """The parts of a condition; None where it is nested deeper than a form can show."""
    whole_s = 0.0
    if isinstance(condition, Lasting) and isinstance(condition.of, Every | Some):
        if condition.off_s or not condition.on_s:
            return None
        whole_s, condition = condition.on_s, condition.of
    if isinstance(condition, Some):
        return _with_rows(condition.of, (), whole_s, among=True)
    if not isinstance(condition, Every):
        return _one(condition)
    first, *others = condition.of
    if isinstance(first, Some):
        return _with_rows(first.of, others, whole_s, among=True)
    return _with_rows((first,), others, whole_s, among=False)


def _with_rows(
    firsts: Sequence[Any], others: Sequence[Any], whole_s: float, *, among: bool
) -> RuleParts | None:
    """What it hangs on is the first; those that share its group, then the rows that must hold."""
    rest = _one(firsts[0])
    groups = [member for member in others if isinstance(member, Some)]
    if rest is None or len(groups) > 1 or (among and groups) or (among and len(firsts) < 2):
        return None
    rows = [_row(part, any_of=True) for part in firsts[1:]]
    for member in others:
        if isinstance(member, Some):
            rows += [_row(part, any_of=True) for part in member.of]
        else:
            rows.append(_row(member))
    if any(members_of(row.condition) for row in rows):
        return None
    return replace(rest, rows=tuple(rows), among=among, whole_s=whole_s)


def _one(condition: Any) -> RuleParts | None:
    """One condition with its waits; None where it is made of others."""
    for_s, on_s, off_s, reverse = None, 0.0, 0.0, False
    if isinstance(condition, Edge):
        for_s, condition = condition.for_s, condition.of
    if isinstance(condition, Lasting):
        on_s, off_s, condition = condition.on_s, condition.off_s, condition.of
    if isinstance(condition, Unless):
        reverse, condition = True, condition.of
    if members_of(condition):
        return None
    return RuleParts(main=condition, reverse=reverse, on_s=on_s, off_s=off_s, for_s=for_s)


def put_together(parts: RuleParts) -> Any:
    """The condition of some parts; taken apart again it gives the same."""
    condition = Unless(of=parts.main) if parts.reverse else parts.main
    if parts.on_s or parts.off_s:
        condition = Lasting(of=condition, on_s=parts.on_s, off_s=parts.off_s)
    if parts.for_s is not None:
        condition = Edge(of=condition, for_s=parts.for_s)
    all_of = [_condition_of(row) for row in parts.rows if not row.any_of]
    any_of = [_condition_of(row) for row in parts.rows if row.any_of]
    if not parts.rows:
        return condition
    if parts.among and any_of:
        group = Some(of=(condition, *any_of))
        whole: Any = Every(of=(group, *all_of)) if all_of else group
    else:
        whole = Every(of=(condition, *all_of, *((Some(of=tuple(any_of)),) if any_of else ())))
    return Lasting(of=whole, on_s=parts.whole_s) if parts.whole_s else whole


def _row(condition: Any, *, any_of: bool = False) -> OnlyWhile:
    hold_s = 0.0
    if isinstance(condition, Lasting) and not condition.off_s:
        hold_s, condition = condition.on_s, condition.of
    reverse = isinstance(condition, Unless)
    inner = condition.of if isinstance(condition, Unless) else condition
    return OnlyWhile(condition=inner, reverse=reverse, any_of=any_of, hold_s=hold_s)


def _condition_of(row: OnlyWhile) -> Any:
    inner = Unless(of=row.condition) if row.reverse else row.condition
    return Lasting(of=inner, on_s=row.hold_s) if row.hold_s else inner
