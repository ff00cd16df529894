"""A two-way circuit in a plan: a wall switch and a relay, either of which toggles the lamp."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import DEAD_WORK, Circuit
from aldea.core.devices.conductor import Conductor
from aldea.core.devices.finding import Finding, change_around
from aldea.core.devices.loads.device import ContactPlan, LoadDevice
from aldea.core.devices.loads.mains import MainsWires, Strip
from aldea.core.devices.loads.two_way.model import TWO_WAY, TwoWay
from aldea.core.devices.sensors.mains_sense.model import MainsSense
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.plan.panel import RelayOutput


def two_way_sensed(plan: Plan) -> Iterator[Finding]:
    """A two-way circuit whose lamp nobody senses: relay off does not mean lamp off."""
    for load in plan.loads:
        if load.kind != TWO_WAY.kind or (load.two_way and load.two_way.sense):
            continue
        yield Finding(
            key=f"sense-{load.id}",
            weight="severe",
            head=f"{load.name}: relay off does not mean lamp off.",
            why="With a wall switch in the circuit only a sensed output tells whether it burns.",
            fix="Put an isolated mains-sensing input across the lamp.",
            at=f"load:{load.id}",
            press="Add the sensing input",
            apply=change_around(_with_sense, load.id),
        )


def _with_sense(plan: Plan, load_id: str) -> Plan:
    load = plan.load(load_id)
    if load is None or load.two_way is None:
        return plan
    name = f"{load.name} sensed"
    probe_id = fresh_id(f"{load_id} sensed", {p.id for p in plan.probes})
    probe = new_probe(
        probe_id=probe_id, name=name, place=load.place, quantity="sensed_output"
    ).model_copy(update={"sensor": MainsSense()})
    way = load.two_way.model_copy(update={"sense": probe_id})
    plan = put_part(plan, "probe", probe)
    return put_part(plan, "load", load.model_copy(update={"two_way": way}))


class TwoWayDevice(LoadDevice):
    """Its relay's change-over contact passes the lamp from one traveller to the other."""

    facts = TWO_WAY
    title = "Two-way"
    checks = (two_way_sensed,)
    changes_over = True
    no_contactor = "A two-way circuit needs a change-over contact; a contactor only makes."
    asks: ClassVar[Asks] = {
        "sense": Asked(label="Sensed by", probes="none"),
        "settle_s": Asked(label="Settles in", unit="s"),
        "follow_s": Asked(label="Sensed output follows within", unit="s"),
    }

    def contacts(self, load: Load) -> ContactPlan:
        """It changes over, then is blind until the sensed output has settled."""
        return ContactPlan(drive="toggle", dead_s=(load.two_way or TwoWay()).settle_s)

    def strip(self, relays: tuple[RelayOutput, ...]) -> Strip:
        """Both travellers under one number."""
        return (tuple((side, relays[0].id) for side in "ab"),)

    def mains(self, load: Load, plan: Plan, wires: MainsWires) -> Iterator[Conductor]:
        """Line to the relay, two travellers to the wall switch, its common to the lamp."""
        first = wires.labels[0]
        name, colours = plan.relays_of(load.id)[0].id.upper(), wires.colours
        yield wires.wire(f"L{first}", wires.live, f"{name}:11", colours.line)
        for label, contact, end in zip(wires.labels, ("12", "14"), ("L1", "L2"), strict=True):
            strip = f"X1:{label}"
            yield wires.wire(label, f"{name}:{contact}", strip, colours.switched, "traveller")
            yield wires.wire(
                f"{label}′",
                strip,
                f"{load.name} wall switch:{end}",
                colours.switched,
                "can be live with the relay off",
            )
        number = first[:-1]
        common = f"{load.name} wall switch:COM"
        yield wires.wire(f"{number}′", common, f"{load.name}:L", colours.switched)
        sense = plan.probe(load.two_way.sense or "") if load.two_way else None
        if sense is None:
            return
        note = "isolated sensing across the lamp"
        for mark, start, end, colour in (
            ("s", f"{load.name}:L", "L", wires.colours.switched),
            ("n", "N bar:N", "N", wires.colours.neutral),
        ):
            yield wires.wire(
                f"{number}{mark}", start, f"{sense.name}:{end}", colour, note, carries_load=False
            )

    def circuit(self, load: Load, plan: Plan) -> Circuit | None:
        """Which of the four positions light the lamp."""
        relays = plan.relays_of(load.id)
        name = relays[0].id.upper() if relays else "K"
        sense = plan.probe(load.two_way.sense or "") if load.two_way else None
        return Circuit(
            owner=f"load:{load.id}",
            title=f"{load.name}: two-way with its wall switch",
            draws="two_way",
            facts=(
                ("Either one toggles", "the relay and the wall switch each pass the lamp on"),
                (
                    "Sensed by",
                    sense.name if sense else "not sensed: relay off does not mean lamp off",
                ),
                ("Without supply", "the wall switch still works"),
            ),
            head=("Relay", "Wall switch", "Lamp"),
            rows=(
                ("at rest (12)", "at L1", "on"),
                ("at rest (12)", "at L2", "off"),
                ("pulled in (14)", "at L2", "on"),
                ("pulled in (14)", "at L1", "off"),
            ),
            caution=f"Both travellers can be live with {name} at rest. {DEAD_WORK}",
            values={"relay": name, "load": load.name},
        )

    def isolation(self, load: Load, labels: list[str]) -> Iterator[str]:
        """Its travellers can be live from the wall switch."""
        if labels:
            both = " and ".join(f"X1:{label}" for label in labels)
            yield f"{both} can be live from the wall switch of {load.name} with its relay off."


DEVICES = (TwoWayDevice(),)
