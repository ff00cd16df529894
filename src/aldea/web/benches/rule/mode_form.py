"""The form of a mode: its values, and the schedules and conditions that set it by themselves."""

from typing import Any

from aldea.core.plan.conditions import InMode, InWindow
from aldea.core.plan.document import Plan
from aldea.core.plan.house_rules import Mode, ModeChange
from aldea.core.plan.mode_values import renamed_values
from aldea.core.plan.reading import expanded
from aldea.web.benches.rule.condition_form import YES_NO
from aldea.web.shell.form_fields import Field, Options, choice, text
from aldea.web.shell.forms import Fields

MOST_CHANGES = 12
AFTER_A_CUT: Options = (
    ("keep", "stays as it was"),
    ("set", "is set again where the condition is true"),
)


def mode_fields(plan: Plan, mode: Mode | None, typed: dict[str, str]) -> tuple[Field, ...]:
    """The fields of a mode; one row more than it has for what sets it by itself."""
    values = ", ".join(mode.values) if mode else "off, on"
    retained = "yes" if mode is None or mode.retained else "no"
    rows: list[Field] = [
        text("name", "Name", mode.name if mode else ""),
        text("values", "Values", values, "a comma between"),
        text("start", "Starts as", mode.start if mode else "", "empty: the first"),
        choice("retained", "Retained over a power cut", retained, YES_NO),
    ]
    sources = sources_of(plan)
    if not sources:
        return tuple(rows)
    known = split_values(typed.get("values", values))
    changes = mode.changes if mode else ()
    for at in range(MOST_CHANGES):
        change = changes[at] if at < len(changes) else None
        chosen = typed.get(f"change{at}_when", source_of(change) if change else "")
        rows += _change_fields(at, change, chosen, known, sources)
        if not chosen and at >= len(changes):
            break
    return tuple(rows)


def _change_fields(
    at: int, change: ModeChange | None, chosen: str, values: tuple[str, ...], sources: Options
) -> list[Field]:
    """What sets the mode, one of them: when, to which value, to which one at its end."""
    none = "nothing" if at == 0 else "nothing more"
    rows = [
        choice(f"change{at}_when", "Set by", chosen, (("", none), *sources), remade=True),
    ]
    if not chosen:
        return rows
    window = chosen.startswith("schedule:")
    same: Options = (("", "no change"), *((value, value) for value in values))
    return [
        *rows,
        choice(
            f"change{at}_value",
            "When it begins" if window else "When it becomes true",
            change.value if change else None,
            same,
        ),
        choice(
            f"change{at}_end_value",
            "When it ends" if window else "When it becomes false",
            change.end_value if change else None,
            same,
        ),
        choice(
            f"change{at}_after_power_cut",
            "After a power cut the mode",
            change.after_power_cut if change else "keep",
            AFTER_A_CUT,
        ),
    ]


def sources_of(plan: Plan) -> Options:
    """What can set a mode: every schedule, and each named condition that reads no mode."""
    return (
        *((f"schedule:{row.id}", f"schedule {row.name}") for row in plan.schedules),
        *(
            (f"condition:{row.id}", f"condition {row.name or row.id}")
            for row in plan.conditions
            if not any(isinstance(part, InMode) for part in expanded(plan, row.condition))
        ),
    )


def source_of(change: ModeChange) -> str:
    """What sets a mode, as its choice is sent."""
    when = change.when
    if isinstance(when, InWindow):
        return f"schedule:{when.schedule}"
    return f"condition:{when.condition}"


def split_values(line: str) -> tuple[str, ...]:
    """Values that are typed with commas between."""
    return tuple(one.strip() for one in line.split(",") if one.strip())


def read_mode(fields: Fields, plan: Plan, mode: Mode | None) -> dict[str, Any]:
    """What a form says of a mode, beside its name; a renamed value is renamed in all of it."""
    values = split_values(fields.text("values", most=4000))
    names = renamed_values(mode.values, values) if mode else {}
    start = fields.text("start", most=80)
    facts: dict[str, Any] = {
        "values": values,
        "start": names.get(start, start) or None,
        "retained": fields.sent.get("retained") == "yes",
    }
    changes: list[dict[str, Any]] = []
    sources = dict(sources_of(plan))
    for at in range(MOST_CHANGES):
        if not fields.sent.get(f"change{at}_when"):
            continue
        kind, _, key = fields.choice(f"change{at}_when", sources).partition(":")
        whose = "schedule" if kind == "schedule" else "condition"
        change: dict[str, Any] = {
            "when": {"kind": "window" if kind == "schedule" else "named", whose: key},
            "after_power_cut": fields.choice(f"change{at}_after_power_cut", dict(AFTER_A_CUT)),
        }
        for end in ("value", "end_value"):
            value = str(fields.sent.get(f"change{at}_{end}", ""))
            value = names.get(value, value)
            if value and value not in values:
                fields.say(f"change{at}_{end}", f"Choose one of {', '.join(values)}.")
            change[end] = value or None
        if change["value"] is None and change["end_value"] is None:
            fields.say(f"change{at}_value", "Choose the value that is set, here or at the end.")
        changes.append(change)
    return {**facts, "changes": tuple(changes)}
