"""The forms of probes and loads: what their kind asks for, within the limits of its model."""

from collections.abc import Iterator

from aldea.core.base.parts import Part
from aldea.core.base.quantities import QUANTITIES
from aldea.core.devices.asked import Asks
from aldea.core.devices.loads.classes import LOAD_CLASSES
from aldea.core.devices.loads.facts import NATURES
from aldea.core.devices.loads.models import LOAD_FACTS, LOADS
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.models import SENSOR_FACTS, ways_to_measure
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.document import Load, Plan, Probe
from aldea.web.shell.form_fields import (
    STAGES,
    Field,
    Group,
    choice,
    named,
    number,
    places,
    text,
)


def asked_fields(asks: Asks, figures: Part, plan: Plan) -> Iterator[Field]:
    """The figures of a device as fields, in the order in which its kind asks for them."""
    for key, asked in asks.items():
        value = getattr(figures, key)
        if asked.write is not None:
            yield Field(
                name=key,
                label=asked.label,
                value=asked.write(value),
                note=asked.note,
                read=asked.read,
                example=asked.example,
            )
        elif asked.probes:
            yield choice(key, asked.label, value, named(plan.probes, asked.probes), asked.note)
        elif asked.options:
            yield choice(key, asked.label, value, asked.options, asked.note)
        else:
            yield number(figures, key, asked.label, asked.unit, note=asked.note)


def probe_groups(plan: Plan, probe: Probe) -> tuple[Group, ...]:
    """The form of a probe, the figures of the way it is made last."""
    made = probe.sensor.kind if probe.sensor else ""
    offered = [facts.kind for facts in ways_to_measure(probe.quantity)]
    kinds = dict.fromkeys((*offered, *((made,) if made else ())))
    ways = (("", "not chosen yet"), *((kind, SENSOR_FACTS[kind].name) for kind in kinds))
    measures = tuple((key, facts.name) for key, facts in QUANTITIES.items())
    own = Group(
        title="Probe",
        fields=(
            text("name", "Name", probe.name),
            choice("place", "Stands in", probe.place, places(plan)),
            choice("quantity", "Measures", probe.quantity, measures),
            choice("sensor_kind", "Made as", made, ways),
            number(probe, "cable_m", "Cable", "m"),
            number(probe, "cable_mm2", "Its section", "mm²"),
            choice("stage", "Stage", probe.stage, STAGES),
        ),
    )
    device = sensor_device(probe)
    if device is None or probe.sensor is None:
        return (own,)
    fields = tuple(asked_fields(device.asks, probe.sensor, plan))
    return (own, Group(title=device.facts.name, fields=fields, inside="sensor"))


def load_groups(plan: Plan, load: Load) -> tuple[Group, ...]:
    """The form of a load, its kind's own figures last."""
    classes = tuple((key, facts.name) for key, facts in LOAD_CLASSES.items())
    own = Group(
        title="Load",
        fields=(
            text("name", "Name", load.name),
            choice("place", "Stands in", load.place, places(plan)),
            choice("kind", "Kind", load.kind, tuple((f.kind, f.name) for f in LOADS)),
            choice("load_class", "Class", load.load_class, classes),
            choice("nature", "It is a", load.nature, tuple(NATURES.items())),
            number(load, "power_w", "Power", "W"),
            text("feed", "Feed", load.feed, "as on the board"),
            number(load, "cable_m", "Cable", "m"),
            choice("stage", "Stage", load.stage, STAGES),
        ),
    )
    if load.figures is None:
        return (own,)
    device = load_device(load)
    fields = tuple(asked_fields(device.asks, load.figures, plan))
    return (own, Group(title=device.title, fields=fields, inside=LOAD_FACTS[load.kind].figures))
