"""Checks of the panel: contacts, coils, supplies, what holds without supply, cables, names."""

import math
from collections.abc import Iterator

from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import roles_wanted, with_relays
from aldea.core.plan.document import Plan, Probe
from aldea.core.wire.budget import next_rating_ma, supply_budget
from aldea.core.wire.circuit import driver_of
from aldea.core.wire.contacts import DERATING_1, NO_CONTACTOR, contact_of
from aldea.core.wire.findings import Check, Finding, on, putting
from aldea.core.wire.names import alike_names, spoken_names
from aldea.core.wire.power import CableDrop, cable_drop, ohm_per_km

MUST_REST = ("heat", "water", "motion")
MOST_DROP_PCT = 5.0
CABLES_MM2 = (0.5, 0.75, 1.0, 1.5)


def relays_there(plan: Plan) -> Iterator[Finding]:
    """A load lacks relays for what it is to do."""
    for load in plan.loads:
        have = {relay.role for relay in plan.relays_of(load.id)}
        missing = [role for role in roles_wanted(plan, load.id) if role not in have]
        if not missing:
            continue
        count = len(missing)
        yield Finding(
            key=f"relays-{load.id}",
            weight="open",
            head=f"{load.name} has no relay{'' if count == 1 else 's'} yet."
            if not have
            else f"{load.name} lacks {count} relay{'' if count == 1 else 's'}.",
            why=f"It needs {', '.join(missing)}.",
            mend="Propose relays and look at their ratings.",
            at=f"load:{load.id}",
            press=f"Propose {count} relay{'' if count == 1 else 's'}",
            apply=on(with_relays, load.id),
        )


def contacts_bear(plan: Plan) -> Iterator[Finding]:
    """A contact that would weld or burn under its load."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        if load is None or load.kind == "pulse_drive":
            continue
        contact = contact_of(relay, load, plan)
        if contact.fits:
            continue
        takes = load.kind not in NO_CONTACTOR
        fixed = relay.model_copy(update={"contactor": True})
        enough_a = math.ceil(contact.current_a / DERATING_1[load.nature])
        yield Finding(
            key=f"contact-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()}’s contact is too weak for {load.name}.",
            why=f"{contact.current_a:.1f} A running, about {contact.inrush_a:.0f} A at first; "
            f"{relay.rated_a:g} A resistive bears {contact.allowed_a:.1f} A of this kind.",
            mend="Let the relay switch a contactor’s coil, and the contactor the load."
            if takes
            else f"Take a relay whose change-over contact is rated {enough_a} A, or fewer lamps.",
            at=f"relay:{relay.id}",
            press="Use a contactor" if takes else "",
            apply=putting("relay", fixed) if takes else None,
        )


def contactors_fit(plan: Plan) -> Iterator[Finding]:
    """A contactor where the circuit has no place for one."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        if load is None or not relay.contactor or load.kind not in NO_CONTACTOR:
            continue
        yield Finding(
            key=f"contactor-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()} cannot use a contactor for {load.name}.",
            why="A two-way circuit needs a change-over contact; a contactor only makes."
            if load.kind == "two_way"
            else "The drive’s own button is volt-free: no mains may come to it.",
            mend="Take the contactor away.",
            at=f"relay:{relay.id}",
            press="Take it away",
            apply=putting("relay", relay.model_copy(update={"contactor": False})),
        )


def holds_without_supply(plan: Plan) -> Iterator[Finding]:
    """A normally closed contact that runs something dangerous when the panel is dead."""
    for relay in plan.relays:
        load = plan.load(relay.load)
        if load is None or relay.contact == "no" or load.load_class not in MUST_REST:
            continue
        if load.kind == "two_way":
            continue
        fixed = relay.model_copy(update={"contact": "no"})
        yield Finding(
            key=f"rest-{relay.id}",
            weight="severe",
            head=f"{load.name} runs when the panel is dead.",
            why=f"{relay.id.upper()} is normally closed; a load of class {load.load_class} must "
            "rest without supply.",
            mend="Use the normally open contact, 14.",
            at=f"relay:{relay.id}",
            press="Use 14",
            apply=putting("relay", fixed),
        )


def coils_match(plan: Plan) -> Iterator[Finding]:
    """A coil of another voltage than its supply, or more current than a pin gives."""
    types = board_types(plan)
    rows = {row.signal: row for row in plan.assignments}
    for relay in plan.relays:
        row = rows.get(f"relay:{relay.id}.coil")
        board = plan.board(row.board) if row else None
        if row is None or board is None:
            continue
        host = plan.board(board.host) if board.host else board
        supply = plan.supply(host.supply) if host else None
        pin = types[board.board_type].pin(row.pin)
        name = relay.id.upper()
        if supply is not None and abs(supply.volts - relay.coil_v) > 0.1 * supply.volts:
            fixed = relay.model_copy(update={"coil_v": supply.volts})
            yield Finding(
                key=f"coil-{relay.id}",
                weight="severe",
                head=f"{name}’s coil is {relay.coil_v:g} V, its supply {supply.volts:g} V.",
                why="It would not pull in, or burn.",
                mend=f"Take a relay with a {supply.volts:g} V coil.",
                at=f"relay:{relay.id}",
                pins=((board.id, row.pin),),
                press=f"It is {supply.volts:g} V",
                apply=putting("relay", fixed),
            )
        if relay.driver == "board" and pin is not None and relay.coil_ma > pin.limit_ma:
            fixed = relay.model_copy(update={"driver": "transistor"})
            yield Finding(
                key=f"drive-{relay.id}",
                weight="severe",
                head=f"{pin.name} gives {pin.limit_ma:g} mA, {name}’s coil wants "
                f"{relay.coil_ma:g} mA.",
                why="The pin would die, or the relay not pull in.",
                mend="Drive it with a transistor, base resistor and flyback diode.",
                at=f"relay:{relay.id}",
                pins=((board.id, row.pin),),
                press="Use a transistor",
                apply=putting("relay", fixed),
            )


def drivers_hold(plan: Plan) -> Iterator[Finding]:
    """A driver transistor that its pin cannot saturate."""
    seated = {row.signal for row in plan.assignments}
    for relay in plan.relays:
        if relay.driver != "transistor" or f"relay:{relay.id}.coil" not in seated:
            continue
        base = driver_of(plan, relay)
        if base is not None and base.drive_ok:
            continue
        yield Finding(
            key=f"base-{relay.id}",
            weight="severe",
            head=f"{relay.id.upper()}’s pin cannot drive its transistor.",
            why=f"A coil of {relay.coil_ma:g} mA wants {1000 * base.base_a:.1f} mA at the base, "
            "more than the pin gives."
            if base is not None
            else f"No base resistor carries a coil of {relay.coil_ma:g} mA.",
            mend="Set the coil’s current from its sheet, or take a relay module.",
            at=f"relay:{relay.id}",
        )


def supplies_hold(plan: Plan) -> Iterator[Finding]:
    """A supply that is too small, of the wrong voltage, or missing."""
    types = board_types(plan)
    for supply in plan.supplies:
        budget = supply_budget(plan, supply)
        if budget.draws and not budget.enough:
            need = next_rating_ma(budget)
            fixed = supply.model_copy(update={"rating_ma": need})
            yield Finding(
                key=f"supply-{supply.id}",
                weight="severe",
                head=f"{supply.name} gives {supply.rating_ma:g} mA, "
                f"{budget.with_margin_ma:.0f} mA are needed.",
                why=f"{budget.sum_ma:.0f} mA may flow at once, and {100 * supply.margin_1:g} % "
                "margin.",
                mend=f"Take one of {need:g} mA or more.",
                at=f"supply:{supply.id}",
                press=f"It gives {need:g} mA",
                apply=putting("supply", fixed),
            )
    for board in plan.boards:
        kind = types[board.board_type]
        if kind.role != "controller":
            if board.host is None:
                yield Finding(
                    key=f"host-{board.id}",
                    weight="severe",
                    head=f"{board.name} hangs on no board.",
                    why="An expander or multiplexer needs a controller that reads it.",
                    mend="Choose its host at Lay out.",
                    at=f"board:{board.id}",
                )
            elif kind.role == "expander" and board.address is None:
                yield Finding(
                    key=f"bus-{board.id}",
                    weight="severe",
                    head=f"{board.name} has no bus address.",
                    why="Its host cannot call it.",
                    mend="Set the address that its jumpers make.",
                    at=f"board:{board.id}",
                )
            continue
        own = plan.supply(board.supply)
        if own is None:
            fitting = next((s for s in plan.supplies if abs(s.volts - kind.supply_v) < 0.3), None)
            fed = board.model_copy(update={"supply": fitting.id}) if fitting else None
            yield Finding(
                key=f"unfed-{board.id}",
                weight="open",
                head=f"{board.name} has no supply.",
                why=f"It wants {kind.supply_v:g} V.",
                mend="Choose a supply at Lay out."
                if fitting
                else f"Put a {kind.supply_v:g} V supply in a place.",
                at=f"board:{board.id}",
                press=f"Feed it from {fitting.name}" if fitting else "",
                apply=putting("board", fed) if fed is not None else None,
            )
        elif abs(own.volts - kind.supply_v) > 0.06 * kind.supply_v:
            yield Finding(
                key=f"volts-{board.id}",
                weight="severe",
                head=f"{board.name} wants {kind.supply_v:g} V, {own.name} gives {own.volts:g} V.",
                why="It would not start, or burn.",
                mend=f"Feed it from a supply of {kind.supply_v:g} V.",
                at=f"board:{board.id}",
            )


def cables_drop(plan: Plan) -> Iterator[Finding]:
    """A probe so far away that its cable takes too much of its supply."""
    for probe in plan.probes:
        current = getattr(probe.sensor, "supply_ma", 0.0)
        if not current or not probe.cable_m:
            continue
        drop = _drop(probe, probe.cable_mm2, current)
        if drop.drop_pct <= MOST_DROP_PCT:
            continue
        enough = next(
            (mm2 for mm2 in CABLES_MM2 if _drop(probe, mm2, current).drop_pct <= MOST_DROP_PCT),
            None,
        )
        yield Finding(
            key=f"drop-{probe.id}",
            weight="warning",
            head=f"{probe.name}’s cable drops {drop.drop_pct:.1f} %.",
            why=f"{probe.cable_m:g} m of {probe.cable_mm2:g} mm² at {current:g} mA leave "
            f"{drop.load_v:.2f} V.",
            mend=f"{enough:g} mm² keeps it under {MOST_DROP_PCT:g} %; or feed it near by."
            if enough
            else f"No cable up to {CABLES_MM2[-1]:g} mm² is enough: feed it near by.",
            at=f"probe:{probe.id}",
            press=f"Take {enough:g} mm²" if enough else "",
            apply=putting("probe", probe.model_copy(update={"cable_mm2": enough}))
            if enough
            else None,
        )


def _drop(probe: Probe, mm2: float, current_ma: float) -> CableDrop:
    return cable_drop(
        length_m=probe.cable_m,
        ohm_per_km=ohm_per_km(mm2),
        current_a=current_ma / 1000,
        supply_v=getattr(probe.sensor, "supply_v", 3.3),
    )


def names_apart(plan: Plan) -> Iterator[Finding]:
    """Names that are equal or sound alike."""
    for pair in alike_names(spoken_names(plan)):
        owner = next(
            (f"load:{load.id}" for load in plan.loads if load.name == pair.second),
            next(
                (f"control:{c.id}" for c in plan.controls if c.name == pair.second),
                next((f"place:{p.id}" for p in plan.places if p.name == pair.second), ""),
            ),
        )
        yield Finding(
            key=f"names-{pair.first}-{pair.second}",
            weight="warning",
            head=f"“{pair.first}” and “{pair.second}” {pair.how}.",
            why="A voice service, or a tired person, would take one for the other.",
            mend="Give one of them another name.",
            at=owner,
        )


def must_never_said(plan: Plan) -> Iterator[Finding]:
    """Nothing was said about what must never happen with something dangerous."""
    spoken = {load for invariant in plan.invariants for load in invariant.loads}
    for load in plan.loads:
        if load.load_class in MUST_REST and load.id not in spoken:
            yield Finding(
                key=f"never-{load.id}",
                weight="open",
                head=f"{load.name}: what must never happen?",
                why=f"It is of class {load.load_class}; nothing is said yet.",
                mend="Say it at Lay out; it is checked in every rehearsal.",
                at=f"load:{load.id}",
            )


PANEL_CHECKS: tuple[Check, ...] = (
    contacts_bear,
    contactors_fit,
    holds_without_supply,
    coils_match,
    drivers_hold,
    supplies_hold,
    cables_drop,
    relays_there,
    names_apart,
    must_never_said,
)
