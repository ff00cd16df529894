"""Which probes, contacts and signals the working rules of a plan read."""

from collections.abc import Iterable, Iterator
from typing import Any

from aldea.core.base.errors import PlanError
from aldea.core.base.memo import per_plan
from aldea.core.plan.conditions import (
    Always,
    Contact,
    CountAbove,
    Every,
    InMode,
    InWindow,
    Named,
    Presence,
    QualityIs,
    Some,
    Sun,
    Unless,
    all_within,
)
from aldea.core.plan.controls import ControlAction
from aldea.core.plan.derived import Derived, read_by
from aldea.core.plan.document import Load, Plan, Rule

CONTACTS = (Contact, Presence)
CLOCKS = (InWindow, Sun, Always, Every, Some, Unless, Named)


def derived_of(plan: Plan, name: str) -> Derived | None:
    """The derived signal of that id, if there is one."""
    return _derived_by_id(plan).get(name)


@per_plan
def _derived_by_id(plan: Plan) -> dict[str, Derived]:
    return {signal.id: signal for signal in plan.derived}


@per_plan
def named_conditions(plan: Plan) -> dict[str, Any]:
    """The named conditions of a plan by their ids."""
    return {row.id: row.condition for row in plan.conditions}


def expanded(plan: Plan, condition: Any, path: tuple[str, ...] = ()) -> Iterator[Any]:
    """A condition and everything under it, named ones followed; a circle is refused."""
    for part in all_within(condition):
        yield part
        if not isinstance(part, Named):
            continue
        if part.condition in path:
            raise PlanError(
                f"condition {part.condition}",
                got="a condition that stands on itself: " + " → ".join((*path, part.condition)),
                allowed="conditions that end at a reading, a contact, a clock or a state",
                fix="Remove it from one of them.",
            )
        under = named_conditions(plan).get(part.condition)
        if under is None:
            raise PlanError(
                f"condition {part.condition}", got="none of that id", allowed="a condition's id"
            )
        yield from expanded(plan, under, (*path, part.condition))


def probes_under(plan: Plan, name: str, path: tuple[str, ...] = ()) -> tuple[str, ...]:
    """The probes that a reading rests on: itself, or those of a derived signal."""
    signal = derived_of(plan, name)
    if signal is None:
        if plan.probe(name) is None:
            raise PlanError(
                f"probe {name}",
                got="neither a probe nor a derived signal",
                allowed="the id of one of them",
                fix="Choose another probe, or remove the rule that names it.",
            )
        return (name,)
    if name in path:
        raise PlanError(
            f"derived signal {name}",
            got="a signal that is made of itself: " + " → ".join((*path, name)),
            allowed="signals that end at probes",
            fix="Use only probes in one of them.",
        )
    probes = (p for of in read_by(signal.made) for p in probes_under(plan, of, (*path, name)))
    return tuple(dict.fromkeys(probes))


def readings_of(plan: Plan, condition: Any) -> tuple[str, ...]:
    """The probes and derived signals whose values a condition reads, in their order."""
    readings: list[str] = []
    for part in expanded(plan, condition):
        if isinstance(part, (*CONTACTS, QualityIs)):
            continue
        readings += [getattr(part, key) for key in ("probe", "less") if hasattr(part, key)]
    return tuple(dict.fromkeys(readings))


def values_of(plan: Plan, condition: Any) -> tuple[str, ...]:
    """The probes on whose values a condition stands, in their order."""
    values = (p for name in readings_of(plan, condition) for p in probes_under(plan, name))
    return tuple(dict.fromkeys(values))


def rests_on_working_probes(plan: Plan, condition: Any) -> bool:
    """Whether every value that a condition reads comes from a probe that is set to work."""
    probes = (plan.probe(key) for key in values_of(plan, condition))
    return all(probe is not None and probe.stage == "working" for probe in probes)


def setting_conditions(plan: Plan, condition: Any) -> Iterator[Any]:
    """What sets, by itself, the modes that a condition looks at: each schedule and condition."""
    looked_at = {part.mode for part in expanded(plan, condition) if isinstance(part, InMode)}
    for mode in plan.modes:
        if mode.id in looked_at:
            yield from (change.when for change in mode.changes)


def contacts_of(plan: Plan, condition: Any) -> tuple[str, ...]:
    """The probes that a condition reads as contacts."""
    contacts = [part.probe for part in expanded(plan, condition) if isinstance(part, CONTACTS)]
    doors = {door.id: door for door in plan.doorways}
    for part in expanded(plan, condition):
        if isinstance(part, CountAbove) and part.doorway in doors:
            contacts += [doors[part.doorway].outer, doors[part.doorway].inner]
    return tuple(dict.fromkeys(contacts))


def probes_of_rule(plan: Plan, rule: Rule) -> tuple[str, ...]:
    """The probes whose values a rule stands on, in their order."""
    if rule.condition is None:
        return (rule.probe,) if rule.probe else ()
    return values_of(plan, rule.condition)


def probes_of_load(plan: Plan, load: Load) -> tuple[str, ...]:
    """The probes whose values the demands and schedules of a load stand on, in their order."""
    return tuple(
        dict.fromkeys(
            probe
            for rule in working_rules(plan, load.id)
            if rule.priority in ("schedule", "demand")
            for probe in probes_of_rule(plan, rule)
        )
    )


def unspoken_probes(plan: Plan, load: Load) -> tuple[str, ...]:
    """Of the probes that a load follows those that no sensor fault rule of its own is on."""
    own = {rule.probe for rule in working_rules(plan, load.id) if rule.priority == "fault"}
    return tuple(probe for probe in probes_of_load(plan, load) if probe not in own)


def lost_together(plan: Plan, load: Load) -> tuple[str, ...]:
    """The probes that are all lost before a load goes to its state; empty where one is enough.

    Where each lost probe stops only its own rules, the load goes on while one of the probes that
    it follows is left, also one that has a sensor fault rule of its own.
    """
    followed = probes_of_load(plan, load)
    by_rule = load.on_sensor_fault.each == "rule" and load.on_sensor_fault.state != "keep"
    return followed if by_rule and len(followed) > 1 and unspoken_probes(plan, load) else ()


def by_the_clock(plan: Plan, rule: Rule) -> bool:
    """Whether a rule stands on the calendar alone: no reading, person or other load changes it."""
    if rule.condition is None:
        return False
    return all(isinstance(part, CLOCKS) for part in expanded(plan, rule.condition))


def reads_the_clock(plan: Plan, rule: Rule) -> bool:
    """Whether a rule looks at a schedule or the sun."""
    parts = expanded(plan, rule.condition) if rule.condition is not None else ()
    return any(isinstance(part, (InWindow, Sun)) for part in parts)


def working_rules(plan: Plan, load_id: str) -> tuple[Rule, ...]:
    """The rules on a load that say anything."""
    return tuple(rule for rule in plan.rules_of(load_id) if not rule.disabled)


def position_probes(load: Load) -> tuple[str, ...]:
    """The probe whose distance tells where a drive stands, where contacts do not."""
    drive = load.drive
    by_distance = drive is not None and drive.position == "distance"
    if drive is None or not by_distance or drive.distance_probe is None:
        return ()
    return (drive.distance_probe,)


def readers_of(plan: Plan, probe: str) -> list[str]:
    """The ids of the rules, conditions, signals and doorways that read a probe, of any load."""
    rules = [(c.id, c) for c in plan.rules]
    readers = [key for key, rule in rules if rule.probe == probe or _reads(plan, rule, probe)]
    for row in plan.conditions:
        names = (*readings_of(plan, row.condition), *contacts_of(plan, row.condition))
        if probe in names or _judges(plan, row.condition, probe):
            readers.append(row.id)
    readers += [signal.id for signal in plan.derived if probe in read_by(signal.made)]
    readers += [door.id for door in plan.doorways if probe in (door.outer, door.inner)]
    return list(dict.fromkeys(readers))


def want_reaches(plan: Plan, want: ControlAction, load: Load) -> bool:
    """Whether what a press, a code or a position wants is of a load, by itself or in its group."""
    group = plan.group(want.group) if want.group else None
    return want.does != "mode" and load.id in (group.members if group else (want.load,))


def in_words(plan: Plan, keys: Iterable[str]) -> list[str]:
    """Rules, conditions, signals and doorways by what people call them, each once."""
    named = {c.id: c.name or c.id for c in plan.conditions}
    named |= {signal.id: signal.name for signal in plan.derived}
    named |= {door.id: door.name for door in plan.doorways}
    named |= {load.id: load.name for load in plan.loads}
    for rule in plan.rules:
        load = plan.load(rule.load)
        named[rule.id] = f"{load.name if load else rule.load} ({rule.name or rule.priority})"
    return list(dict.fromkeys(named.get(key, key) for key in keys))


def _reads(plan: Plan, rule: Rule, probe: str) -> bool:
    if rule.condition is None:
        return False
    names = (*probes_of_rule(plan, rule), *contacts_of(plan, rule.condition))
    return probe in names or _judges(plan, rule.condition, probe)


def _judges(plan: Plan, condition: Any, probe: str) -> bool:
    parts = expanded(plan, condition)
    return any(isinstance(part, QualityIs) and part.probe == probe for part in parts)


def stand_on_load(plan: Plan, load: str) -> list[str]:
    """The ids of the other loads, and of the conditions, whose rules look at a load."""
    rules = [(rule.load, rule.condition) for rule in plan.rules if rule.load != load]
    rules += [(row.id, row.condition) for row in plan.conditions]
    return list(
        dict.fromkeys(
            key
            for key, condition in rules
            if condition is not None
            and any(load in _loads_in(part) for part in expanded(plan, condition))
        )
    )


def _loads_in(part: Any) -> tuple[str | None, ...]:
    return (getattr(part, "load", None), getattr(part, "lamp", None))


def own_contacts(loads: Iterable[Load]) -> frozenset[str]:
    """The probes that sense what loads themselves do: ends of drives, lamps behind two switches."""
    contacts: list[str | None] = []
    for load in loads:
        if load.two_way is not None:
            contacts.append(load.two_way.sense)
        if load.drive is not None:
            contacts += [load.drive.open_contact, load.drive.shut_contact]
    return frozenset(probe for probe in contacts if probe is not None)
