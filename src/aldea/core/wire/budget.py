"""What a supply must give: boards, coils and sensors that may draw at one time."""

from aldea.core.engine.lines import states_of
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.wiring import Supply
from aldea.core.wire.power import Draw, SupplyBudget

STANDARD_RATINGS_MA = (500, 1000, 1500, 2000, 2500, 3000, 4000, 5000, 6500, 8000, 10_000, 15_000)


def supply_budget(plan: Plan, supply: Supply) -> SupplyBudget:
    """Everything on a supply that may draw together; exclusive relays count once.

    Of a stepped fan's relays only the combination that draws most can be closed, so that counts.
    """
    types = board_types(plan)
    fed = [
        b for b in plan.boards if b.supply == supply.id and types[b.board_type].role == "controller"
    ]
    ids = {b.id for b in fed} | {b.id for b in plan.boards if b.host in {f.id for f in fed}}
    draws = [
        Draw(name=b.name, each_ma=types[b.board_type].supply_ma, at_once=1)
        for b in plan.boards
        if b.id in ids
    ]
    boards_of = {row.signal: row.board for row in plan.assignments}
    for load in plan.loads:
        relays = [r for r in plan.relays_of(load.id) if boards_of.get(f"relay:{r.id}.coil") in ids]
        if relays:
            draws.append(
                Draw(
                    name=f"coils of {load.name}",
                    each_ma=relays[0].coil_ma,
                    at_once=_most_closed(load, {r.role for r in relays}),
                )
            )
    seated = {name.split(".", 1)[0] for name, board in boards_of.items() if board in ids}
    for probe in plan.probes:
        current = getattr(probe.sensor, "supply_ma", 0.0)
        if current and f"probe:{probe.id}" in seated:
            draws.append(Draw(name=probe.name, each_ma=current, at_once=1))
    for control in plan.controls:
        lamp = boards_of.get(f"control:{control.id}.lamp") in ids
        if control.kind == "lamp" and lamp:
            draws.append(Draw(name=control.name, each_ma=control.lamp_ma, at_once=1))
    return SupplyBudget(draws=tuple(draws), rating_ma=supply.rating_ma, margin_1=supply.margin_1)


def _most_closed(load: Load, roles: set[str]) -> int:
    return max((len(set(state) & roles) for state in states_of(load)), default=0) or len(roles)


def next_rating_ma(budget: SupplyBudget) -> float:
    """The smallest usual rating that holds a budget, mA; the need itself above the list."""
    need = budget.with_margin_ma
    return float(next((r for r in STANDARD_RATINGS_MA if r >= need), round(need + 0.5)))
