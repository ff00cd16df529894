"""Pins of a chosen part, each with what is on it; and the pin table of a board."""

from dataclasses import dataclass

from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Pin
from aldea.core.wiring.candidates import usable
from aldea.core.wiring.signals import signals
from aldea.web.benches.wire.panel.drawing import boot_marks

SHORT_CAN = {
    "digital_in": "in",
    "digital_out": "out",
    "pull_up": "pull-up",
    "analog_in": "analog",
    "pulse_in": "pulses",
    "serial_rx": "rx",
    "serial_tx": "tx",
    "bus_data": "data",
    "bus_clock": "clock",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class PinChoice:
    """A line of the chosen part with the pins it may sit on."""

    signal: Signal
    line: str
    chosen: str
    by_hand: bool
    reason: str
    options: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PinRow:
    """A row of a board's pin table."""

    pin: Pin
    can: str
    marks: str
    used_by: str


def _line_words(plan: Plan, signal: Signal) -> str:
    """What a line is called: a transistor has a gate where a relay has a coil."""
    line = signal.id.rsplit(".", 1)[1]
    relay = next((r for r in plan.relays if signal.owner == f"relay:{r.id}"), None)
    return "gate" if relay is not None and relay.transistor is not None else line


def pin_choices(plan: Plan, chosen: str) -> tuple[PinChoice, ...]:
    """The lines of a chosen part, each with every pin that could serve and what is on it."""
    rows = {row.signal: row for row in plan.assignments}
    types = board_types(plan)
    known = {s.id: s for s in signals(plan)}
    used_by: dict[tuple[str, str], str] = {}
    for name, seat in rows.items():
        if name in known:
            used_by.setdefault((seat.board, seat.pin), known[name].name)
    choices = []
    for signal in known.values():
        if signal.owner != chosen:
            continue
        row = rows.get(signal.id)
        chosen_pin = f"{row.board}/{row.pin}" if row else ""
        options = [("", "no pin")]
        for board in plan.boards:
            for pin in types[board.board_type].pins:
                at = f"{board.id}/{pin.name}"
                cannot = bool(signal.needs - set(pin.can))
                if cannot and at != chosen_pin:
                    continue
                words = [f"{board.name}, {pin.name}"]
                if marks := boot_marks(pin, board):
                    words.append(marks)
                if not cannot and usable(board, types[board.board_type], pin, signal):
                    words.append("not advised")
                if at != chosen_pin and (other := used_by.get((board.id, pin.name))):
                    words.append(other)
                options.append((at, " · ".join(words)))
        choices.append(
            PinChoice(
                signal=signal,
                line=_line_words(plan, signal),
                chosen=chosen_pin,
                by_hand=row is not None and row.by == "hand",
                reason=row.reason if row else "",
                options=tuple(options),
            )
        )
    return tuple(choices)


def pin_table(plan: Plan, chosen: str) -> tuple[PinRow, ...]:
    """The pins of the chosen board; none where no board is chosen."""
    board = plan.board(chosen.removeprefix("board:")) if chosen.startswith("board:") else None
    if board is None:
        return ()
    names = {s.id: s.name for s in signals(plan)}
    on: dict[str, list[str]] = {}
    for row in plan.assignments:
        if row.board == board.id and row.signal in names:
            name = names[row.signal]
            if name not in on.setdefault(row.pin, []):
                on[row.pin].append(name)
    return tuple(
        PinRow(
            pin=pin,
            can=", ".join(SHORT_CAN[can] for can in pin.can),
            marks=boot_marks(pin, board),
            used_by=", ".join(on.get(pin.name, [])),
        )
        for pin in board_types(plan)[board.board_type].pins
    )
