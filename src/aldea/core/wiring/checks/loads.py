"""Checks of what a load runs on: its volts against its supply, a transistor that switches it."""

from collections.abc import Iterator

from aldea.core.base.figures import figure, short
from aldea.core.base.quantities import QUANTITIES
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.devices.loads.ratings import load_current_a, plate_current_a, start_current_a
from aldea.core.devices.loads.registry import load_device
from aldea.core.physics.cable import cable_drop, ohm_per_km
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import RelayOutput, Supply, TransistorSwitch
from aldea.core.wiring.conductors import LOW_SECTIONS, section_mm2
from aldea.core.wiring.drivers import MOST_RISE_K, Switched, bears_a, starts_a, switched_by
from aldea.core.wiring.relays import TRANSISTORS

NEAR_1 = 0.06
MOST_DROP_PCT = 5.0
PLATE_OVER_1 = 1.1


def _fits(load: Load, supply: Supply) -> bool:
    volts = load.volts or 0.0
    return abs(supply.volts - volts) <= NEAR_1 * volts and supply.gives == load.runs_on


def fed_right(plan: Plan) -> Iterator[Finding]:
    """A load on extra-low voltage without a supply, or on one of other volts."""
    for load in plan.loads:
        if load.on_mains:
            continue
        supply = plan.supply(load.supply)
        if supply is not None and _fits(load, supply):
            continue
        fitting = next((one for one in plan.supplies if _fits(load, one)), None)
        wants = f"{short(load.volts or 0)} V {load.runs_on.upper()}"
        fed = load.model_copy(update={"supply": fitting.id if fitting else None})
        yield Finding(
            key=f"fed-{load.id}",
            weight="open" if supply is None else "severe",
            head=f"{load.name} has no supply."
            if supply is None
            else f"{load.name} needs {wants}, {supply.name} gives {short(supply.volts)} V "
            f"{supply.gives.upper()}.",
            why=f"It needs {wants}." if supply is None else "It would not work, or burn.",
            fix=f"Feed it from a supply of {wants}.",
            at=f"load:{load.id}",
            press=f"Feed it from {fitting.name}" if fitting else "",
            apply=put_changed("load", fed) if fitting else None,
        )


def transistors_bear(plan: Plan) -> Iterator[Finding]:
    """A transistor that switches what it cannot: mains, AC, too much, not fully on, too hot."""
    for relay in plan.relays:
        load, switch = plan.load(relay.load), switched_by(plan, relay)
        if load is None or switch is None or relay.transistor is None:
            continue
        start_a = start_current_a(load, plan)
        yield from _transistor(relay, relay.transistor, load, switch, start_a)


def _transistor(
    relay: RelayOutput, transistor: TransistorSwitch, load: Load, switch: Switched, start_a: float
) -> Iterator[Finding]:
    stronger = next(
        (t for t in TRANSISTORS if starts_a(t) >= start_a and bears_a(t) >= switch.current_a), None
    )
    name, at = relay.id.upper(), f"relay:{relay.id}"
    as_relay = relay.model_copy(update={"transistor": None})
    if load.on_mains or load.runs_on == "ac":
        yield Finding(
            key=f"not-dc-{relay.id}",
            weight="severe",
            head=f"{name} is a transistor, and {load.name} runs on "
            f"{'mains' if load.on_mains else 'AC'}.",
            why="It switches direct current only and does not isolate from mains.",
            fix="Switch it by a relay.",
            at=at,
            press="Use a relay",
            apply=put_changed("relay", as_relay),
        )
        return
    if switch.current_a > transistor.limit_a:
        yield Finding(
            key=f"limit-{relay.id}",
            weight="severe",
            head=f"{name} bears {short(transistor.limit_a)} A, not {figure(switch.current_a)} A.",
            why=f"{load.name} draws them; it would burn, and then mostly conducts for good.",
            fix="Use a stronger transistor, or a relay.",
            at=at,
            press="Use a relay",
            apply=put_changed("relay", as_relay),
        )
    elif start_a > starts_a(transistor):
        yield Finding(
            key=f"start-{relay.id}",
            weight="severe",
            head=f"{load.name} starts with about {figure(start_a)} A, {name} bears "
            f"{figure(starts_a(transistor))} A for that long.",
            why=f"A load of this kind takes {figure(start_a / switch.current_a, 0)} times its "
            "running current at first (usual, not measured); the transistor would burn.",
            fix="Use a stronger transistor, a relay, or something that limits its start.",
            at=at,
            press="Use a stronger one" if stronger is not None else "",
            apply=put_changed("relay", relay.model_copy(update={"transistor": stronger}))
            if stronger is not None
            else None,
        )
    if switch.gate_v is not None and switch.gate_v < transistor.full_at_v:
        yield Finding(
            key=f"gate-{relay.id}",
            weight="severe",
            head=f"{name} is fully on at {short(transistor.full_at_v)} V, its pin gives "
            f"{short(switch.gate_v)} V.",
            why="Half on it drops volts and gets hot.",
            fix=f"Use one that is fully on at {short(switch.gate_v)} V or less.",
            at=at,
        )
    weak = switch.base is None or not switch.base.drive_ok
    if transistor.kind == "bipolar" and switch.gate_v is not None and weak:
        yield Finding(
            key=f"base-{relay.id}",
            weight="severe",
            head=f"{name}’s pin cannot drive its transistor.",
            why=f"{figure(switch.current_a, 2)} A want more at the base than the pin gives.",
            fix="Use a field-effect transistor, which needs no current.",
            at=at,
            press="Use a field-effect one",
            apply=put_changed("relay", relay.model_copy(update={"transistor": FIELD_EFFECT})),
        )
    if switch.rise_k > MOST_RISE_K:
        yield Finding(
            key=f"heat-{relay.id}",
            weight="severe",
            head=f"{name} warms by {figure(switch.rise_k, 0)} K.",
            why=f"It loses {figure(switch.lost_w)} W at {figure(switch.current_a)} A; without a "
            f"heat sink that is more than {short(MOST_RISE_K)} K.",
            fix="Use one of lower resistance, or fit a heat sink and state its K/W.",
            at=at,
        )


FIELD_EFFECT = TransistorSwitch()


def load_cables_drop(plan: Plan) -> Iterator[Finding]:
    """A load on extra-low voltage so far away that its cable takes too much of it."""
    for load in plan.loads:
        current = load_current_a(load, plan)
        if load.on_mains or not load.cable_m or not current:
            continue
        mm2 = section_mm2(current)
        drop = cable_drop(
            length_m=load.cable_m,
            ohm_per_km=ohm_per_km(mm2),
            current_a=current,
            supply_v=load.volts or 1.0,
        )
        if drop.drop_pct <= MOST_DROP_PCT:
            continue
        thickest = LOW_SECTIONS[-1][1]
        yield Finding(
            key=f"load-drop-{load.id}",
            weight="warning",
            head=f"{load.name}’s cable drops {figure(drop.drop_pct, 0)} %.",
            why=f"{short(load.cable_m)} m of {short(mm2)} mm² at {figure(current)} A leave "
            f"{figure(drop.load_v)} V of {short(load.volts or 0)} V.",
            fix=f"Use up to {short(thickest)} mm², a supply near by, or higher volts.",
            at=f"load:{load.id}",
        )


def moves_and_is_called_a_heater(plan: Plan) -> Iterator[Finding]:
    """A DC load of air, water or motion that is called resistive: it would get no diode."""
    for load in plan.loads:
        if load.on_mains or load.runs_on != "dc" or load.nature != "resistive":
            continue
        if load.load_class not in MOVES or load_device(load).facts.usual_nature != "motor":
            continue
        yield Finding(
            key=f"nature-{load.id}",
            weight="warning",
            head=f"{load.name} is called resistive, and moves {MOVES[load.load_class]}.",
            why="A motor or a coil on direct current needs a flyback diode and takes several "
            "times its current when it starts.",
            fix="Enter at Lay out what it is.",
            at=f"load:{load.id}",
            field="nature",
            press="Set as motor",
            apply=put_changed("load", load.model_copy(update={"nature": "motor"})),
        )


def plates_agree(plan: Plan) -> Iterator[Finding]:
    """A plate that says more than the load's own figures: contacts are judged by the figures."""
    for load in plan.loads:
        flows_a = load_device(load).current_a(load, plan.house)
        stated_a = plate_current_a(load, plan)
        if not flows_a or stated_a <= PLATE_OVER_1 * flows_a:
            continue
        yield Finding(
            key=f"plate-{load.id}",
            weight="warning",
            head=f"{load.name}: {short(load.power_w)} W are {figure(stated_a, 2)} A, its motor’s "
            f"figures make {figure(flows_a, 2)} A.",
            why="Contacts, conductors and steps are computed from the motor’s figures.",
            fix="Measure its amperes running direct, then set the motor’s figures or the watts "
            "at Lay out.",
            at=f"load:{load.id}",
            field="power_w",
        )


MOVES: dict[str, str] = {"air": "air", "water": "water", "motion": "something"}


def probes_of_kind(plan: Plan) -> Iterator[Finding]:
    """A probe that tells a load what it does not measure: a light sensor as an end contact."""
    for load in plan.loads:
        figures = load.figures
        for key, quantity in LOAD_FACTS[load.kind].probe_fields.items():
            probe = plan.probe(getattr(figures, key, None) or "")
            if probe is None or probe.quantity == quantity:
                continue
            wants = QUANTITIES[quantity].name
            yield Finding(
                key=f"told-by-{load.id}-{key}",
                weight="severe",
                head=f"{load.name}: {probe.name} is no {wants}.",
                why=f"It measures {QUANTITIES[probe.quantity].name}.",
                fix=f"Choose one that is a {wants}, at Lay out.",
                at=f"load:{load.id}",
            )


LOAD_CHECKS: tuple[Check, ...] = (
    probes_of_kind,
    fed_right,
    transistors_bear,
    load_cables_drop,
    plates_agree,
    moves_and_is_called_a_heater,
)
