"""Checks of boxes: how warm it gets where boards stand, and what a sensor in there reads."""

from collections.abc import Iterator

from aldea.core.base.figures import figure, short
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.board_types import board_types
from aldea.core.plan.defaults import place_figures
from aldea.core.plan.document import Place, Plan
from aldea.core.plan.panel import RelayOutput
from aldea.core.wiring.relays import most_closed
from aldea.core.wiring.standby import SUPPLY_EFFICIENCY_1

WALL_W_PER_M2_K = 5.5  # of a closed box of sheet or plastic in still air; assumed
MOST_RISE_K = 20.0
MOST_ERROR_K = 0.3


def box_watts(plan: Plan, place: Place) -> float:
    """What boards, coils and the losses of supplies turn into heat in a box, W."""
    types = board_types(plan)
    boards = [b for b in plan.boards if b.place == place.id]
    watts = sum(types[b.board_type].supply_ma * types[b.board_type].supply_v for b in boards) / 1000
    rows = {row.signal: row.board for row in plan.assignments}
    at = {b.id: b.place for b in plan.boards}

    def stands(relay: RelayOutput) -> bool:
        board = rows.get(f"relay:{relay.id}.coil", "")
        return (relay.place or at.get(board)) == place.id

    for load in plan.loads:
        relays = [r for r in plan.relays_of(load.id) if stands(r)]
        if relays and relays[0].transistor is None:
            each = relays[0].coil_v * relays[0].coil_ma / 1000
            watts += each * most_closed(load, {r.role for r in relays})
    supplies = [s for s in plan.supplies if s.place == place.id]
    if supplies:
        watts += watts * (1 / SUPPLY_EFFICIENCY_1 - 1)
    return watts


def box_rise_k(plan: Plan, place: Place) -> float:
    """How much warmer it is in a box than around it, K: W / (h A)."""
    size = {key: float(place_figures(place)[key][0]) for key in ("depth_m", "height_m")}
    width = place.to_m - place.from_m if place.to_m > place.from_m else 0.4
    depth, height = size["depth_m"], size["height_m"]
    area = 2 * (width * depth + width * height + depth * height)
    return box_watts(plan, place) / (WALL_W_PER_M2_K * area)


def boxes_stay_cool(plan: Plan) -> Iterator[Finding]:
    """A box that gets too warm, and a temperature that is measured inside one."""
    for place in plan.places:
        if place.kind != "enclosure":
            continue
        rise = box_rise_k(plan, place)
        if rise > MOST_RISE_K:
            yield Finding(
                key=f"warm-{place.id}",
                weight="warning",
                head=f"{place.name} gets {figure(rise, 0)} K warmer than the room.",
                why=f"{figure(box_watts(plan, place))} W in it; its walls give "
                f"{short(WALL_W_PER_M2_K)} W/m²K (estimated).",
                fix="Use a larger box, give it vents, or put the supplies elsewhere.",
                at=f"place:{place.id}",
            )
        for probe in plan.probes_in(place.id):
            if (
                probe.quantity not in ("air_temperature", "relative_humidity")
                or rise <= MOST_ERROR_K
            ):
                continue
            yield Finding(
                key=f"in-box-{probe.id}",
                weight="warning",
                head=f"{probe.name} is in a box that is {figure(rise)} K too warm.",
                why="It measures the box, not the room.",
                fix="Put it outside, below the box and a hand away.",
                at=f"probe:{probe.id}",
            )


BOX_CHECKS: tuple[Check, ...] = (boxes_stay_cool,)
