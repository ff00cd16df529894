"""Two people's changes to one plan: put together where they touched different parts.

A part is an item of a list (a probe, a rule, a relay) by its id, or a whole field of the plan (the
house, the scan period). A changed order of a list touches the whole of it. Where one of the two was
asked and said that theirs goes over, it goes over field by field: what they did not touch of a part
stays as the other left it.
"""

import json
from typing import Any

from aldea.core.base.errors import PlanError
from aldea.core.plan.changes import part_name
from aldea.core.plan.document import Plan
from aldea.core.plan.text import read_plan

Parts = dict[str, Any]


def merged(base: Plan, mine: Plan, theirs: Plan) -> Plan | None:
    """Mine and theirs together, both made from `base`; None where both touched one part.

    None as well where the result would not fit together, as a probe put into a room that the other
    took away.
    """
    old, own, other = (plan.model_dump(mode="json") for plan in (base, mine, theirs))
    document = dict(other)
    for field in own:
        if own[field] == old[field]:
            continue
        if other[field] == old[field]:
            document[field] = own[field]
        elif isinstance(old[field], list):
            rows = _merged_rows(old[field], own[field], other[field])
            if rows is None:
                return None
            document[field] = rows
        elif own[field] != other[field]:
            return None
    return _read(document)


def merged_over(base: Plan, mine: Plan, theirs: Plan) -> Plan | None:
    """Mine over theirs: each field that I touched is mine, every other one theirs.

    None where the result would not fit together.
    """
    old, own, other = (plan.model_dump(mode="json") for plan in (base, mine, theirs))
    return _read(_over(old, own, other))


def _over(old: Any, own: Any, other: Any) -> Any:
    """One value of the plan with my touches over theirs; lists of parts go by the parts' names."""
    if own == old:
        return other
    if other in (old, own):
        return own
    if isinstance(own, dict) and isinstance(old, dict) and isinstance(other, dict):
        if own.get("kind") != old.get("kind") or other.get("kind") != old.get("kind"):
            return own  # another kind of condition or sensor: its figures belong together
        return {
            key: _over(old.get(key), own.get(key), other.get(key))
            for key in dict.fromkeys((*other, *own))
        }
    if all(isinstance(rows, list) for rows in (old, own, other)) and _are_parts(own):
        was, mine, theirs = (_by_name(rows) for rows in (old, own, other))
        for name in dict.fromkeys((*was, *mine)):
            if name not in mine:
                theirs.pop(name, None)
            else:
                value = _over(was.get(name), mine[name], theirs.get(name))
                theirs[name] = mine[name] if value is None else value
        return list(theirs.values())
    return own


def _are_parts(rows: list[Any]) -> bool:
    return all(isinstance(row, dict) and ("id" in row or "signal" in row) for row in rows)


def _by_name(rows: list[Any]) -> Parts:
    return {part_name(row, at): row for at, row in enumerate(rows)}


def _read(part: Parts) -> Plan | None:
    try:
        return read_plan(json.dumps(part))
    except PlanError:
        return None


def _merged_rows(old: list[Any], own: list[Any], other: list[Any]) -> list[Any] | None:
    was, mine, theirs = (_by_name(rows) for rows in (old, own, other))
    if _reordered(was, mine) or _reordered(was, theirs):
        return None
    for name in was.keys() | mine.keys():
        before, wished, now = was.get(name), mine.get(name), theirs.get(name)
        if wished in (before, now):
            continue
        if now != before:
            return None
        if wished is None:
            del theirs[name]
        else:
            theirs[name] = wished
    return list(theirs.values())


def _reordered(was: Parts, now: Parts) -> bool:
    return [name for name in was if name in now] != [name for name in now if name in was]
