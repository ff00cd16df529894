"""The generic boards that ship: pin tables of what such boards usually are.

Each is marked: check against your board's own sheet. Own boards stand in the plan itself.
"""

from functools import cache
from typing import Any

from aldea.core.base.memo import per_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import BoardType, Capability, Pin

CHECK_NOTE = "Check against your board’s own sheet."
IN_OUT: tuple[Capability, ...] = ("digital_in", "digital_out", "pull_up", "pulse_in")
BUS: tuple[Capability, ...] = ("bus_data", "bus_clock")


def _pin(name: str, number: int, can: tuple[Capability, ...], **facts: Any) -> Pin:
    return Pin(name=name, number=number, can=can, **facts)


def _wifi_module() -> BoardType:
    dead = {"analog_dies_with_radio": True}
    analog: tuple[Capability, ...] = (*IN_OUT, "analog_in")
    only: tuple[Capability, ...] = ("digital_in", "analog_in", "pulse_in")
    return BoardType(
        id="wifi_38",
        name="38-pin Wi-Fi module, 3.3 V",
        logic_v=3.3,
        supply_v=5.0,
        supply_ma=240.0,
        has_radio=True,
        converter_bits=12,
        converter_v=3.3,
        settle_us=20.0,
        note=CHECK_NOTE,
        pins=(
            _pin("IO36", 3, only, note="input only, no pull-up"),
            _pin("IO39", 4, only, note="input only, no pull-up"),
            _pin("IO34", 5, only, note="input only, no pull-up"),
            _pin("IO35", 6, only, note="input only, no pull-up"),
            _pin("IO32", 7, analog),
            _pin("IO33", 8, analog),
            _pin("IO25", 9, analog, **dead),
            _pin("IO26", 10, analog, **dead),
            _pin("IO27", 11, analog, **dead),
            _pin("IO14", 12, analog, at_boot="pulses", boot_ms=110.0, **dead),
            _pin("IO12", 13, analog, boot_needs="low", boot_pull="down", **dead),
            _pin("IO13", 15, analog, **dead),
            _pin(
                "IO15",
                23,
                analog,
                boot_needs="high",
                boot_pull="up",
                at_boot="pulses",
                boot_ms=70.0,
                **dead,
            ),
            _pin("IO2", 24, analog, boot_needs="low", boot_pull="down", **dead),
            _pin(
                "IO0",
                25,
                analog,
                boot_needs="high",
                boot_pull="up",
                at_boot="pulses",
                boot_ms=60.0,
                **dead,
            ),
            _pin("IO4", 26, analog, **dead),
            _pin("IO16", 27, (*IN_OUT, "serial_rx"), port="s2"),
            _pin("IO17", 28, (*IN_OUT, "serial_tx"), port="s2"),
            _pin(
                "IO5", 29, IN_OUT, boot_needs="high", boot_pull="up", at_boot="high", boot_ms=70.0
            ),
            _pin("IO18", 30, (*IN_OUT, "serial_rx"), port="s1"),
            _pin("IO19", 31, (*IN_OUT, "serial_tx"), port="s1"),
            _pin("IO21", 33, (*IN_OUT, "bus_data"), port="b0"),
            _pin(
                "RX0",
                34,
                (*IN_OUT, "serial_rx"),
                programming=True,
                at_boot="high",
                boot_ms=100.0,
                boot_pull="up",
                port="s0",
            ),
            _pin(
                "TX0",
                35,
                (*IN_OUT, "serial_tx"),
                programming=True,
                at_boot="pulses",
                boot_ms=200.0,
                port="s0",
            ),
            _pin("IO22", 36, (*IN_OUT, "bus_clock"), port="b0"),
            _pin("IO23", 37, IN_OUT),
        ),
    )


def _small_board() -> BoardType:
    five: dict[str, Any] = {"limit_ma": 20.0, "tolerates_v": 5.5}
    slow: tuple[Capability, ...] = ("digital_in", "digital_out", "pull_up")
    analog: tuple[Capability, ...] = (*slow, "analog_in")
    pins = [
        _pin("D0", 1, (*slow, "serial_rx"), programming=True, port="s0", **five),
        _pin(
            "D1",
            2,
            (*slow, "serial_tx"),
            programming=True,
            port="s0",
            at_boot="high",
            boot_ms=1500.0,
            **five,
        ),
        _pin("D2", 3, IN_OUT, **five),
        _pin("D3", 4, IN_OUT, **five),
        *(_pin(f"D{n}", n + 1, slow, **five) for n in range(4, 13)),
        _pin("D13", 14, slow, at_boot="pulses", boot_ms=800.0, note="lamp on the board", **five),
        *(_pin(f"A{n}", n + 15, analog, **five) for n in range(4)),
        _pin("A4", 19, (*analog, "bus_data"), port="b0", **five),
        _pin("A5", 20, (*analog, "bus_clock"), port="b0", **five),
    ]
    return BoardType(
        id="small_5v",
        name="Small 8-bit board, 5 V, six analog inputs",
        logic_v=5.0,
        supply_v=5.0,
        supply_ma=50.0,
        converter_bits=10,
        converter_v=5.0,
        settle_us=13.0,
        note=CHECK_NOTE,
        pins=tuple(pins),
    )


def _low_power() -> BoardType:
    weak: dict[str, Any] = {"limit_ma": 5.0, "tolerates_v": 3.6}
    return BoardType(
        id="low_power",
        name="Low-power radio module, 3.3 V",
        logic_v=3.3,
        supply_v=3.3,
        supply_ma=18.0,
        rails_v=(3.3,),
        has_radio=True,
        converter_bits=12,
        converter_v=3.3,
        settle_us=10.0,
        note=CHECK_NOTE,
        pins=(
            *(_pin(f"AN{n}", n, (*IN_OUT, "analog_in"), **weak) for n in range(1, 5)),
            _pin("SD", 5, (*IN_OUT, "bus_data"), port="b0", **weak),
            _pin("SC", 6, (*IN_OUT, "bus_clock"), port="b0", **weak),
            *(_pin(f"P{n}", n + 6, IN_OUT, **weak) for n in range(1, 6)),
            _pin("RX", 12, (*IN_OUT, "serial_rx"), programming=True, port="s0", **weak),
            _pin(
                "TX",
                13,
                (*IN_OUT, "serial_tx"),
                programming=True,
                port="s0",
                at_boot="high",
                boot_ms=40.0,
                **weak,
            ),
            _pin("CFG", 14, IN_OUT, boot_needs="high", boot_pull="up", **weak),
        ),
    )


def _terminal_board() -> BoardType:
    inputs: dict[str, Any] = {"tolerates_v": 30.0, "limit_ma": 5.0}
    drive: dict[str, Any] = {"tolerates_v": 30.0, "limit_ma": 500.0}
    can_in: tuple[Capability, ...] = ("digital_in", "analog_in", "pulse_in", "pull_up")
    late = {11: {"at_boot": "high", "boot_ms": 80.0}}
    return BoardType(
        id="terminal_24v",
        name="24 V terminal board, 22 inputs, 14 outputs",
        logic_v=24.0,
        supply_v=24.0,
        supply_ma=180.0,
        rails_v=(5.0, 24.0),
        converter_bits=12,
        converter_v=10.0,
        settle_us=50.0,
        note=CHECK_NOTE,
        pins=(
            *(_pin(f"A{n}", n, can_in, **inputs) for n in range(21, 43)),
            *(
                _pin(f"DO{n}", n, ("digital_out",), **drive, **late.get(n, {}))
                for n in range(1, 15)
            ),
            _pin("B1", 51, ("bus_data",), port="b0", tolerates_v=5.5),
            _pin("B2", 52, ("bus_clock",), port="b0", tolerates_v=5.5),
            _pin("C1", 53, ("serial_rx",), port="s1", tolerates_v=5.5),
            _pin("C2", 54, ("serial_tx",), port="s1", tolerates_v=5.5),
        ),
    )


def _expander() -> BoardType:
    both: tuple[Capability, ...] = ("digital_in", "digital_out", "pull_up")
    return BoardType(
        id="expander_16",
        name="16-line expander on the bus",
        role="expander",
        logic_v=3.3,
        supply_v=3.3,
        supply_ma=5.0,
        converter_bits=0,
        converter_v=0.0,
        note=CHECK_NOTE,
        pins=tuple(_pin(f"E{n}", n + 1, both, limit_ma=20.0, tolerates_v=5.5) for n in range(16)),
    )


def _one_analog() -> BoardType:
    """A small radio module whose single converter reads 0 to 1 V behind its own divider."""
    quiet: dict[str, Any] = {"tolerates_v": 3.6}
    return BoardType(
        id="wifi_one_analog",
        name="Small Wi-Fi module, one analog input",
        logic_v=3.3,
        supply_v=5.0,
        supply_ma=170.0,
        has_radio=True,
        converter_bits=10,
        converter_v=3.3,
        settle_us=30.0,
        note=CHECK_NOTE,
        pins=(
            _pin("AIN", 1, ("analog_in",), note="the only analog input", **quiet),
            _pin("G5", 2, (*IN_OUT, "bus_clock"), port="b0", **quiet),
            _pin("G4", 3, (*IN_OUT, "bus_data"), port="b0", **quiet),
            _pin("G12", 4, IN_OUT, **quiet),
            _pin("G13", 5, (*IN_OUT, "serial_rx"), port="s1", **quiet),
            _pin("G14", 6, IN_OUT, **quiet),
            _pin("G16", 7, ("digital_in", "digital_out"), at_boot="high", boot_ms=60.0, **quiet),
            _pin(
                "G15",
                8,
                (*IN_OUT, "serial_tx"),
                port="s1",
                boot_needs="low",
                boot_pull="down",
                **quiet,
            ),
            _pin("G0", 9, IN_OUT, boot_needs="high", boot_pull="up", **quiet),
            _pin("G2", 10, IN_OUT, boot_needs="high", boot_pull="up", **quiet),
            _pin(
                "RX",
                11,
                (*IN_OUT, "serial_rx"),
                programming=True,
                port="s0",
                at_boot="high",
                **quiet,
            ),
            _pin(
                "TX",
                12,
                (*IN_OUT, "serial_tx"),
                programming=True,
                port="s0",
                at_boot="pulses",
                boot_ms=150.0,
                **quiet,
            ),
        ),
    )


def _multiplexer(channels: int) -> BoardType:
    read: tuple[Capability, ...] = ("analog_in", "digital_in")
    return BoardType(
        id=f"mux_{channels}",
        name=f"{channels}-channel analog multiplexer",
        role="multiplexer",
        logic_v=3.3,
        supply_v=3.3,
        supply_ma=1.0,
        converter_bits=0,
        converter_v=0.0,
        settle_us=5.0,
        note=CHECK_NOTE,
        pins=tuple(_pin(f"CH{n}", n + 1, read, tolerates_v=3.6) for n in range(channels)),
    )


@cache
def generic_types() -> dict[str, BoardType]:
    """The boards that ship, by id: five controllers, an expander, two multiplexers."""
    types = (
        _wifi_module(),
        _small_board(),
        _low_power(),
        _terminal_board(),
        _one_analog(),
        _expander(),
        _multiplexer(8),
        _multiplexer(16),
    )
    return {board.id: board for board in types}


@per_plan
def board_types(plan: Plan) -> dict[str, BoardType]:
    """Every board type of a plan: the generic ones, and its own, which go before them."""
    return {**generic_types(), **{t.id: t for t in plan.board_types}}
