"""What the plan retains, as fields with their cells."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from aldea.core.base.errors import PlanError
from aldea.core.devices.loads.classes import must_rest
from aldea.core.engine.compiling.conditions import ConditionTable
from aldea.core.engine.compiling.names import Rows, RuleRow, ms
from aldea.core.engine.layout import NONE
from aldea.core.engine.tables import memory as tab
from aldea.core.engine.tables.loads import LoadSpec
from aldea.core.engine.tables.people import BegunSpec
from aldea.core.plan.conditions import Band
from aldea.core.plan.controls import LoadGroup
from aldea.core.plan.document import Load, Plan

KINDS = {
    "load": tab.FIELD_LOAD,
    "mode": tab.FIELD_MODE,
    "count": tab.FIELD_COUNT,
    "band": tab.FIELD_BAND,
    "override": tab.FIELD_OVERRIDE,
    "lock_out": tab.FIELD_LOCK,
    "moments": tab.FIELD_MOMENTS,
    "group": tab.FIELD_GROUP,
}


def fields_of(plan: Plan) -> tuple[str, ...]:
    """The fields that a plan retains: as it lists them, else by the class of each load."""
    if plan.memory.fields is not None:
        return plan.memory.fields
    return tuple(_usual_fields(plan))


def _usual_fields(plan: Plan) -> Iterator[str]:
    for load in plan.loads:
        if load.stage == "working":
            yield from _usual_of_load(load)
    yield from (f"mode:{mode.id}" for mode in plan.modes if mode.retained)
    yield from (f"count:{door.id}" for door in plan.doorways if door.retained)
    named: list[tuple[str, object]] = [(row.id, row.condition) for row in plan.conditions]
    named += [(rule.id, rule.condition) for rule in plan.rules]
    for key, condition in named:
        if isinstance(condition, Band) and condition.retained:
            yield f"band:{key}"
    yield from (f"moments:{row.id}" for row in plan.schedules if row.moments)
    wants = [want for control in plan.controls for want in control.wants]
    commanded = {want.group for want in wants}
    yield from (f"group:{g.id}" for g in plan.groups if g.stagger_s and g.id in commanded)


def _usual_of_load(load: Load) -> Iterator[str]:
    as_it_was = load.power_return.policy == "last"
    if load.retained or (load.retained is None and as_it_was):
        yield f"load:{load.id}"
        yield f"override:{load.id}"
    if load.max_on_s is not None and must_rest(load.load_class):
        yield f"lock_out:{load.id}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """The rows that fields name."""

    loads: Rows
    modes: Rows
    doorways: Rows
    schedules: Rows
    conditions: ConditionTable
    load_rows: list[LoadSpec]
    rules: list[RuleRow]
    trips: list[int]
    begun: list[BegunSpec]
    groups: Sequence[LoadGroup]


def memory_fields(plan: Plan, known: Known) -> tuple[list[tab.FieldSpec], tuple[str, ...]]:
    """Fields with their cells, and their names; trips and drives locked out are always there."""
    rows: list[tab.FieldSpec] = []
    names: list[str] = []
    cell = 0

    def add(kind: int, who: int, cells: int, name: str) -> None:
        nonlocal cell
        rows.append(tab.FieldSpec(kind=kind, who=who, cell=cell, end=cell + cells))
        names.append(name)
        cell += cells

    for name in fields_of(plan):
        kind, _, what = name.partition(":")
        who = _row(plan, known, kind, what)
        if who is None:
            continue
        if kind == "lock_out":
            load = known.load_rows[who]
            cells = tab.LOCK_FIRST + load.last + 1 - load.first
        elif kind == "moments":
            cells = tab.MOMENTS_FIRST + known.begun[who].room
        elif kind == "group":
            cells = tab.GROUP_FIRST + len(known.groups[who].members)
        else:
            cells = tab.OVERRIDE_CELLS if kind == "override" else 1
        add(KINDS[kind], who, cells, name)
    for rule in known.trips:
        named = known.rules[rule]
        add(tab.FIELD_TRIP, rule, 1, f"trip:{named.load}/{named.rule}")
    for row, load in enumerate(known.load_rows):
        if load.tries:
            add(tab.FIELD_NOT_ARRIVING, row, 1, f"not_arriving:{known.loads.names[row]}")
    return rows, tuple(names)


def policy_of(plan: Plan) -> tab.PolicySpec:
    """When what changed is written."""
    policy = plan.memory
    return tab.PolicySpec(
        on=1,
        quiet_ms=ms(policy.quiet_s),
        latest_ms=NONE if policy.latest_s is None else ms(policy.latest_s),
        least_ms=ms(policy.least_s),
        bytes=policy.record_bytes,
    )


def _row(plan: Plan, known: Known, kind: str, what: str) -> int | None:
    """The row that a field names; None where its load is only planned."""
    if kind in ("load", "override", "lock_out"):
        load = plan.load(what)
        return None if load and load.stage != "working" else known.loads.find(what)
    if kind == "band":
        band = known.conditions.bands.get(what)
        if band is None and any(rule.id == what for rule in plan.rules):
            return None  # of a rule that says nothing now
        if band is None:
            raise PlanError(f"band:{what}", got="no band of that id", allowed="a band's id")
        return band
    if kind == "group":
        ids = [group.id for group in known.groups]
        if what not in ids:
            raise PlanError(f"group:{what}", got="no group of that id", allowed="a group's id")
        return ids.index(what)
    rows = {"mode": known.modes, "count": known.doorways, "moments": known.schedules}[kind]
    return rows.find(what)
