"""Plan documents of version 1 read as those of version 2: other names, the same plan.

Drafts, revisions and files of before keep their bytes; what they say is converted when it is read.
"""

from collections.abc import Callable
from functools import partial
from typing import Any

FORMAT_1 = "aldea-plan/1"

# What a part calls differently now: its old key and its new one.
KEYS: dict[str, dict[str, str]] = {
    "plan": {"claims": "rules"},
    "rule": {"rank": "priority", "off_for_now": "disabled"},
    "load": {"hand": "override", "idle": "default_state", "silent": "on_sensor_fault"},
    "override": {"school": "ends_by"},
    "action": {"school": "ends_by"},
    "relay": {"rated_closings": "rated_cycles"},
    "band": {"on": "on_threshold", "off": "off_threshold"},
    "difference": {"on": "on_threshold", "off": "off_threshold"},
    "rate": {"on": "on_threshold", "off": "off_threshold"},
    "above": {"gap": "hysteresis"},
    "below": {"gap": "hysteresis"},
    "dark": {"gap": "hysteresis"},
}
# What a field says differently now, whichever part it is in.
BASES = {"stated": "entered", "assumed": "estimated", "stand_in": "trial"}
VALUES: dict[str, dict[str, str]] = {
    "basis": BASES,
    "policy": {"decide": "follow_rules"},
    "ends_by": {"given_back": "automatic"},
    "does": {"give_back": "automatic"},
}
NO_LONGER = {"board": ("runs_of_cable_m",)}  # nothing ever read it

Json = Any
Change = Callable[[Json], Json]


def from_version_1(data: dict[str, Json]) -> dict[str, Json]:
    """The document in the words of version 2.

    What is not as version 1 has it stays as it is, for the reader to refuse.
    """
    plan = {**_renamed("plan", data), "format": "aldea-plan/2"}
    for key, change in (
        ("rules", _rule),
        ("conditions", _named),
        ("loads", _load),
        ("probes", _probe),
        ("controls", _control),
        ("boards", partial(_renamed, "board")),
    ):
        if key in plan:
            plan[key] = _each(plan[key], change)
    if isinstance(plan.get("memory"), dict):
        plan["memory"] = _inside(plan["memory"], "fields", lambda row: _each(row, _field))
    return plan


def _renamed(part: str, data: Json) -> Json:
    """A part with its keys and values of now."""
    if not isinstance(data, dict):
        return data
    keys: dict[str, str] = KEYS.get(part, {})
    gone = NO_LONGER.get(part, ())
    renamed: dict[str, Json] = {}
    key: str
    for key, value in data.items():
        if key in gone:
            continue
        name: str = keys.get(key) or key
        if name in renamed or (name != key and name in data):
            return data  # old and new name at once: neither version
        words = VALUES.get(name, {})
        renamed[name] = words.get(value, value) if isinstance(value, str) else value
    return renamed


def _each(rows: Json, change: Change) -> Json:
    return [change(row) for row in rows] if isinstance(rows, list) else rows


def _inside(part: Json, key: str, change: Change) -> Json:
    return {**part, key: change(part[key])} if isinstance(part, dict) and key in part else part


def _condition(condition: Json) -> Json:
    if not isinstance(condition, dict):
        return condition
    # The first plans had bands alone and did not say so.
    with_kind = condition if "kind" in condition else {**condition, "kind": "band"}
    kind = with_kind["kind"]
    renamed = _renamed(kind, with_kind) if isinstance(kind, str) else with_kind
    return _inside(
        renamed, "of", lambda of: _each(of, _condition) if isinstance(of, list) else _condition(of)
    )


def _rule(rule: Json) -> Json:
    return _inside(_renamed("rule", rule), "condition", _condition)


def _named(condition: Json) -> Json:
    return _inside(condition, "condition", _condition)


def _load(load: Json) -> Json:
    renamed = _renamed("load", load)
    for part in ("override", "relay", "power_return", "stepped"):
        renamed = _inside(renamed, part, partial(_renamed, part))
    return renamed


def _probe(probe: Json) -> Json:
    return _inside(probe, "calibration", partial(_renamed, "calibration"))


def _action(action: Json) -> Json:
    return _inside(_renamed("action", action), "also", lambda more: _each(more, _action))


def _control(control: Json) -> Json:
    for key in ("presses", "codes", "positions"):
        control = _inside(control, key, lambda rows: _each(rows, _action))
    return control


def _field(field: Json) -> Json:
    kept = isinstance(field, str) and field.startswith("hand:")
    return f"override:{field.removeprefix('hand:')}" if kept else field
