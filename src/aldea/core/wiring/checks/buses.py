"""Checks of shared lines: addresses on a bus, the lines of one sensor."""

from collections import defaultdict
from collections.abc import Iterator

from aldea.core.base.addresses import address_words
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.core.devices.signal import Signal
from aldea.core.plan.document import Plan, Probe
from aldea.core.wiring.reassign import give_new_pins
from aldea.core.wiring.seated import Seat, seated

RESERVED_BELOW, RESERVED_FROM = 8, 120


def bus_addresses(plan: Plan) -> Iterator[Finding]:
    """Addresses that two devices of a board share, or that are reserved."""
    at: dict[tuple[str, int], list[tuple[Signal, str]]] = defaultdict(list)
    for signal, row, *_ in seated(plan):
        if signal.address is None:
            continue
        at[row.board, signal.address].append((signal, row.pin))
        if not RESERVED_BELOW <= signal.address < RESERVED_FROM:
            yield Finding(
                key=f"reserved-{signal.id}",
                weight="severe",
                head=f"{signal.name} has the reserved address {address_words(signal.address)}.",
                why="Addresses below 0x08 and from 0x78 belong to the bus itself.",
                fix="Set the address that stands on the part.",
                at=signal.owner,
                pins=((row.board, row.pin),),
            )
    for (board, address), here in at.items():
        if len(here) > 1:
            names = " and ".join(signal.name for signal, _ in here)
            yield Finding(
                key=f"address-{board}-{address}",
                weight="severe",
                head=f"Two devices answer at {address_words(address)}.",
                why=f"{names} sit on one bus.",
                fix="Set another address on one of them, or move one to another board’s bus. "
                "If they are one part, set this at Lay out.",
                at=here[1][0].owner,
                pins=((board, here[1][1]),),
            )


def split_lines(plan: Plan) -> Iterator[Finding]:
    """The lines of one sensor on two boards, or on two serial ports of one."""
    by_owner: dict[str, list[Seat]] = defaultdict(list)
    for seat in seated(plan):
        if seat[0].owner.startswith("probe:"):
            by_owner[seat[0].owner].append(seat)
    for owner, seats in by_owner.items():
        serial = any(s.needs & {"serial_rx", "serial_tx"} for s, *_ in seats)
        homes = {board.host or board.id for _, _, board, *_ in seats}  # an expander is its host's
        ports = {(row.board, pin.port) for _, row, _, _, pin in seats}
        if len(homes) < 2 and not (serial and len(ports) > 1):
            continue
        name = seats[0][0].name
        where = "boards" if len(homes) > 1 else "serial ports"
        yield Finding(
            key=f"split-{owner}",
            weight="severe",
            head=f"The lines of {name} sit on two {where}.",
            why="What one sends, the other does not hear.",
            fix="Give them one port." if serial else "Give them one board.",
            at=owner,
            pins=tuple((row.board, row.pin) for _, row, *_ in seats),
            press="Use one port" if serial else "Give them one board",
            apply=give_new_pins(*(s.id for s, *_ in seats)),
        )


def codes_apart(plan: Plan) -> Iterator[Finding]:
    """Two single-wire parts with one 64-bit code: one of them would never be read."""
    named: dict[str, list[Probe]] = defaultdict(list)
    for probe in plan.probes:
        if isinstance(probe.sensor, OneWireSensor) and probe.sensor.code:
            named[probe.sensor.code].append(probe)
    for code, probes in named.items():
        last, sensor = probes[-1], probes[-1].sensor
        if len(probes) < 2 or sensor is None:
            continue
        blank = last.model_copy(update={"sensor": sensor.model_copy(update={"code": ""})})
        yield Finding(
            key=f"code-{code}",
            weight="severe",
            head=f"{' and '.join(probe.name for probe in probes)} have one code.",
            why=f"{code} is one part; the other would never be read.",
            fix="Warm one of them and see which code answers, at Calibrate.",
            at=f"probe:{last.id}",
            about=tuple(f"probe:{probe.id}" for probe in probes[:-1]),
            press=f"Clear the code of {last.name}",
            apply=put_changed("probe", blank),
        )


BUS_CHECKS: tuple[Check, ...] = (split_lines, bus_addresses, codes_apart)
