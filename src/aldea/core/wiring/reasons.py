"""Why a signal sits on its pin, in a few words, from what the pin can do and what it spares."""

from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.wiring.candidates import Slot, standing, usable


def reason_for(plan: Plan, signal: Signal, slot: Slot) -> str:
    """One line: what decided, how many pins could have served on that board, what stays free."""
    board = plan.board(slot.board)
    if board is None:  # a slot is made from a board
        raise KeyError(slot.board)
    kind = board_types(plan)[board.board_type]
    able = sum(not usable(board, kind, pin, signal) for pin in kind.pins)
    pin = slot.sample
    words: list[str] = []
    if signal.share.startswith("bus"):
        words.append("the bus of this board, shared")
    elif signal.share:
        words.append("the single wire of this board, shared")
    elif "serial_rx" in signal.needs or "serial_tx" in signal.needs:
        words.append(f"one serial port, {pin.port}, lines crossed")
    elif "analog_in" in signal.needs:
        alive = kind.has_radio and not pin.analog_dies_with_radio
        words.append("analog beside the radio" if alive else "analog")
    if pin.input_only and not signal.drives:
        words.append("input only, so an output stays free")
    if signal.wants_pull and "pull_up" in pin.can:
        words.append("has a pull-up")
    if signal.drives and pin.at_boot == "floating":
        words.append("quiet while the board starts")
    if pin.decides_boot:
        words.append(f"decides the boot mode (needs {pin.boot_needs}): no better pin was free")
    if pin.programming:
        words.append("loads the program, so it must be unplugged then; no other pin was free")
    words.append(f"{able} pin{'' if able == 1 else 's'} here could")
    own, here = standing(plan, signal.place), standing(plan, board.place)
    if own is not None and here is not None:
        same = own.id == here.id
        near = "same room" if same else f"nearest with room, {here.name}"
        words.append(near)
    return "; ".join(words)
