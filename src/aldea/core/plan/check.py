"""How the parts of a plan must fit together; each refusal names the path inside the document."""

from collections.abc import Iterable, Iterator

from aldea.core.base.errors import PlanError
from aldea.core.base.figures import short
from aldea.core.base.instants import known_zones
from aldea.core.devices.loads.classes import must_rest
from aldea.core.devices.sensors.models import SENSOR_FACTS
from aldea.core.plan.check_panel import panel_problems
from aldea.core.plan.check_rules import rule_problems
from aldea.core.plan.document import Load, Plan, Probe


def check_plan(plan: Plan) -> None:
    """Raise `PlanError` at the first part that does not fit the others."""
    for problem in plan_problems(plan):
        raise problem


def plan_problems(plan: Plan) -> Iterator[PlanError]:
    """Every part that does not fit the others, in the order of the document."""
    if plan.house.time_zone not in known_zones():
        yield PlanError(
            "/house/time_zone",
            got=repr(plan.house.time_zone),
            allowed="a name of the time zone database such as Europe/Madrid",
        )
    for key, parts in (
        ("places", plan.places),
        ("probes", plan.probes),
        ("loads", plan.loads),
        ("rules", plan.rules),
        ("controls", plan.controls),
        ("groups", plan.groups),
        ("supplies", plan.supplies),
        ("boards", plan.boards),
        ("board_types", plan.board_types),
        ("relays", plan.relays),
        ("invariants", plan.invariants),
        ("modes", plan.modes),
        ("schedules", plan.schedules),
        ("doorways", plan.doorways),
        ("exclusive", plan.exclusive),
    ):
        yield from _repeated(key, [part.id for part in parts])
    # Named in the same places: a probe and a signal, a condition's band and a rule's.
    yield from _repeated(
        "derived", [part.id for part in plan.probes] + [d.id for d in plan.derived]
    )
    yield from _repeated("conditions", [c.id for c in plan.rules] + [c.id for c in plan.conditions])
    places = {place.id for place in plan.places}
    for index, place in enumerate(plan.places):
        if place.top_level is not None and place.top_level < place.level:
            yield PlanError(
                f"/places/{index}/top_level",
                got=str(place.top_level),
                allowed=f"{place.level} (its level) or higher",
            )
        if (
            place.kind not in ("outside", "loft")
            and place.within is None
            and not place.to_m > place.from_m
        ):
            yield PlanError(
                f"/places/{index}/to_m",
                got=f"{short(place.to_m)}",
                allowed=f"above {short(place.from_m)}",
            )
    for index, probe in enumerate(plan.probes):
        yield from _probe_problems(f"/probes/{index}", probe, places)
        yield from _part_problems(f"/probes/{index}", probe, plan)
        yield from _fed_problems(f"/probes/{index}", probe, plan)
    for index, load in enumerate(plan.loads):
        yield from _load_problems(f"/loads/{index}", load, places)
    yield from rule_problems(plan)
    yield from panel_problems(plan)


def _repeated(key: str, ids: Iterable[str]) -> Iterator[PlanError]:
    seen: dict[str, int] = {}
    for index, name in enumerate(ids):
        if name in seen:
            yield PlanError(
                f"/{key}/{index}/id",
                got=f"{name!r} again",
                allowed=f"an id that /{key}/{seen[name]} does not have",
            )
        seen.setdefault(name, index)


def _place_problem(path: str, got: str, places: set[str]) -> Iterator[PlanError]:
    if got not in places:
        yield PlanError(f"{path}/place", got=repr(got), allowed="the id of a place of this plan")


def _probe_problems(path: str, probe: Probe, places: set[str]) -> Iterator[PlanError]:
    yield from _place_problem(path, probe.place, places)
    if not probe.range.low < probe.range.high:
        yield PlanError(
            f"{path}/range/high",
            got=f"{short(probe.range.high)}",
            allowed=f"above {short(probe.range.low)}",
        )
    if (probe.calibration.basis == "certificate") != (probe.calibration.certificate is not None):
        yield PlanError(
            f"{path}/calibration/certificate",
            got=str(probe.calibration.certificate),
            allowed="a certificate's number when the basis is 'certificate', null otherwise",
        )
    if (probe.calibration.basis == "carried") != (probe.calibration.carried_from is not None):
        yield PlanError(
            f"{path}/calibration/carried_from",
            got=str(probe.calibration.carried_from),
            allowed="the probe it comes from when the basis is 'carried', null otherwise",
        )


def _fed_problems(path: str, probe: Probe, plan: Plan) -> Iterator[PlanError]:
    if probe.fed_by is None:
        return
    known = {supply.id for supply in plan.supplies} | {board.id for board in plan.boards}
    if probe.fed_by not in known:
        yield PlanError(
            f"{path}/fed_by",
            got=repr(probe.fed_by),
            allowed="the id of a supply or a board of this plan",
        )


def _part_problems(path: str, probe: Probe, plan: Plan) -> Iterator[PlanError]:
    if probe.part_with is None:
        return
    lead = plan.probe(probe.part_with)
    if lead is None or lead.id == probe.id or lead.part_with is not None:
        yield PlanError(
            f"{path}/part_with",
            got=repr(probe.part_with),
            allowed="the id of another probe, which carries the sensor itself",
        )
        return
    if probe.sensor is not None:
        yield PlanError(
            f"{path}/sensor",
            got=f"a sensor of its own, and the part of {lead.id}",
            allowed="one of the two",
        )
    if lead.place != probe.place:
        yield PlanError(
            f"{path}/place",
            got=repr(probe.place),
            allowed=f"{lead.place!r}, where the part of {lead.id} stands",
            fix="Move the part as a whole, or make this probe by itself.",
        )
    gives = SENSOR_FACTS[lead.sensor.kind].together if lead.sensor is not None else ()
    if lead.sensor is not None and probe.quantity not in gives:
        words = ", ".join(q.replace("_", " ") for q in gives)
        yield PlanError(
            f"{path}/part_with",
            got=f"{probe.quantity.replace('_', ' ')} from {lead.id}",
            allowed=f"a part that gives it ({words or 'this one gives one quantity alone'})",
            fix="Make this probe by itself, or choose another part.",
        )


def _load_problems(path: str, load: Load, places: set[str]) -> Iterator[PlanError]:
    yield from _place_problem(path, load.place, places)
    back = load.power_return
    if back.policy == "last" and must_rest(load.load_class) and not back.reason.strip():
        yield PlanError(
            f"{path}/power_return/reason",
            got="no reason",
            allowed=f"a written reason, for a load of class {load.load_class} must not "
            "come back as it was without one",
            fix="Enter the reason it is safe, or choose “stays off” or “follows its rules”.",
        )
    if load.on_sensor_fault.state == "on" and load.load_class == "heat":
        yield PlanError(
            f"{path}/on_sensor_fault/state",
            got="'on'",
            allowed="off, for a load of class heat must not run without a reading",
        )
