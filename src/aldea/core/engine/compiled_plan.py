"""From the plan document to flat typed tables: index instead of name."""

from dataclasses import dataclass

from aldea.core.base.errors import PlanError
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.engine.compiling.conditions import ConditionTable
from aldea.core.engine.compiling.loads import LineName, LoadTable
from aldea.core.engine.compiling.memory import Known, memory_fields, policy_of
from aldea.core.engine.compiling.modes import mode_change_rows, mode_rows
from aldea.core.engine.compiling.moments import begun_rows
from aldea.core.engine.compiling.names import Rows, RuleRow, ms
from aldea.core.engine.compiling.people import (
    BUTTONS,
    OUTSIDE_AUTHOR,
    WALL_AUTHOR,
    ActionTable,
    ControlTable,
)
from aldea.core.engine.compiling.rules import RuleTable
from aldea.core.engine.compiling.signals import SignalTable
from aldea.core.engine.layout import ENDS_BY_POSITION, NONE
from aldea.core.engine.tables.conditions import ConditionSpec
from aldea.core.engine.tables.loads import ExclusiveSpec, LineSpec, LoadSpec, PatternSpec, RuleSpec
from aldea.core.engine.tables.memory import FieldSpec
from aldea.core.engine.tables.people import (
    ACT_OVERRIDE,
    ACT_STEP,
    ACT_TOGGLE,
    ActionSpec,
    BegunSpec,
    ButtonSpec,
    CodeSpec,
    DoorwaySpec,
    GroupSpec,
    InputSpec,
    ModeChangeSpec,
    ModeSpec,
    PositionSpec,
    SelectorSpec,
)
from aldea.core.engine.tables.probes import DerivedSpec, ProbeSpec
from aldea.core.engine.tables.rows import I8, I16, I32, I64, cells_of, table_of
from aldea.core.engine.tables.run import PlanTables
from aldea.core.plan.conditions import QualityIs
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.reading import (
    expanded,
    position_probes,
    probes_of_rule,
    rests_on_working_probes,
    values_of,
    working_rules,
)

__all__ = ["CompiledPlan", "LineName", "RuleRow", "compile_plan"]


COMMANDS = (ACT_OVERRIDE, ACT_TOGGLE, ACT_STEP)


@dataclass(frozen=True, slots=True, kw_only=True)
class CompiledPlan:
    """A compiled plan: its tables, and what their rows mean.

    `inputs` are the digital inputs: `probe:<id>` for contacts and motion, `control:<id>` for what
    people work. `authors` are those who may speak with an override, the wall switch first.
    """

    plan: Plan
    period_ms: int
    probe_ids: tuple[str, ...]
    load_ids: tuple[str, ...]
    rule_rows: tuple[RuleRow, ...]
    line_names: tuple[LineName, ...]
    input_ids: tuple[str, ...]
    authors: tuple[str, ...]
    codes: tuple[str, ...]
    mode_ids: tuple[str, ...]
    doorway_ids: tuple[str, ...]
    schedule_ids: tuple[str, ...]
    conditions: dict[str, int]
    field_names: tuple[str, ...]
    sun: bool
    tables: PlanTables

    def load_index(self, load_id: str) -> int:
        """Row of a load; `PlanError` where nothing switches it yet."""
        return Rows.of("load", self.load_ids).find(load_id)


def compile_plan(plan: Plan, *, every_probe: bool = False) -> CompiledPlan:
    """Compile the working loads of a plan, their rules and all that these read.

    Planned loads and probes are left out: they switch nothing yet. With `every_probe` all working
    probes are judged, also those that no rule reads. Raises `PlanError` where a rule names what is
    not there, or stands on itself.
    """
    loads = [load for load in plan.loads if load.stage == "working"]
    probes = _probes(plan, loads, every_probe=every_probe)
    load_rows = Rows.of("load", (load.id for load in loads))
    modes = Rows.of("mode", (mode.id for mode in plan.modes))
    doorways = Rows.of("doorway", (door.id for door in plan.doorways))
    schedules = Rows.of("schedule", (schedule.id for schedule in plan.schedules))
    inputs = Rows("input")
    authors = Rows.of("author", (WALL_AUTHOR, OUTSIDE_AUTHOR))
    signals = SignalTable(plan, Rows.of("probe", (probe.id for probe in probes)))
    conditions = ConditionTable(
        plan=plan,
        signals=signals,
        inputs=inputs,
        loads=load_rows,
        probes=signals.probes,
        modes=modes,
        doorways=doorways,
        schedules=schedules,
    )
    mode_changes = mode_change_rows(plan, conditions, authors)
    for row in plan.conditions:
        if rests_on_working_probes(plan, row.condition):
            conditions.name(row.id)
    rules = RuleTable(plan, conditions, [], [], [])
    table = LoadTable(plan, rules, signals, inputs)
    for index, load in enumerate(loads):
        table.add(index, load)
    actions = ActionTable(plan, load_rows, modes, rules.names)
    controls = ControlTable(plan, actions, inputs, authors, Rows("code"))
    for control in plan.controls:
        controls.add(control)
    _rule_by_dials(table.rows, controls)
    groups, group_members = _groups(plan, load_rows)
    doors = _doorways(plan, inputs)
    begun = begun_rows(plan.schedules)
    fields, names = memory_fields(
        plan,
        Known(
            loads=load_rows,
            modes=modes,
            doorways=doorways,
            schedules=schedules,
            conditions=conditions,
            load_rows=table.rows,
            rules=rules.names,
            trips=rules.trips,
            begun=begun,
            groups=plan.groups,
        ),
    )
    probe_rows, rate_feeds = signals.probe_rows(probes)
    exclusive, exclusive_lines = _exclusive(plan, table.line_names)
    return CompiledPlan(
        plan=plan,
        period_ms=plan.scan_period_ms,
        probe_ids=signals.probes.names,
        load_ids=load_rows.names,
        rule_rows=tuple(rules.names),
        line_names=tuple(table.line_names),
        input_ids=inputs.names,
        authors=authors.names,
        codes=controls.codes.names,
        mode_ids=modes.names,
        doorway_ids=doorways.names,
        schedule_ids=schedules.names,
        conditions=dict(conditions.named),
        field_names=names,
        sun=conditions.sun,
        tables=PlanTables(
            probes=table_of(ProbeSpec, probe_rows),
            derived=table_of(DerivedSpec, signals.rows),
            signal_members=cells_of(I32, signals.members),
            rate_feeds=cells_of(I32, rate_feeds),
            conditions=table_of(ConditionSpec, conditions.rows),
            condition_members=cells_of(I32, conditions.members),
            loads=table_of(LoadSpec, table.rows),
            rules=table_of(RuleSpec, rules.rows),
            lines=table_of(LineSpec, table.lines),
            combos=cells_of(I8, table.combos),
            patterns=table_of(PatternSpec, table.patterns),
            parts_ms=cells_of(I64, table.parts_ms),
            exclusive=table_of(ExclusiveSpec, exclusive),
            exclusive_lines=cells_of(I16, exclusive_lines),
            inputs=table_of(InputSpec, [_input(plan, name) for name in inputs.names]),
            buttons=table_of(ButtonSpec, controls.buttons),
            selectors=table_of(SelectorSpec, controls.selectors),
            positions=table_of(PositionSpec, controls.positions),
            codes=table_of(CodeSpec, controls.code_rows),
            actions=table_of(ActionSpec, actions.rows),
            modes=table_of(ModeSpec, mode_rows(plan)),
            mode_changes=table_of(ModeChangeSpec, mode_changes),
            groups=table_of(GroupSpec, groups),
            group_members=cells_of(I16, group_members),
            doorways=table_of(DoorwaySpec, doors),
            begun=table_of(BegunSpec, begun),
            fields=table_of(FieldSpec, fields),
            policy=policy_of(plan),
        ),
    )


def _probes(plan: Plan, loads: list[Load], *, every_probe: bool) -> list[Probe]:
    """The probes that are read as values, in the plan's order."""
    read: set[str] = set()
    for load in loads:
        read.update(position_probes(load))
        for rule in working_rules(plan, load.id):
            read.update(probes_of_rule(plan, rule))
            if rule.probe is not None:
                read.add(rule.probe)
    named = set(read)
    for row in plan.conditions:
        if rests_on_working_probes(plan, row.condition):
            named.update(values_of(plan, row.condition))
    wanted = named | _judged(plan)
    probes = [
        probe
        for probe in plan.probes
        if probe.id in wanted or (every_probe and probe.stage == "working")
    ]
    for probe in probes:
        if probe.stage != "working":
            raise PlanError(
                f"probe {probe.id}",
                got="stage planned",
                allowed="working, for a working load reads it",
                fix="Set the probe to work, or take out the rule that reads it.",
            )
    return probes


def _input(plan: Plan, name: str) -> InputSpec:
    """A digital input and the time for which a level must stand; a selector settles by itself."""
    kind, _, key = name.partition(":")
    debounce_ms = 0.0
    probe = plan.probe(key) if kind == "probe" else None
    if probe is not None and isinstance(probe.sensor, ContactSensor):
        debounce_ms = probe.sensor.debounce_ms
    for control in plan.controls:
        if name == f"control:{control.id}" and control.kind in BUTTONS:
            debounce_ms = control.debounce_ms
    return InputSpec(debounce_ms=round(debounce_ms))


def _judged(plan: Plan) -> set[str]:
    """The probes whose quality alone is looked at."""
    rules = [
        row.condition for row in plan.conditions if rests_on_working_probes(plan, row.condition)
    ]
    working = {load.id for load in plan.loads if load.stage == "working"}
    rules += [c.condition for c in plan.rules if c.condition and c.load in working]
    return {
        part.probe for rule in rules for part in expanded(plan, rule) if isinstance(part, QualityIs)
    }


def _exclusive(plan: Plan, lines: list[LineName]) -> tuple[list[ExclusiveSpec], list[int]]:
    row_of = {name.relay: row for row, name in enumerate(lines) if name.relay is not None}
    groups: list[ExclusiveSpec] = []
    members: list[int] = []
    for group in plan.exclusive:
        there = [row_of[relay] for relay in group.relays if relay in row_of]
        first = len(members)
        members += there
        groups.append(ExclusiveSpec(first=first, end=len(members), dead_ms=ms(group.dead_s)))
    return groups, members


def _groups(plan: Plan, loads: Rows) -> tuple[list[GroupSpec], list[int]]:
    """Groups with the rows of their working members, in their order."""
    groups: list[GroupSpec] = []
    members: list[int] = []
    for group in plan.groups:
        first = len(members)
        members += [loads.find(name) for name in group.members if name in loads.names]
        groups.append(
            GroupSpec(
                stagger_ms=ms(group.stagger_s),
                boot_ms=ms(plan.boot.delay_s),
                first=first,
                end=len(members),
            )
        )
    return groups, members


def _rule_by_dials(loads: list[LoadSpec], controls: ControlTable) -> None:
    """Note at each load the selector whose position rules it."""
    for load in loads:
        load.dial = NONE
    for row, selector in enumerate(controls.selectors):
        for position in controls.positions[selector.first : selector.end]:
            for action in controls.actions.rows[position.first : position.end]:
                if action.kind not in COMMANDS:
                    continue
                load = loads[action.who]
                ends_by = load.ends_by if action.ends_by == NONE else action.ends_by
                if ends_by == ENDS_BY_POSITION and load.dial == NONE:
                    load.dial = row


def _doorways(plan: Plan, inputs: Rows) -> list[DoorwaySpec]:
    return [
        DoorwaySpec(
            outer=inputs.give(f"probe:{door.outer}"),
            inner=inputs.give(f"probe:{door.inner}"),
            within_ms=ms(door.within_s),
        )
        for door in plan.doorways
    ]
