"""Checks of the panel: contacts, coils, supplies, what holds without supply, cables, names."""

import math
from collections.abc import Iterator

from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.conductor import IDLE_PULL_OHM
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.loads.classes import must_rest
from aldea.core.devices.loads.ratings import contact_of, derating_1
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.seats import coil_supply
from aldea.core.wiring.drivers import driver_of


def contacts_bear(plan: Plan) -> Iterator[Finding]:
    """A contact that would weld or burn under its load."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        if load is None or load_device(load).volt_free or relay.transistor is not None:
            continue
        contact = contact_of(relay, load, plan)
        if contact.fits:
            continue
        takes = load.on_mains and not load_device(load).no_contactor
        fixed = relay.model_copy(update={"contactor": True})
        enough_a = math.ceil(contact.current_a / derating_1(load))
        yield Finding(
            key=f"contact-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()}’s contact is too weak for {load.name}.",
            why=f"{figure(contact.current_a)} A running, about {figure(contact.inrush_a, 0)} "
            "A at first; "
            f"{short(relay.rated_a)} A resistive bears {figure(contact.allowed_a)} A of this kind.",
            fix="Let the relay switch a contactor’s coil, and the contactor the load."
            if takes
            else f"Use a relay whose change-over contact is rated {enough_a} A, or fewer lamps."
            if load.on_mains
            else f"Use a contact rated {enough_a} A, or switch it by a transistor.",
            at=f"relay:{relay.id}",
            press="Use a contactor" if takes else "",
            apply=put_changed("relay", fixed) if takes else None,
        )


def contactors_fit(plan: Plan) -> Iterator[Finding]:
    """A contactor where the circuit has no place for one."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        why = load_device(load).no_contactor if load is not None else ""
        if load is None or not relay.contactor or not why:
            continue
        yield Finding(
            key=f"contactor-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()} cannot use a contactor for {load.name}.",
            why=why,
            fix="Remove the contactor.",
            at=f"relay:{relay.id}",
            press="Remove",
            apply=put_changed("relay", relay.model_copy(update={"contactor": False})),
        )


def holds_without_supply(plan: Plan) -> Iterator[Finding]:
    """A normally closed contact that runs something dangerous when the panel is dead."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        if load is None or relay.contact == "no" or not must_rest(load.load_class):
            continue
        if load_device(load).changes_over:
            continue
        fixed = relay.model_copy(update={"contact": "no"})
        yield Finding(
            key=f"rest-{relay.id}",
            weight="severe",
            head=f"{load.name} runs when the panel is dead.",
            why=f"{relay.id.upper()} is normally closed; a load of class {load.load_class} must "
            "be off without supply.",
            fix="Use the normally open contact, 14.",
            at=f"relay:{relay.id}",
            press="Use 14",
            apply=put_changed("relay", fixed),
        )


def coils_match(plan: Plan) -> Iterator[Finding]:
    """A coil of another voltage than its supply, or more current than a pin gives."""
    types = board_types(plan)
    rows = {row.signal: row for row in plan.assignments}
    for relay in plan.relays:
        row = rows.get(f"relay:{relay.id}.coil")
        board = plan.board(row.board) if row else None
        if row is None or board is None or relay.transistor is not None:
            continue
        supply = coil_supply(plan, relay)
        pin = types[board.board_type].pin(row.pin)
        name = relay.id.upper()
        if supply is not None and abs(supply.volts - relay.coil_v) > 0.1 * supply.volts:
            fixed = relay.model_copy(update={"coil_v": supply.volts})
            yield Finding(
                key=f"coil-{relay.id}",
                weight="severe",
                head=f"{name}’s coil is {short(relay.coil_v)} V, its supply "
                f"{short(supply.volts)} V.",
                why="It would not pull in, or burn.",
                fix=f"Use a relay with a {short(supply.volts)} V coil.",
                at=f"relay:{relay.id}",
                pins=((board.id, row.pin),),
                press=f"Set to {short(supply.volts)} V",
                apply=put_changed("relay", fixed),
            )
        if relay.driver == "board" and pin is not None and relay.coil_ma > pin.limit_ma:
            # without a resistor to idle it would float until the program starts
            fixed = relay.model_copy(
                update={
                    "driver": "transistor",
                    "active": "high",
                    "pull_ohm": relay.pull_ohm or IDLE_PULL_OHM,
                }
            )
            yield Finding(
                key=f"drive-{relay.id}",
                weight="severe",
                head=f"{pin.name} gives {short(pin.limit_ma)} mA, {name}’s coil needs "
                f"{short(relay.coil_ma)} mA.",
                why="The pin would die, or the relay not pull in.",
                fix="Drive it with a transistor, its base resistor, a flyback diode, and "
                f"{ohms(IDLE_PULL_OHM)} to idle.",
                at=f"relay:{relay.id}",
                pins=((board.id, row.pin),),
                press="Use a transistor",
                apply=put_changed("relay", fixed),
            )


def drivers_hold(plan: Plan) -> Iterator[Finding]:
    """A driver transistor that its pin cannot saturate."""
    seated = {row.signal for row in plan.assignments}
    for relay in plan.relays:
        if relay.transistor is not None or relay.driver != "transistor":
            continue
        if f"relay:{relay.id}.coil" not in seated:
            continue
        base = driver_of(plan, relay)
        if base is not None and base.drive_ok:
            continue
        yield Finding(
            key=f"base-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()}’s pin cannot drive its transistor.",
            why=f"A coil of {short(relay.coil_ma)} mA needs {figure(1000 * base.base_a)} mA "
            "at the base, more than the pin gives."
            if base is not None
            else f"No base resistor carries a coil of {short(relay.coil_ma)} mA.",
            fix="Set the coil’s current from its sheet, or use a relay module.",
            at=f"relay:{relay.id}",
        )


def transistors_pull_high(plan: Plan) -> Iterator[Finding]:
    """A transistor at the pin in a plan that says that low pulls in: all would be the wrong way."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        if relay.pulls_in == relay.active or load is None:
            continue
        right = relay.model_copy(update={"active": relay.pulls_in})
        yield Finding(
            key=f"inverted-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()} is driven by a transistor and pulls in when its pin is high.",
            why=f"The plan sets low: {load.name} would be on whenever it is switched off, and "
            "through every start.",
            fix="Set it to pull in when high, or use a module that pulls in when low.",
            at=f"relay:{relay.id}",
            press="Set to pull in when high",
            apply=put_changed("relay", right),
        )


def modules_hear(plan: Plan) -> Iterator[Finding]:
    """A 5 V module that pulls in at low, on a pin of 3.3 V: its relay may never drop out."""
    types = board_types(plan)
    rows = {row.signal: row for row in plan.assignments}
    for relay in plan.relays:
        row = rows.get(f"relay:{relay.id}.coil")
        board = plan.board(row.board) if row else None
        if row is None or board is None or relay.driver != "module" or relay.transistor is not None:
            continue
        kind = types[board.board_type]
        if relay.active == "high" or relay.coil_v <= kind.logic_v * 1.1 or relay.input_v3:
            continue
        yield Finding(
            key=f"lets-go-{relay.id}",
            weight="warning",
            head=f"{relay.id.upper()} may stay pulled in: {short(relay.coil_v)} V module, "
            f"{short(kind.logic_v)} V pin.",
            why=f"Its input is pulled to {short(relay.coil_v)} V; a pin at "
            f"{short(kind.logic_v)} V leaves "
            "some of that across it, and its lamp glows on.",
            fix=f"Use a module whose input is made for {short(kind.logic_v)} V, or feed the input "
            f"side of this one with {short(kind.logic_v)} V.",
            at=f"relay:{relay.id}",
            pins=((board.id, row.pin),),
            press=f"Set input to {short(kind.logic_v)} V",
            apply=put_changed("relay", relay.model_copy(update={"input_v3": True})),
        )


CONTACT_CHECKS: tuple[Check, ...] = (
    transistors_pull_high,
    modules_hear,
    contacts_bear,
    contactors_fit,
    holds_without_supply,
    coils_match,
    drivers_hold,
)
