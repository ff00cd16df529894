"""Which pins a signal could sit on, and what each costs: the likes and dislikes of the solver.

Costs are counts of regret without a unit; only their order matters.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from aldea.core.devices.sensors.registry import supply_v
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Place, Plan
from aldea.core.plan.panel import Board, BoardType, Capability, Pin
from aldea.core.wiring.board_terminals import rail_terminal

TOO_MANY_VOLTS, WRONG_RAIL = 150, 400
BOOT_CONTACT, BOOT_PIN, BOOT_MOVES, PULSES, NO_PULL, LEVEL_APART = 200, 60, 40, 20, 8, 12
PROGRAMMING = 1000  # the last of all
SCARCE: dict[Capability, int] = {
    "analog_in": 3,
    "bus_data": 6,
    "bus_clock": 6,
    "serial_rx": 3,
    "serial_tx": 3,
    "digital_out": 2,
    "pulse_in": 1,
    "pull_up": 1,
    "digital_in": 0,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Slot:
    """Pins of one board that are alike: the solver chooses among slots, not among pins.

    A slot `held_for` a bus line is a pin that a hand gave to it: others of that line may join.
    """

    board: str
    root: str
    pins: tuple[Pin, ...]
    held_for: str = ""

    @property
    def sample(self) -> Pin:
        """Any of them."""
        return self.pins[0]


def root_of(board: Board) -> str:
    """The controller that a board belongs to: its host, or itself."""
    return board.host or board.id


def usable(board: Board, kind: BoardType, pin: Pin, signal: Signal) -> str:
    """Empty where the pin can serve; else why not, in a few words."""
    missing = sorted(signal.needs - set(pin.can))
    if missing:
        return "cannot do " + ", ".join(name.replace("_", " ") for name in missing)
    if "analog_in" in signal.needs and pin.analog_dies_with_radio and board.radio_on:
        return "its converter stops while the radio is on"
    if signal.only_board and board.id != signal.only_board:
        return "another board"
    if kind.role == "multiplexer" and ("excite" in signal.id or signal.share):
        return "a multiplexer only reads"
    if kind.role != "controller" and board.host is None:
        return "no board that can read it is chosen"
    return ""


def unfit(slot: Slot, board: Board, types: Mapping[str, BoardType], signal: Signal) -> bool:
    """Whether a signal cannot sit in a slot: what its pins can do, and whose line they are."""
    other = slot.held_for and slot.held_for != signal.share
    return bool(other or usable(board, types[board.board_type], slot.sample, signal))


def slots(plan: Plan, taken: Mapping[tuple[str, str], str]) -> tuple[Slot, ...]:
    """Free pins grouped by what they are like; those that are `taken` are left out.

    `taken` gives (board, pin) and the bus line that the pin is, or an empty word.
    """
    types = board_types(plan)
    grouped: dict[tuple[object, ...], list[Pin]] = {}
    held: list[Slot] = []
    for board in plan.boards:
        for pin in types[board.board_type].pins:
            line = taken.get((board.id, pin.name))
            if line is not None:
                if line:
                    root = root_of(board)
                    held.append(Slot(board=board.id, root=root, pins=(pin,), held_for=line))
                continue
            alike = pin.model_copy(update={"name": "x", "number": 1, "note": ""})
            grouped.setdefault((board.id, root_of(board), alike), []).append(pin)
    return (
        *held,
        *(
            Slot(
                board=str(key[0]),
                root=str(key[1]),
                pins=tuple(sorted(pins, key=lambda p: p.number)),
            )
            for key, pins in grouped.items()
        ),
    )


def cost_of(pin: Pin, signal: Signal) -> int:
    """How much is lost by giving this pin to this signal."""
    cost = sum(SCARCE[can] for can in pin.can if can not in signal.needs)
    if signal.volts > pin.tolerates_v:
        cost += TOO_MANY_VOLTS
    if pin.decides_boot:
        cost += BOOT_CONTACT if signal.bare_contact else BOOT_PIN
    if pin.programming:
        cost += PROGRAMMING
    if pin.at_boot != "floating":
        cost += BOOT_MOVES if signal.drives else PULSES
    if signal.wants_pull:
        cost += -SCARCE["pull_up"] if "pull_up" in pin.can else NO_PULL
    return cost


def rail_cost(plan: Plan, owner: str, root: Board) -> int:
    """What it costs that a board has no rail of the volts that a sensor, or a hung board, wants."""
    kind, _, part_id = owner.partition(":")
    types = board_types(plan)
    wanted: float | None = None
    if kind == "probe":
        probe = plan.probe(part_id)
        wanted = supply_v(probe) if probe is not None else None
    elif kind == "board":
        board = plan.board(part_id)
        wanted = types[board.board_type].supply_v if board else None
    if wanted is None or rail_terminal(types[root.board_type], wanted):
        return 0
    return WRONG_RAIL


def distance_cost(place: Place | None, board_place: Place | None) -> int:
    """How far a thing is from a board: a level counts as twelve, a metre along the house as one."""
    if place is None or board_place is None or place.id == board_place.id:
        return 0
    middle = (place.from_m + place.to_m) / 2 - (board_place.from_m + board_place.to_m) / 2
    return 2 + LEVEL_APART * abs(place.level - board_place.level) + round(abs(middle))


def standing(plan: Plan, place_id: str) -> Place | None:
    """The place that a thing stands in; for an enclosure the place that holds it."""
    place = plan.place(place_id)
    while place is not None and place.within is not None:
        place = plan.place(place.within)
    return place
