"""How the rules of a plan must fit its parts: rules, conditions, signals and schedules."""

from collections import Counter
from collections.abc import Iterator
from typing import Any

from aldea.core.base.errors import PlanError
from aldea.core.base.figures import short, thousands
from aldea.core.plan import conditions as con
from aldea.core.plan.derived import Derived
from aldea.core.plan.document import House, Plan, Probe, Rule
from aldea.core.plan.house_rules import Doorway, Mode
from aldea.core.plan.reading import expanded, probes_under
from aldea.core.plan.schedules import Schedule, SunEdge

NAMED_BY = {
    "probe": "the id of a probe or a derived signal",
    "load": "the id of a load",
    "mode": "the id of a mode and one of its values",
    "schedule": "the id of a schedule",
    "doorway": "the id of a doorway",
    "condition": "the id of a condition",
}


def placed(house: House) -> bool:
    """Whether a house says where on the earth it stands."""
    return house.latitude_deg is not None and house.longitude_deg is not None


def no_place() -> PlanError:
    """The refusal of a rule that follows the sun in a house without latitude and longitude."""
    return PlanError(
        "/house/latitude_deg",
        text="A rule that follows the sun needs the house’s latitude and longitude. "
        "Enter them in the house’s form at Lay out.",
    )


def follows_sun(schedule: Schedule) -> bool:
    """Whether an edge of a schedule is sunrise or sunset."""
    edges = [edge for window in schedule.windows for edge in (window.start, window.end)]
    return any(isinstance(edge, SunEdge) for edge in edges)


MOST_RULES = 200  # of one load: more nobody can read, and each is held against each


def rule_problems(plan: Plan) -> Iterator[PlanError]:
    """Every rule that does not fit the parts of its plan."""
    for index, row in enumerate(plan.conditions):
        yield from _condition_problems(f"/conditions/{index}/condition", row.condition, plan)
    for index, rule in enumerate(plan.rules):
        yield from _rule_problems(f"/rules/{index}", rule, plan)
    yield from _too_many(plan)
    for index, signal in enumerate(plan.derived):
        yield from _signal_problems(f"/derived/{index}", signal, plan)
    for index, schedule in enumerate(plan.schedules):
        yield from _schedule_problems(f"/schedules/{index}", schedule)
        if follows_sun(schedule) and not placed(plan.house):
            yield no_place()
    for index, mode in enumerate(plan.modes):
        if mode.start is not None and mode.start not in mode.values:
            yield PlanError(
                f"/modes/{index}/start",
                got=repr(mode.start),
                allowed="one of " + ", ".join(mode.values),
            )
        yield from _mode_change_problems(f"/modes/{index}/changes", mode, plan)
    for index, door in enumerate(plan.doorways):
        yield from _doorway_problems(f"/doorways/{index}", door, plan)
    relays = {relay.id for relay in plan.relays}
    for index, group in enumerate(plan.exclusive):
        for name in sorted(set(group.relays) - relays):
            yield PlanError(
                f"/exclusive/{index}/relays", got=repr(name), allowed="the id of a relay"
            )
    for index, probe in enumerate(plan.probes):
        yield from _filter_problems(f"/probes/{index}", probe)
    yield from _memory_problems(plan)


def _too_many(plan: Plan) -> Iterator[PlanError]:
    for load, count in Counter(rule.load for rule in plan.rules).items():
        if count > MOST_RULES:
            yield PlanError(
                "/rules",
                got=f"{thousands(count)} rules on {load}",
                allowed=f"{MOST_RULES} on one load",
                fix="Put what they have in common into a named condition.",
            )


def _signal_problems(path: str, signal: Derived, plan: Plan) -> Iterator[PlanError]:
    try:
        probes_under(plan, signal.id)
    except PlanError as refused:
        yield PlanError(path, got=refused.got, allowed=refused.allowed, fix=refused.fix)


def _mode_change_problems(path: str, mode: Mode, plan: Plan) -> Iterator[PlanError]:
    for index, change in enumerate(mode.changes):
        at = f"{path}/{index}"
        for key, value in (("value", change.value), ("end_value", change.end_value)):
            if value is not None and value not in mode.values:
                yield PlanError(
                    f"{at}/{key}", got=repr(value), allowed="one of " + ", ".join(mode.values)
                )
        if change.value is None and change.end_value is None:
            yield PlanError(
                f"{at}/value",
                got="no value at the beginning and none at the end",
                allowed=f"one of {', '.join(mode.values)} for one of them",
            )
        problems = list(_condition_problems(f"{at}/when", change.when, plan))
        yield from problems
        if not problems and any(isinstance(p, con.InMode) for p in expanded(plan, change.when)):
            yield PlanError(
                f"{at}/when",
                got="a condition on a mode",
                allowed="a schedule, or a condition that reads no mode",
                fix="Choose another one; modes that set each other would never settle.",
            )


def _doorway_problems(path: str, door: Doorway, plan: Plan) -> Iterator[PlanError]:
    for key, probe in (("outer", door.outer), ("inner", door.inner)):
        if plan.probe(probe) is None:
            yield PlanError(f"{path}/{key}", got=repr(probe), allowed="the id of a probe")
    if door.outer == door.inner:
        yield PlanError(
            f"{path}/inner",
            got="the same probe on both sides",
            allowed="two probes, for their order tells in from out",
        )


def _filter_problems(path: str, probe: Probe) -> Iterator[PlanError]:
    if probe.smoothing is not None and probe.averaging is not None:
        yield PlanError(
            f"{path}/averaging",
            got="two filters",
            allowed="one: a memory of some seconds, or the last readings",
            fix="Remove one of them.",
        )


def _rule_problems(path: str, rule: Rule, plan: Plan) -> Iterator[PlanError]:
    if plan.load(rule.load) is None:
        yield PlanError(
            f"{path}/load",
            got=repr(rule.load),
            allowed="the id of a load",
            fix="Choose a load that is there, or remove the rule.",
        )
    if rule.condition is not None:
        yield from _condition_problems(f"{path}/condition", rule.condition, plan)
    elif rule.priority != "fault" or rule.probe is None:
        yield PlanError(
            f"{path}/condition",
            got="nothing",
            allowed="a condition; of a fault a probe may stand in its place",
        )
    if rule.probe is not None and plan.probe(rule.probe) is None:
        yield PlanError(f"{path}/probe", got=repr(rule.probe), allowed="the id of a probe")
    for want, key in (("pulse", "pulse_s"), ("step", "level"), ("pattern", "level")):
        if rule.want == want and getattr(rule, key) is None:
            yield PlanError(f"{path}/{key}", got="nothing", allowed=f"a figure, for a {want}")
    if rule.want == "percent" and rule.percent is None:
        yield PlanError(f"{path}/percent", got="nothing", allowed="0 to 100")


def _condition_problems(path: str, condition: Any, plan: Plan) -> Iterator[PlanError]:
    try:
        parts = list(expanded(plan, condition))
    except PlanError as refused:
        yield PlanError(path, got=refused.got, allowed=refused.allowed, fix=refused.fix)
        return
    for part in parts:
        for key, what in _missing(part, plan):
            yield PlanError(
                f"{path}/{key}",
                got=repr(what),
                allowed=NAMED_BY.get(key, "the id of a probe"),
                fix="Choose one that is there, or remove the rule.",
            )
        if isinstance(part, con.Band):
            yield from _band_problems(path, part, plan)
        if isinstance(part, con.Sun) and not placed(plan.house):
            yield no_place()
        if isinstance(part, con.Within):
            low, high = part.low, part.high
            if low is not None and high is not None and not low < high:
                yield PlanError(f"{path}/high", got=f"{short(high)}", allowed=f"above {short(low)}")


def _missing(part: Any, plan: Plan) -> Iterator[tuple[str, str]]:
    """The fields of a condition that name what the plan does not have."""
    signals = {signal.id for signal in plan.derived}
    as_contact = isinstance(part, con.Contact | con.Presence | con.QualityIs | con.Tape | con.Gas)
    for key in ("probe", "less"):
        name = getattr(part, key, None)
        if not isinstance(name, str) or plan.probe(name) is not None:
            continue
        if as_contact or name not in signals:
            yield key, name
    for key in ("load", "lamp"):
        name = getattr(part, key, None)
        if isinstance(name, str) and plan.load(name) is None:
            yield key, name
    if isinstance(part, con.InMode):
        mode = next((mode for mode in plan.modes if mode.id == part.mode), None)
        if mode is None or part.value not in mode.values:
            yield "mode", f"{part.mode}: {part.value}"
    if isinstance(part, con.InWindow) and part.schedule not in {s.id for s in plan.schedules}:
        yield "schedule", part.schedule
    if isinstance(part, con.CountAbove) and part.doorway not in {d.id for d in plan.doorways}:
        yield "doorway", part.doorway


def _band_problems(path: str, band: con.Band, plan: Plan) -> Iterator[PlanError]:
    rising = band.direction == "rising"
    if not (
        band.off_threshold < band.on_threshold if rising else band.off_threshold > band.on_threshold
    ):
        yield PlanError(
            f"{path}/off_threshold",
            got=f"{short(band.off_threshold)}",
            allowed=f"{'below' if rising else 'above'} the on threshold {short(band.on_threshold)}",
        )
    probe = plan.probe(band.probe)
    for key in ("on_threshold", "off_threshold") if probe else ():
        value = getattr(band, key)
        if probe and not probe.range.low <= value <= probe.range.high:
            yield PlanError(
                f"{path}/{key}",
                got=f"{short(value)}",
                allowed=f"{short(probe.range.low)} to {short(probe.range.high)}, the range of "
                f"{probe.id}",
            )
    if band.entered is not None:
        half = band.entered.differential / 2
        ends = (band.entered.value + half, band.entered.value - half)
        on, off = ends if rising else ends[::-1]
        if abs(on - band.on_threshold) > 1e-9 or abs(off - band.off_threshold) > 1e-9:
            yield PlanError(
                f"{path}/entered",
                got=f"{short(band.entered.value)} ± {short(half)}",
                allowed="a setpoint that gives "
                f"{short(band.on_threshold)} and {short(band.off_threshold)}",
            )


def _schedule_problems(path: str, schedule: Schedule) -> Iterator[PlanError]:
    for index, window in enumerate(schedule.windows):
        if window.start == window.end:
            yield PlanError(
                f"{path}/windows/{index}/end",
                got=f"{window.end}, when it begins",
                allowed="another time; for a whole day 00:00 to 24:00",
                fix="A window must last; give it an end.",
            )
    for index, span in enumerate(schedule.dates):
        if not span.start < span.end:
            yield PlanError(
                f"{path}/dates/{index}/end", got=span.end, allowed=f"after {span.start}"
            )


def _memory_problems(plan: Plan) -> Iterator[PlanError]:
    known: dict[str, set[str]] = {
        "load": {load.id for load in plan.loads},
        "mode": {mode.id for mode in plan.modes},
        "count": {door.id for door in plan.doorways},
        "band": {row.id for row in plan.conditions} | {rule.id for rule in plan.rules},
        "moments": {schedule.id for schedule in plan.schedules},
        "group": {group.id for group in plan.groups},
    }
    known["override"] = known["lock_out"] = known["load"]
    for index, field in enumerate(plan.memory.fields or ()):
        kind, _, name = field.partition(":")
        if name not in known[kind]:
            yield PlanError(
                f"/memory/fields/{index}", got=repr(field), allowed=f"a {kind} of this plan"
            )
