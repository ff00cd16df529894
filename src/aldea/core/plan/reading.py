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
    InWindow,
    Named,
    Presence,
    QualityIs,
    Some,
    Sun,
    Unless,
    all_within,
)
from aldea.core.plan.derived import Derived, read_by
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.hands import HandWant

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
                mend="Remove it from one of them.",
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
                mend="Choose another probe, or remove the rule that names it.",
            )
        return (name,)
    if name in path:
        raise PlanError(
            f"derived signal {name}",
            got="a signal that is made of itself: " + " → ".join((*path, name)),
            allowed="signals that end at probes",
            mend="Make one of them of probes alone.",
        )
    found = (p for of in read_by(signal.made) for p in probes_under(plan, of, (*path, name)))
    return tuple(dict.fromkeys(found))


def readings_of(plan: Plan, condition: Any) -> tuple[str, ...]:
    """The probes and derived signals whose values a condition reads, in their order."""
    found: list[str] = []
    for part in expanded(plan, condition):
        if isinstance(part, (*CONTACTS, QualityIs)):
            continue
        found += [getattr(part, key) for key in ("probe", "less") if hasattr(part, key)]
    return tuple(dict.fromkeys(found))


def contacts_of(plan: Plan, condition: Any) -> tuple[str, ...]:
    """The probes that a condition reads as contacts."""
    found = [part.probe for part in expanded(plan, condition) if isinstance(part, CONTACTS)]
    doors = {door.id: door for door in plan.doorways}
    for part in expanded(plan, condition):
        if isinstance(part, CountAbove) and part.doorway in doors:
            found += [doors[part.doorway].outer, doors[part.doorway].inner]
    return tuple(dict.fromkeys(found))


def probes_of_claim(plan: Plan, claim: Claim) -> tuple[str, ...]:
    """The probes whose values a claim stands on, in their order."""
    if claim.condition is None:
        return (claim.probe,) if claim.probe else ()
    found = (p for name in readings_of(plan, claim.condition) for p in probes_under(plan, name))
    return tuple(dict.fromkeys(found))


def probes_of_load(plan: Plan, load: Load) -> tuple[str, ...]:
    """The probes whose values the demands and schedules of a load stand on, in their order."""
    return tuple(
        dict.fromkeys(
            probe
            for claim in working_claims(plan, load.id)
            if claim.rank in ("schedule", "demand")
            for probe in probes_of_claim(plan, claim)
        )
    )


def unspoken_probes(plan: Plan, load: Load) -> tuple[str, ...]:
    """Of the probes that a load follows those that no sensor fault rule of its own is on."""
    own = {claim.probe for claim in working_claims(plan, load.id) if claim.rank == "fault"}
    return tuple(probe for probe in probes_of_load(plan, load) if probe not in own)


def by_the_clock(plan: Plan, claim: Claim) -> bool:
    """Whether a claim stands on the calendar alone: no reading, person or other load changes it."""
    if claim.condition is None:
        return False
    return all(isinstance(part, CLOCKS) for part in expanded(plan, claim.condition))


def reads_the_clock(plan: Plan, claim: Claim) -> bool:
    """Whether a claim looks at a schedule or the sun."""
    parts = expanded(plan, claim.condition) if claim.condition is not None else ()
    return any(isinstance(part, (InWindow, Sun)) for part in parts)


def working_claims(plan: Plan, load_id: str) -> tuple[Claim, ...]:
    """The claims on a load that say anything."""
    return tuple(claim for claim in plan.claims_of(load_id) if not claim.off_for_now)


def position_probes(load: Load) -> tuple[str, ...]:
    """The probe whose distance tells where a drive stands, where contacts do not."""
    drive = load.drive
    by_distance = drive is not None and drive.position == "distance"
    if drive is None or not by_distance or drive.distance_probe is None:
        return ()
    return (drive.distance_probe,)


def readers_of(plan: Plan, probe: str) -> list[str]:
    """The ids of the claims, conditions, signals and doorways that read a probe, of any load."""
    rules = [(c.id, c) for c in plan.claims]
    found = [key for key, claim in rules if claim.probe == probe or _reads(plan, claim, probe)]
    for row in plan.conditions:
        names = (*readings_of(plan, row.condition), *contacts_of(plan, row.condition))
        if probe in names or _judges(plan, row.condition, probe):
            found.append(row.id)
    found += [signal.id for signal in plan.derived if probe in read_by(signal.made)]
    found += [door.id for door in plan.doorways if probe in (door.outer, door.inner)]
    return list(dict.fromkeys(found))


def want_reaches(plan: Plan, want: HandWant, load: Load) -> bool:
    """Whether what a press, a code or a position wants is of a load, by itself or in its group."""
    group = plan.group(want.group) if want.group else None
    return want.does != "mode" and load.id in (group.members if group else (want.load,))


def in_words(plan: Plan, keys: Iterable[str]) -> list[str]:
    """Rules, conditions, signals and doorways by what people call them, each once."""
    named = {c.id: c.name or c.id for c in plan.conditions}
    named |= {signal.id: signal.name for signal in plan.derived}
    named |= {door.id: door.name for door in plan.doorways}
    named |= {load.id: load.name for load in plan.loads}
    for claim in plan.claims:
        load = plan.load(claim.load)
        named[claim.id] = f"{load.name if load else claim.load} ({claim.name or claim.rank})"
    return list(dict.fromkeys(named.get(key, key) for key in keys))


def _reads(plan: Plan, claim: Claim, probe: str) -> bool:
    if claim.condition is None:
        return False
    names = (*probes_of_claim(plan, claim), *contacts_of(plan, claim.condition))
    return probe in names or _judges(plan, claim.condition, probe)


def _judges(plan: Plan, condition: Any, probe: str) -> bool:
    parts = expanded(plan, condition)
    return any(isinstance(part, QualityIs) and part.probe == probe for part in parts)


def stand_on_load(plan: Plan, load: str) -> list[str]:
    """The ids of the other loads, and of the conditions, whose rules look at a load."""
    rules = [(claim.load, claim.condition) for claim in plan.claims if claim.load != load]
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
    found: list[str | None] = []
    for load in loads:
        if load.two_way is not None:
            found.append(load.two_way.sense)
        if load.drive is not None:
            found += [load.drive.open_contact, load.drive.shut_contact]
    return frozenset(probe for probe in found if probe is not None)
