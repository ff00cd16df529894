"""A condition with a name as a form: several conditions, joined, each with its wait."""

from aldea.core.plan.conditions import NamedCondition
from aldea.core.plan.document import Plan
from aldea.core.plan.rule_parts import RuleParts, taken_apart
from aldea.web.benches.rule.condition_form import condition_fields, first_reading, offered_kinds
from aldea.web.benches.rule.parts_form import JOINS, SENSES, seconds_field, waits_of
from aldea.web.shell.form_fields import Field, choice, text

MOST_MORE = 4  # conditions beside the first of a named one


def condition_form(
    plan: Plan, row: NamedCondition | None, typed: dict[str, str]
) -> tuple[Field, ...]:
    """The form of a condition with a name: what it hangs on, and what must hold beside it."""
    parts = taken_apart(row.condition) if row else None
    now = parts.main.kind if parts else "window"
    kind = typed.get("c_kind", now)
    offered = offered_kinds(plan, now if row else "")
    if kind not in dict(offered) and not row:
        kind = offered[0][0]
    main = parts.main if parts and parts.main.kind == kind else None
    reading = typed.get("c_probe") or getattr(main, "probe", "") or first_reading(plan, "", kind)
    more = _more(plan, parts, typed)
    beside = {**typed, "rows": str(sum(1 for field in more if field.name.endswith("_join")))}
    return (
        text("name", "Name", row.name if row else ""),
        choice("c_kind", "True while", kind, offered, remade=True),
        *condition_fields(plan, kind, main, "c_", reading, typed=typed),
        *waits_of(kind, parts, beside),
        *more,
    )


def _more(plan: Plan, parts: RuleParts | None, typed: dict[str, str]) -> list[Field]:
    """The conditions beside the first, and an empty place for one more."""
    kept = list(parts.rows) if parts else []
    fields: list[Field] = []
    for index in range(MOST_MORE):
        prefix = f"w{index}_"
        row = kept[index] if index < len(kept) else None
        chosen = typed.get(f"{prefix}kind", row.condition.kind if row else "")
        offered = (("", "nothing more"), *offered_kinds(plan, chosen))
        fields.append(choice(f"{prefix}kind", "and", chosen, offered, remade=True))
        if not chosen:
            break
        condition = row.condition if row and row.condition.kind == chosen else None
        reading = typed.get(f"{prefix}probe") or getattr(condition, "probe", "")
        join, sense = (
            ("any" if row and row.any_of else "all"),
            "no" if row and row.reverse else "yes",
        )
        fields += [
            choice(f"{prefix}join", "joined", join, JOINS),
            choice(f"{prefix}sense", "sense", sense, SENSES),
            *condition_fields(
                plan,
                chosen,
                condition,
                prefix,
                reading or first_reading(plan, "", chosen),
                typed=typed,
            ),
            seconds_field(f"{prefix}lasts_s", "for", row.hold_s if row else 0.0),
        ]
    return fields
