"""Modes as tables, and what sets them by itself."""

from aldea.core.base.errors import PlanError
from aldea.core.engine.compiling.conditions import ConditionTable
from aldea.core.engine.compiling.names import Rows
from aldea.core.engine.layout import NONE
from aldea.core.engine.tables import people as tab
from aldea.core.plan.conditions import InMode, InWindow, Named
from aldea.core.plan.document import Plan
from aldea.core.plan.house_rules import Mode
from aldea.core.plan.reading import expanded, rests_on_working_probes


def mode_rows(plan: Plan) -> list[tab.ModeSpec]:
    """Every mode: the value it starts with, and how many there are."""
    return [
        tab.ModeSpec(
            start=mode.values.index(mode.start) if mode.start in mode.values else 0,
            values=len(mode.values),
        )
        for mode in plan.modes
    ]


def mode_change_author(when: InWindow | Named) -> str:
    """The author of a mode that a schedule or a condition sets."""
    return when.schedule if isinstance(when, InWindow) else when.condition


def mode_change_rows(
    plan: Plan, conditions: ConditionTable, authors: Rows
) -> list[tab.ModeChangeSpec]:
    """What sets modes by itself; its conditions take the first rows of the table.

    A condition on a probe that is only planned sets nothing. `PlanError` where a condition reads a
    mode: two modes could then set each other for ever.
    """
    mode_changes = [
        (index, mode, change)
        for index, mode in enumerate(plan.modes)
        for change in mode.changes
        if rests_on_working_probes(plan, change.when)
    ]
    for _, mode, change in mode_changes:
        if any(isinstance(part, InMode) for part in expanded(plan, change.when)):
            raise PlanError(
                f"mode {mode.id}",
                got=f"set by {mode_change_author(change.when)}, a condition on a mode",
                allowed="a schedule, or a condition that reads no mode",
                fix="Choose another schedule or condition.",
            )
    nodes = [conditions.add(change.when) for _, _, change in mode_changes]
    before = len(conditions.rows)
    return [
        tab.ModeChangeSpec(
            node=node,
            before=before,
            mode=row,
            begin=_value(mode, change.value),
            end=_value(mode, change.end_value),
            author=authors.give(mode_change_author(change.when)),
            on_boot=int(change.after_power_cut == "set"),
        )
        for node, (row, mode, change) in zip(nodes, mode_changes, strict=True)
    ]


def _value(mode: Mode, value: str | None) -> int:
    if value is None:
        return NONE
    if value not in mode.values:
        raise PlanError(
            f"mode {mode.id}", got=repr(value), allowed="one of " + ", ".join(mode.values)
        )
    return mode.values.index(value)
