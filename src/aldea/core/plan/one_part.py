"""One part that gives several quantities: the probe that carries its sensor, and the others."""

from aldea.core.devices.sensors.models import SENSOR_FACTS, Sensor, Several
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edits import fresh_id, put_part


def lead_of(plan: Plan, probe: Probe) -> Probe:
    """The probe that carries the sensor of a probe's part: mostly itself."""
    return plan.probe(probe.part_with or "") or probe


def sensor_of(plan: Plan, probe: Probe) -> Sensor | None:
    """The sensor that gives a probe's readings; None while it is open how it is made."""
    return lead_of(plan, probe).sensor


def others_of_part(plan: Plan, probe: Probe) -> tuple[Probe, ...]:
    """The other probes of the same part, in the order of the plan; they go silent together."""
    lead = lead_of(plan, probe).id
    return tuple(p for p in plan.probes if lead in (p.id, p.part_with) and p.id != probe.id)


def could_join(plan: Plan, probe: Probe) -> tuple[Probe, ...]:
    """The probes of the same place whose part could give this quantity too."""
    own = any(other.part_with == probe.id for other in plan.probes)
    return tuple(
        other
        for other in plan.probes_in(probe.place)
        if other.id != probe.id
        and not own
        and other.sensor is not None
        and probe.quantity in SENSOR_FACTS[other.sensor.kind].together
    )


def with_all_of_part(plan: Plan, lead: Probe, several: Several) -> Plan:
    """The plan with a part of several quantities: its first probe, and one for each other."""
    base, others = lead.name, list(several.gives)
    own = next(row for row in others if row[0] == lead.quantity)
    others.remove(own)
    plan = put_part(plan, "probe", lead.model_copy(update={"name": f"{base} {own[1]}"}))
    for quantity, word in others:
        name = f"{base} {word}"
        taken = {p.id for p in plan.probes}
        made = new_probe(
            probe_id=fresh_id(name, taken), name=name, place=lead.place, quantity=quantity
        )
        joined = made.model_copy(update={"part_with": lead.id, "stage": lead.stage})
        plan = put_part(plan, "probe", joined)
    return plan
