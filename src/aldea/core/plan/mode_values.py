"""A value of a mode under another name: every rule, press and position that names it goes along."""

import json
from collections.abc import Sequence
from typing import Any

from aldea.core.plan.document import Plan
from aldea.core.plan.house_rules import Mode


def renamed_values(before: Sequence[str], after: Sequence[str]) -> dict[str, str]:
    """Which value became which: those that stand in the place of one that is gone.

    Nothing where their number changed: then nobody can tell which is meant.
    """
    if len(before) != len(after):
        return {}
    return {
        old: new
        for old, new in zip(before, after, strict=True)
        if old != new and old not in after and new not in before
    }


def with_values_renamed(plan: Plan, mode: Mode, values: Sequence[str]) -> Plan:
    """The plan with a mode's values renamed wherever they are named; the mode itself among them."""
    names = renamed_values(mode.values, values)
    if not names:
        return plan
    document = _renamed(json.loads(plan.model_dump_json()), mode.id, names)
    row_mode = [row for row in document["modes"] if row["id"] == mode.id]
    for row in row_mode:
        row["values"] = list(values)
        row["start"] = names.get(row["start"], row["start"])
        for change in row["changes"]:
            for key in ("value", "end_value"):
                change[key] = names.get(change[key], change[key])
    return Plan.model_validate_json(json.dumps(document))


def _renamed(value: Any, mode_id: str, names: dict[str, str]) -> Any:
    """Each pair of this mode and an old value, however deep it stands, with the new value."""
    if isinstance(value, list):
        return [_renamed(inner, mode_id, names) for inner in value]
    if not isinstance(value, dict):
        return value
    renamed = {key: _renamed(inner, mode_id, names) for key, inner in value.items()}
    if renamed.get("mode") == mode_id and renamed.get("value") in names:
        renamed["value"] = names[renamed["value"]]
    return renamed
