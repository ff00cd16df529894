"""What a rule or a named condition hangs on as a form: its waits, and the rows beside it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from aldea.core.base.figures import as_typed
from aldea.core.base.numbers import whole_of
from aldea.core.base.unfit import unfit
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import Plan
from aldea.core.plan.rule_parts import OnlyWhile, RuleParts, put_together
from aldea.core.plan.without_reading import Result
from aldea.web.benches.rule.condition_form import (
    condition_fields,
    first_reading,
    offered_kinds,
    read_condition,
)
from aldea.web.shell.form_fields import Field, Options, choice
from aldea.web.shell.forms import Fields

MOST_ROWS = 8
DAYS_S = 604_800.0
AMONG: Options = (("all", "it must hold"), ("any", "any of these"))
JOINS: Options = (("all", "and"), ("any", "and one of"))
SENSES: Options = (("yes", "while"), ("no", "not while"))


@dataclass(frozen=True, slots=True, kw_only=True)
class RowForm:
    """One row under “only while”."""

    index: int
    join: Field
    sense: Field
    kind: Field
    fields: tuple[Field, ...]


def seconds_field(name: str, label: str, value: float | None, note: str = "") -> Field:
    """A time in seconds; one that begins empty may stay so."""
    return Field(
        name=name, label=label, kind="number", value="" if value is None else as_typed(value),
        unit="s", low=0.0, high=DAYS_S, optional=value is None, note=note,
    )  # fmt: skip


def waits_of(kind: str, parts: RuleParts | None, typed: Mapping[str, str]) -> tuple[Field, ...]:
    """How it counts: its sense, how long it must hold, for how long at most."""
    sense = "no" if parts and parts.reverse else "yes"
    fields = [choice("c_sense", "Active", sense, SENSES)] if kind != "always" else []
    if kind != "band":
        fields += [
            seconds_field("hold_on_s", "On delay", parts.on_s if parts else 0.0),
            seconds_field("hold_off_s", "Off delay", parts.off_s if parts else 0.0, "after"),
        ]
    for_s = parts.for_s if parts else None
    fields.append(
        Field(
            name="edge_s",
            label="At most",
            kind="number",
            value="" if for_s is None else as_typed(for_s),
            unit="s",
            low=0.0,
            high=DAYS_S,
            optional=True,
            note="from when it becomes active; empty: while it is active",
        )
    )
    if (parts and parts.rows) or typed.get("rows", "0") not in ("", "0"):
        among = "any" if parts and parts.among else "all"
        fields += [
            choice("among", "With the rows below", among, AMONG),
            seconds_field("whole_s", "All together for", parts.whole_s if parts else 0.0),
        ]
    return tuple(fields)


def row_forms(
    plan: Plan, place: str, parts: RuleParts | None, typed: Mapping[str, str], usual: Result
) -> tuple[tuple[RowForm, ...], int]:
    """The rows under “only while”, and how many the form has."""
    kept = list(parts.rows) if parts else []
    count = len(kept)
    if (count_wanted := whole_of(typed.get("rows", ""))) is not None:
        count = min(count_wanted, MOST_ROWS)
    forms = []
    for index in range(count):
        row = kept[index] if index < len(kept) else None
        prefix = f"w{index}_"
        if typed.get(f"{prefix}gone") == "yes":
            continue
        begins = row.condition.kind if row else "window"
        offered = offered_kinds(plan, begins if row else "")
        if not row and begins not in dict(offered):
            begins = offered[0][0]
        chosen = typed.get(f"{prefix}kind", begins)
        condition = row.condition if row and row.condition.kind == chosen else None
        denied = typed.get(f"{prefix}sense", "no" if row and row.reverse else "yes") == "no"
        reading = (
            typed.get(f"{prefix}probe")
            or getattr(condition, "probe", "")
            or first_reading(plan, place, chosen)
        )
        forms.append(
            RowForm(
                index=index,
                join=choice(
                    f"{prefix}join", "joined", "any" if row and row.any_of else "all", JOINS
                ),
                sense=choice(
                    f"{prefix}sense", "sense", "no" if row and row.reverse else "yes", SENSES
                ),
                kind=choice(f"{prefix}kind", "kind", chosen, offered, remade=True),
                fields=(
                    *condition_fields(
                        plan,
                        chosen,
                        condition,
                        prefix,
                        reading,
                        typed=typed,
                        usual=usual.under_not if denied else usual,
                    ),
                    seconds_field(f"{prefix}lasts_s", "for", row.hold_s if row else 0.0),
                ),
            )
        )
    return tuple(forms), count


def seconds_of(fields: Fields, name: str, low: float = 0.0) -> float:
    """A time in seconds as typed."""
    return fields.number(name, low=low, high=DAYS_S, unit="s")


def _if_typed(fields: Fields, name: str) -> float:
    """A time that is nothing where the field is not there or empty."""
    return seconds_of(fields, name) if fields.sent.get(name, "").strip() else 0.0


def read_parts(fields: Fields, plan: Plan, before: Any, usual: Result) -> Any:
    """The condition that a form describes, after `before`; None where a field is refused."""
    kind = fields.sent.get("c_kind", "")
    denied = fields.sent.get("c_sense", "yes") == "no"
    main = read_condition(fields, plan, kind, "c_", usual.under_not if denied else usual)
    if isinstance(main, Band) and isinstance(before, Band):
        kept = {"limit": before.limit, "retained": before.retained}
        main = main.model_copy(update=kept)
    rows = []
    for index in range(MOST_ROWS):
        prefix = f"w{index}_"
        if not fields.sent.get(f"{prefix}kind") or fields.sent.get(f"{prefix}gone") == "yes":
            continue
        reverse = fields.sent.get(f"{prefix}sense") == "no"
        condition = read_condition(
            fields,
            plan,
            fields.sent[f"{prefix}kind"],
            prefix,
            usual.under_not if reverse else usual,
        )
        rows.append(
            OnlyWhile(
                condition=condition,
                reverse=reverse,
                any_of=fields.sent.get(f"{prefix}join") == "any",
                hold_s=_if_typed(fields, f"{prefix}lasts_s"),
            )
        )
    for_s = fields.sent.get("edge_s", "").strip()
    parts = RuleParts(
        main=main,
        reverse=denied,
        on_s=_if_typed(fields, "hold_on_s") if kind != "band" else 0.0,
        off_s=_if_typed(fields, "hold_off_s") if kind != "band" else 0.0,
        for_s=seconds_of(fields, "edge_s", low=0.05) if for_s else None,
        rows=tuple(rows),
        among=fields.sent.get("among") == "any" and any(row.any_of for row in rows),
        whole_s=_if_typed(fields, "whole_s"),
    )
    if fields.errors:
        return None
    try:
        return put_together(parts)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        fields.refuse("c_kind", first.got, first.allowed)
        return None
