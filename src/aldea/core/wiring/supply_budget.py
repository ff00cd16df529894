"""What a supply must give: boards, coils and sensors that may draw at one time."""

from dataclasses import dataclass

from aldea.core.devices.loads.ratings import load_current_a
from aldea.core.devices.sensors.registry import supply_ma
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput, Supply
from aldea.core.plan.seats import coil_supply, seat_of
from aldea.core.wiring.relays import most_closed

STANDARD_RATINGS_MA = (500, 1000, 1500, 2000, 2500, 3000, 4000, 5000, 6500, 8000, 10_000, 15_000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Draw:
    """One consumer of a supply: its current, and how many of it may draw at once."""

    name: str
    each_ma: float
    at_once: int

    @property
    def total_ma(self) -> float:
        """All of them, mA."""
        return self.each_ma * self.at_once


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplyBudget:
    """What a supply has to give, with its margin, against what it is rated for; mA."""

    draws: tuple[Draw, ...]
    rating_ma: float
    margin_1: float

    @property
    def sum_ma(self) -> float:
        """Everything that may draw at once."""
        return sum(draw.total_ma for draw in self.draws)

    @property
    def with_margin_ma(self) -> float:
        """The same with the margin."""
        return self.sum_ma * (1 + self.margin_1)

    @property
    def enough(self) -> bool:
        """Whether the rating holds it."""
        return self.with_margin_ma <= self.rating_ma * (1 + 1e-12)

    @property
    def share_pct(self) -> float:
        """The sum as a share of the rating, %."""
        return 100 * self.sum_ma / self.rating_ma if self.rating_ma else float("inf")


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
        relays = [
            r
            for r in plan.relays_of(load.id)
            if r.transistor is None and _feeds_coil(plan, supply, r)
        ]
        if relays:
            draws.append(
                Draw(
                    name=f"coils of {load.name}",
                    each_ma=relays[0].coil_ma,
                    at_once=most_closed(load, {r.role for r in relays}),
                )
            )
    for load in plan.loads:
        if load.supply == supply.id:
            current_ma = 1000 * load_current_a(load, plan)
            draws.append(Draw(name=load.name, each_ma=current_ma, at_once=1))
    seated = {name.split(".", 1)[0] for name, board in boards_of.items() if board in ids}
    everywhere = {name.split(".", 1)[0] for name in boards_of}
    for probe in plan.probes:
        current = supply_ma(probe)
        feeder = probe.fed_by
        if feeder in {s.id for s in plan.supplies}:
            here = feeder == supply.id and f"probe:{probe.id}" in everywhere
        elif feeder is not None:
            here = feeder in ids
        else:
            here = f"probe:{probe.id}" in seated
        if current and here:
            draws.append(Draw(name=probe.name, each_ma=current, at_once=1))
    for control in plan.controls:
        lamp = boards_of.get(f"control:{control.id}.lamp") in ids
        if control.kind == "lamp" and lamp:
            draws.append(Draw(name=control.name, each_ma=control.lamp_ma, at_once=1))
        if control.kind == "touch_pad" and f"control:{control.id}" in seated:
            draws.append(Draw(name=control.name, each_ma=control.supply_ma, at_once=1))
    return SupplyBudget(draws=tuple(draws), rating_ma=supply.rating_ma, margin_1=supply.margin_1)


def _feeds_coil(plan: Plan, supply: Supply, relay: RelayOutput) -> bool:
    own = coil_supply(plan, relay)
    seated = seat_of(plan, f"relay:{relay.id}.coil") is not None
    return seated and own is not None and own.id == supply.id


def next_rating_ma(budget: SupplyBudget) -> float:
    """The smallest usual rating that holds a budget, mA; the need itself above the list."""
    need = budget.with_margin_ma
    return float(next((r for r in STANDARD_RATINGS_MA if r >= need), round(need + 0.5)))
