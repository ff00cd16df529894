"""Checks of supplies: whether they are enough, of the right volts, there; what cables take."""

from collections.abc import Iterator

from aldea.core.base.figures import figure, short
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.sensors.registry import supply_ma, supply_v
from aldea.core.physics.cable import CableDrop, cable_drop, ohm_per_km
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.panel import RelayOutput
from aldea.core.wiring.supply_budget import next_rating_ma, supply_budget

USUAL_RAIL_V = 3.3
MOST_DROP_PCT = 5.0
# A coil must pull in at 80 % of its volts (IEC 61810-1, class 1); half of that is for its supply
# and for its warmth.
MOST_COIL_DROP_PCT = 10.0


CABLES_MM2 = (0.5, 0.75, 1.0, 1.5)


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
                head=f"{supply.name} gives {short(supply.rating_ma)} mA, "
                f"{figure(budget.with_margin_ma, 0)} mA are needed.",
                why=f"{figure(budget.sum_ma, 0)} mA may flow at once, and "
                f"{short(100 * supply.margin_1)} % "
                "margin.",
                fix=f"Use one of {short(need)} mA or more.",
                at=f"supply:{supply.id}",
                press=f"Set to {short(need)} mA",
                apply=put_changed("supply", fixed),
            )
    for board in plan.boards:
        kind = types[board.board_type]
        if kind.role != "controller":
            if board.host is None:
                yield Finding(
                    key=f"host-{board.id}",
                    weight="severe",
                    head=f"{board.name} is wired to no board.",
                    why="An expander or multiplexer needs a controller that reads it.",
                    fix="Choose its host at Lay out.",
                    at=f"board:{board.id}",
                )
            elif kind.role == "expander" and board.address is None:
                yield Finding(
                    key=f"bus-{board.id}",
                    weight="severe",
                    head=f"{board.name} has no bus address.",
                    why="Its host cannot address it.",
                    fix="Set the address that its jumpers make.",
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
                why=f"It needs {short(kind.supply_v)} V.",
                fix="Choose a supply at Lay out."
                if fitting
                else f"Put a {short(kind.supply_v)} V supply in a place.",
                at=f"board:{board.id}",
                press=f"Feed it from {fitting.name}" if fitting else "",
                apply=put_changed("board", fed) if fed is not None else None,
            )
        elif abs(own.volts - kind.supply_v) > 0.06 * kind.supply_v:
            yield Finding(
                key=f"volts-{board.id}",
                weight="severe",
                head=f"{board.name} needs {short(kind.supply_v)} V, {own.name} gives "
                f"{short(own.volts)} V.",
                why="It would not start, or burn.",
                fix=f"Feed it from a supply of {short(kind.supply_v)} V.",
                at=f"board:{board.id}",
            )


def cables_drop(plan: Plan) -> Iterator[Finding]:
    """A probe so far away that its cable takes too much of its supply."""
    for probe in plan.probes:
        current = supply_ma(probe)
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
            head=f"{probe.name}’s cable drops {figure(drop.drop_pct)} %.",
            why=f"{short(probe.cable_m)} m of {short(probe.cable_mm2)} mm² at "
            f"{short(current)} mA leave {figure(drop.load_v, 2)} V.",
            fix=f"{short(enough)} mm² keeps it under {short(MOST_DROP_PCT)} %; or feed it near by."
            if enough
            else f"No cable up to {short(CABLES_MM2[-1])} mm² is enough: feed it near by.",
            at=f"probe:{probe.id}",
            press=f"Use {short(enough)} mm²" if enough else "",
            apply=put_changed("probe", probe.model_copy(update={"cable_mm2": enough}))
            if enough
            else None,
        )


def _drop(probe: Probe, mm2: float, current_ma: float) -> CableDrop:
    return cable_drop(
        length_m=probe.cable_m,
        ohm_per_km=ohm_per_km(mm2),
        current_a=current_ma / 1000,
        supply_v=supply_v(probe) or USUAL_RAIL_V,
    )


def coil_cables_drop(plan: Plan) -> Iterator[Finding]:
    """A relay so far from its board that its coil may not pull in."""
    for relay in plan.relays:
        if relay.transistor is not None or not relay.cable_m:
            continue
        drop = _coil_drop(relay, relay.cable_mm2)
        if drop.drop_pct <= MOST_COIL_DROP_PCT:
            continue
        enough = next(
            (mm2 for mm2 in CABLES_MM2 if _coil_drop(relay, mm2).drop_pct <= MOST_COIL_DROP_PCT),
            None,
        )
        name = relay.id.upper()
        yield Finding(
            key=f"coil-drop-{relay.id}",
            weight="warning",
            head=f"{name}’s cable drops {figure(drop.drop_pct, 0)} %: its coil may not pull in.",
            why=f"{short(relay.cable_m)} m of {short(relay.cable_mm2)} mm² at "
            f"{short(relay.coil_ma)} mA leave {figure(drop.load_v, 2)} V of "
            f"{short(relay.coil_v)} V; "
            "a coil must pull in at 80 %, and a supply that sags and a warm coil want their share.",
            fix=f"{short(enough)} mm² keeps it under {short(MOST_COIL_DROP_PCT)} %; or stand "
            "it nearer."
            if enough
            else f"No cable up to {short(CABLES_MM2[-1])} mm² is enough: stand it nearer, or "
            "choose a coil of more volts.",
            at=f"relay:{relay.id}",
            press=f"Use {short(enough)} mm²" if enough else "",
            apply=put_changed("relay", relay.model_copy(update={"cable_mm2": enough}))
            if enough
            else None,
        )


def _coil_drop(relay: RelayOutput, mm2: float) -> CableDrop:
    return cable_drop(
        length_m=relay.cable_m,
        ohm_per_km=ohm_per_km(mm2),
        current_a=relay.coil_ma / 1000,
        supply_v=relay.coil_v,
    )


SUPPLY_CHECKS: tuple[Check, ...] = (supplies_hold, cables_drop, coil_cables_drop)
