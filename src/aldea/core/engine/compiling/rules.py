"""Rules as a table: by load, highest priority first; override and default state last."""

from dataclasses import dataclass

from aldea.core.base.errors import PlanError
from aldea.core.engine.compiling.conditions import ConditionTable
from aldea.core.engine.compiling.names import RuleRow, ms
from aldea.core.engine.compiling.wants import want_code
from aldea.core.engine.layout import (
    GOOD,
    NONE,
    PRIORITY_CODES,
    PRIORITY_DEFAULT,
    PRIORITY_FAULT,
    PRIORITY_OVERRIDE,
    QUALITY_NAMES,
    WANT_OFF,
    WANT_ON,
)
from aldea.core.engine.tables.loads import RuleSpec
from aldea.core.plan.conditions import Beyond, Every
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.reading import (
    lost_together,
    probes_of_rule,
    unspoken_probes,
    working_rules,
)
from aldea.core.plan.without_reading import by_its_rule

NEVER_REACHED = 1e30  # by no reading: true by the lack of one alone, from the last that was good
ALL_BUT_GOOD = sum(1 << code for code in range(len(QUALITY_NAMES)) if code != GOOD)


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleSpan:
    """Where the rules of a load stand: first, its override, at idle, at idle as it was before."""

    first: int
    override: int
    rest: int
    last: int


@dataclass(slots=True)
class RuleTable:
    """Rules of all loads, a load after the other."""

    plan: Plan
    conditions: ConditionTable
    rows: list[RuleSpec]
    names: list[RuleRow]
    trips: list[int]

    def load(self, index: int, load: Load) -> RuleSpan:
        """All rules of one load."""
        first = len(self.rows)
        rules = working_rules(self.plan, load.id)
        unspoken = unspoken_probes(self.plan, load)
        spec = [self._rule(index, load, by_its_rule(load, rule, unspoken)) for rule in rules]
        if load.on_sensor_fault.state != "keep" and unspoken:
            if together := lost_together(self.plan, load):
                spec.append(self._all_silent(index, load, together))
            else:
                spec += [self._silent(index, load, probe) for probe in unspoken]
        for row, name in sorted(spec, key=lambda pair: pair[1].priority):
            if name.priority == PRIORITY_CODES["trip"]:
                self.trips.append(len(self.rows))
            self.rows.append(row)
            self.names.append(name)
        override = self._extra(index, load, PRIORITY_OVERRIDE, WANT_OFF)
        idle = load.default_state
        want = want_code(load, idle.want, level=idle.level, percent=idle.percent)
        rest = self._extra(index, load, PRIORITY_DEFAULT, want)
        last = self._extra(index, load, PRIORITY_DEFAULT, WANT_OFF)
        return RuleSpan(first=first, override=override, rest=rest, last=last)

    def _extra(self, index: int, load: Load, priority: int, want: int) -> int:
        self.rows.append(self._row(index, priority, want))
        self.names.append(RuleRow(load=load.id, priority=priority, rule=None, probe=None))
        return len(self.rows) - 1

    def _silent(self, index: int, load: Load, probe: str) -> tuple[RuleSpec, RuleRow]:
        want = WANT_ON if load.on_sensor_fault.state == "on" else WANT_OFF
        row = self._fault(index, want, probe, ALL_BUT_GOOD, ms(load.on_sensor_fault.after_s))
        return row, RuleRow(load=load.id, priority=PRIORITY_FAULT, rule=None, probe=probe)

    def _all_silent(
        self, index: int, load: Load, probes: tuple[str, ...]
    ) -> tuple[RuleSpec, RuleRow]:
        """The fault of a load that goes on while one probe of its is good: all are lost."""
        lost = tuple(
            Beyond(
                kind="above",
                probe=probe,
                value=NEVER_REACHED,
                without_reading="true",
                unchanged_for_s=load.on_sensor_fault.after_s,
            )
            for probe in probes
        )
        row = self._row(
            index, PRIORITY_FAULT, WANT_ON if load.on_sensor_fault.state == "on" else WANT_OFF
        )
        row.node = self.conditions.add(Every(of=lost), owner=f"{load.id} all lost")
        row.signal = self.conditions.signal_of(row.node)
        return row, RuleRow(load=load.id, priority=PRIORITY_FAULT, rule=None, probe=probes[0])

    def _rule(self, index: int, load: Load, rule: Rule) -> tuple[RuleSpec, RuleRow]:
        priority = PRIORITY_CODES[rule.priority]
        want = want_code(load, rule.want, level=rule.level, percent=rule.percent)
        pulse_ms = NONE
        if rule.want == "pulse":
            if rule.pulse_s is None:
                raise PlanError(
                    f"rule {rule.id}", got="a pulse without a length", allowed="seconds"
                )
            pulse_ms = ms(rule.pulse_s)
        if rule.condition is None:
            if rule.priority != "fault" or rule.probe is None:
                raise PlanError(
                    f"rule {rule.id}",
                    got="no condition",
                    allowed="a condition; of a fault a probe may stand in its place",
                )
            mask = sum(1 << QUALITY_NAMES.index(name) for name in set(rule.qualities))
            row = self._fault(index, want, rule.probe, mask, ms(rule.after_s))
            row.pulse_ms = pulse_ms
            return row, RuleRow(load=load.id, priority=priority, rule=rule.id, probe=rule.probe)
        node = self.conditions.add(rule.condition, owner=rule.id)
        row = self._row(index, priority, want)
        row.node = node
        row.pulse_ms = pulse_ms
        row.signal = self.conditions.signal_of(node)
        read = probes_of_rule(self.plan, rule)
        name = RuleRow(
            load=load.id, priority=priority, rule=rule.id, probe=read[0] if read else None
        )
        return row, name

    def _fault(self, index: int, want: int, probe: str, mask: int, after_ms: int) -> RuleSpec:
        row = self._row(index, PRIORITY_FAULT, want)
        row.probe = row.signal = self.conditions.probes.find(probe)
        row.qualities = mask
        row.after_ms = after_ms
        return row

    def _row(self, index: int, priority: int, want: int) -> RuleSpec:
        return RuleSpec(
            load=index,
            priority=priority,
            want=want,
            node=NONE,
            probe=NONE,
            signal=NONE,
            pulse_ms=NONE,
        )
