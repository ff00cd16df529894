"""A second probe, load or rule like one that is there: its settings without what is its own.

A probe's certificate, line and measured figures are not copied, nor are pins, relays and codes. A
copied probe or load is planned until somebody sets it to working.
"""

from typing import Any

from aldea.core.base.errors import InputError
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.devices.sensors.models import SENSOR_FACTS
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.edits import fresh_id, ids_of, part_of, put_part
from aldea.core.plan.one_part import lead_of
from aldea.core.plan.rule_edits import put_rule, rule_of

DUPLICATED = ("probe", "load")
LONGEST_NAME = 80


def duplicated(plan: Plan, kind: str, part_id: str) -> tuple[Plan, str]:
    """The plan with another probe or load like one, and the key of the new part.

    All quantities of one sensor are copied together. `InputError` for a part of another kind.
    """
    if kind == "probe":
        return _probe_again(plan, part_of(plan, "probe", part_id))
    if kind == "load":
        return _load_again(plan, part_of(plan, "load", part_id))
    raise InputError("part", got=repr(kind)[:40], allowed="one of " + ", ".join(DUPLICATED))


def rule_copied(plan: Plan, rule_id: str, load_id: str) -> tuple[Plan, str]:
    """The plan with a copy of a rule as the last of a load's, and its id."""
    rule = rule_of(plan, rule_id)
    load = part_of(plan, "load", load_id)
    taken = {old.id for old in plan.rules} | {row.id for row in plan.conditions}
    new_id = fresh_id(f"{load.id} {rule.priority}", taken)
    copy = rule.model_copy(update={"id": new_id, "load": load.id})
    return put_rule(plan, copy), new_id


def _probe_again(plan: Plan, probe: Probe) -> tuple[Plan, str]:
    lead = lead_of(plan, probe)
    group = [lead, *(other for other in plan.probes if other.part_with == lead.id)]
    lead_id, key = "", ""
    for old in group:
        name = _another_name(old.name, {one.name for one in plan.probes})
        new_id = fresh_id(name, ids_of(plan, "probe"))
        fresh = new_probe(probe_id=new_id, name=name, place=old.place, quantity=old.quantity)
        update: dict[str, Any] = {
            "id": new_id,
            "name": name,
            "stage": "planned",
            "calibration": fresh.calibration,
        }
        if old.id == lead.id:
            lead_id = new_id
            update["sensor"] = _without_own_figures(old)
        else:
            update["part_with"] = lead_id
        plan = put_part(plan, "probe", old.model_copy(update=update))
        if old.id == probe.id:
            key = f"probe:{new_id}"
    return plan, key


def _without_own_figures(probe: Probe) -> Any:
    """A sensor without what was measured on that one part."""
    sensor = probe.sensor
    if sensor is None:
        return None
    own = SENSOR_FACTS[sensor.kind].own_figures
    facts = {key: value for key, value in sensor.model_dump().items() if key not in own}
    return type(sensor).model_validate(facts)


def _load_again(plan: Plan, load: Load) -> tuple[Plan, str]:
    name = _another_name(load.name, {one.name for one in plan.loads})
    new_id = fresh_id(name, ids_of(plan, "load"))
    update: dict[str, Any] = {"id": new_id, "name": name, "stage": "planned"}
    facts, figures = LOAD_FACTS[load.kind], load.figures
    if figures is not None and facts.probe_fields:
        gone = dict.fromkeys(facts.probe_fields)
        update[facts.figures] = figures.model_copy(update=gone)
    return put_part(plan, "load", load.model_copy(update=update)), f"load:{new_id}"


def _another_name(name: str, taken: set[str]) -> str:
    """`Fan 2`, or the first number that is free."""
    number = 2
    while (new_name := f"{name[: LONGEST_NAME - 4]} {number}") in taken:
        number += 1
    return new_name
