"""A house and each of its loads in a paragraph, as the printed rules begin."""

from collections import Counter

from aldea.core.base.figures import short
from aldea.core.base.listing import listed
from aldea.core.devices.loads.classes import LOAD_CLASSES
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import probes_of_rule
from aldea.core.words.power_cut import without_supply

PRIORITY_NAMES = {
    "trip": ("trip", "trips"),
    "interlock": ("interlock", "interlocks"),
    "fault": ("sensor fault rule", "sensor fault rules"),
    "schedule": ("schedule rule", "schedule rules"),
    "demand": ("demand", "demands"),
}


def house_summary(plan: Plan) -> tuple[str, ...]:
    """What the house has and by what it is switched, a sentence each."""
    parts = [
        _counted(len(plan.loads), "load"),
        _counted(len(plan.probes), "probe"),
        _counted(len(plan.controls), "control"),
    ]
    places = _counted(len(plan.places), "place")
    boards = _counted(len(plan.boards), "board")
    kinds: Counter[str] = Counter(rule.priority for rule in plan.rules if not rule.disabled)
    rules = [
        f"{kinds[priority]} {names[kinds[priority] != 1]}"
        for priority, names in PRIORITY_NAMES.items()
        if kinds[priority]
    ]
    off = sum(rule.disabled for rule in plan.rules)
    house = plan.house
    return (
        f"{listed(parts)} in {places}, on {boards}.",
        f"{listed(rules)}{f'; {off} disabled' if off else ''}." if rules else "No rule yet.",
        f"Mains {short(house.mains_v)} V, {short(house.mains_hz)} Hz.",
        f"Times are those of {house.time_zone}.",
    )


def load_summary(plan: Plan, load: Load) -> str:
    """What a load is, what switches it, what its rules read, and how it is without supply."""
    facts, safety = LOAD_FACTS[load.kind], LOAD_CLASSES[load.load_class]
    volts = f"{short(plan.house.mains_v if load.volts is None else load.volts)} V"
    relays = [relay.id.upper() for relay in plan.relays_of(load.id)]
    by = f", switched by {listed(relays)}" if relays else ", no relay yet"
    read: dict[str, None] = {}
    for rule in plan.rules:
        if rule.load == load.id:
            read |= dict.fromkeys(reading_name(plan, probe) for probe in probes_of_rule(plan, rule))
    reads = f" Its rules read {listed(list(read))}." if read else ""
    return (
        f"{facts.name[:1].upper()}{facts.name[1:]}, class {safety.name}, {short(load.power_w)} W "
        f"at {volts}{by}.{reads} Without supply it {without_supply(load, plan)}."
    )


def _counted(number: int, name: str) -> str:
    return f"{number} {name}{'' if number == 1 else 's'}"
