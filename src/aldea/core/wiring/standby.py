"""What a panel takes while nothing is switched: boards and sensors behind their supplies."""

from dataclasses import dataclass

from aldea.core.devices.sensors.registry import supply_ma, supply_v
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.seats import home_of, seat_of

HOURS_A_YEAR = 8766.0
SUPPLY_EFFICIENCY_1 = 0.75  # of a small supply at a small load; assumed
SUPPLY_IDLE_W = 0.2  # of each supply with nothing on it; assumed
MODULE_IDLE_W = 0.02  # of the lamp and input of a relay module; assumed


@dataclass(frozen=True, slots=True, kw_only=True)
class Standby:
    """Watts at the mains while nothing is switched, and what a year of it comes to."""

    watts: float
    kwh_a_year: float
    cost: float


def standby(plan: Plan) -> Standby:
    """Boards, seated sensors and relay modules, through supplies of assumed efficiency."""
    types = board_types(plan)
    watts = sum(
        types[b.board_type].supply_ma / 1000 * types[b.board_type].supply_v for b in plan.boards
    )
    seated = {row.signal.split(".", 1)[0] for row in plan.assignments}
    for probe in plan.probes:
        if f"probe:{probe.id}" in seated:
            watts += supply_ma(probe) / 1000 * (supply_v(probe) or 0.0)
    for relay in plan.relays:
        seat = seat_of(plan, f"relay:{relay.id}.coil")
        if relay.driver == "module" and seat is not None and home_of(plan, seat[0]).supply:
            watts += MODULE_IDLE_W
    whole = watts / SUPPLY_EFFICIENCY_1 + SUPPLY_IDLE_W * len(plan.supplies)
    kwh = whole * HOURS_A_YEAR / 1000
    return Standby(watts=whole, kwh_a_year=kwh, cost=kwh * plan.house.tariff_per_kwh)
