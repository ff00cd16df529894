"""A board drawn in physical order: probes, pins, board, coils, contacts, terminals, loads.

All places are finished here; the template only draws. One drawing serves screen and paper.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from aldea.core.base.figures import short
from aldea.core.devices.finding import Finding
from aldea.core.devices.loads.ratings import contact_of, has_contactor
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import Board, Pin, RelayOutput
from aldea.core.wiring.contacts import WiredContacts
from aldea.core.wiring.signals import signals
from aldea.core.wiring.terminals import terminals
from aldea.web.benches.wire.panel.spots import (
    RELAY,
    SLOT,
    DeviceSpot,
    LoadSpot,
    PanelDrawing,
    PinSpot,
    RelaySpot,
    TerminalSpot,
)

WIDTH = 936
SMALLEST_DEVICE = 68
LETTER = 5.9
RELAY_GAP = 13
HEIGHT, HEIGHT_WITHOUT_RELAYS = 340, 160
MOST_DEVICE_GAP, MOST_RELAY_GAP = 46, 62
FIRST_RELAY = 52.0
TERMINAL_GAP = 26
TONES = {"severe": "fail", "warning": "fault", "open": "ink"}
NORMALLY_CLOSED_X, COMMON_X, NORMALLY_OPEN_X = 12, 31, 50  # contacts of a relay, from its edge

Seated = dict[str, list[tuple[Signal, Pin]]]
Spot = Callable[[float, Signal, Pin], PinSpot]


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelState:
    """What the drawing shows of a moment: compiled wiring, contacts, who decides, readings."""

    lines: WiredContacts | None
    conducting: Mapping[str, bool]
    priorities: Mapping[str, int]
    readings: Mapping[str, str]


def boot_marks(pin: Pin, board: Board) -> str:
    """Small words for what is special about a pin: `boot`, `in only`, `radio`, `prog`."""
    words = []
    if pin.decides_boot:
        words.append("boot")
    if pin.at_boot != "floating":
        words.append(pin.at_boot)
    if pin.input_only and "digital_in" in pin.can:
        words.append("in")
    if pin.analog_dies_with_radio and board.radio_on:
        words.append("radio")
    if pin.programming:
        words.append("prog")
    return " ".join(words)


def draw_panel(
    plan: Plan,
    board: Board,
    *,
    findings: tuple[Finding, ...],
    tags: Mapping[str, str],
    shown: PanelState,
    numbers: Mapping[str, str],
) -> PanelDrawing:
    """Lay one board out. `tags` name warnings by finding, `numbers` conductors by signal."""
    tones = {tags[f.key]: TONES[f.weight] for f in findings if f.key in tags}
    board_type = board_types(plan)[board.board_type]
    rung = {pin: tags[f.key] for f in reversed(findings) if f.key in tags for pin in f.pins}
    owned = {f.at: tags[f.key] for f in reversed(findings) if f.key in tags and not f.pins}
    seated: dict[str, list[tuple[Signal, Pin]]] = {}
    rows = {row.signal: row for row in plan.assignments if row.board == board.id}
    for signal in signals(plan):
        row = rows.get(signal.id)
        pin = board_type.pin(row.pin) if row else None
        if pin is not None:
            seated.setdefault(signal.owner, []).append((signal, pin))

    first_on = {
        pin.name: signal.id
        for members in reversed(seated.values())
        for signal, pin in reversed(members)
    }

    def spot(x: float, signal: Signal, pin: Pin) -> PinSpot:
        row = rows[signal.id]
        warning = rung.get((board.id, pin.name), "")
        return PinSpot(
            x=round(x, 1),
            pin=pin.name,
            sign="" if warning else boot_marks(pin, board).split(" ")[0],
            warning=warning,
            tone=tones.get(warning, "ink"),
            title=f"{signal.name} on {pin.name}: {row.reason}" if row.reason else signal.name,
            signal=signal.id,
            number=numbers.get(signal.id, ""),
            joined=bool(signal.share) and first_on[pin.name] != signal.id,
        )

    devices: list[DeviceSpot] = []
    inputs = {k: v for k, v in seated.items() if not k.startswith("relay:")}
    widths = [max(SMALLEST_DEVICE, SLOT * len(members)) for members in inputs.values()]
    spare = (WIDTH - 16 - sum(widths)) / max(1, len(widths))
    gap = min(MOST_DEVICE_GAP, max(4.0, spare))
    x = max(8.0, gap / 2)  # a name hangs over its device by half a gap
    for (owner, members), width in zip(inputs.items(), widths, strict=True):
        start = x + (width - SLOT * len(members)) / 2
        devices.append(
            DeviceSpot(
                owner=owner,
                lines=wrapped(members[0][0].name, width + gap - 6),
                value=shown.readings.get(owner, ""),
                x=round(x, 1),
                width=width,
                pins=tuple(
                    spot(start + SLOT * (i + 0.5), signal, pin)
                    for i, (signal, pin) in enumerate(members)
                ),
                warning=owned.get(owner, ""),
                tone=tones.get(owned.get(owner, ""), "ink"),
            )
        )
        x += width + gap
    relays, loads, right = _relays(plan, seated, spot, owned, tones, shown)
    used = {pin.name for members in seated.values() for _, pin in members}
    free = [pin.name for pin in board_type.pins if pin.name not in used]
    supply = plan.supply(board.supply)
    host = plan.board(board.host) if board.host else None
    closed = sum(shown.conducting.get(r.relay.id, False) for r in relays)
    return PanelDrawing(
        board=board,
        type_name=board_type.name,
        width=max(WIDTH, x - gap + 8, right + 4),
        height=HEIGHT if relays else HEIGHT_WITHOUT_RELAYS,
        devices=tuple(devices),
        relays=relays,
        loads=loads,
        free=", ".join(free) or "none",
        summary=f"{len(used)} of {len(board_type.pins)} pins used, "
        f"{closed} of {len(relays)} relays closed",
        supply=host.name if host else supply.name if supply else "no supply yet",
        mains=f"{short(plan.house.mains_v)} V" if any(one.load.on_mains for one in loads) else "",
        elv=f"{short(supply.volts if supply else board_type.supply_v)} V",
    )


def _relays(
    plan: Plan,
    seated: Seated,
    spot: Spot,
    owned: Mapping[str, str],
    tones: Mapping[str, str],
    shown: PanelState,
) -> tuple[tuple[RelaySpot, ...], tuple[LoadSpot, ...], float]:
    """Relays from left to right, the loads under them, and where the last relay ends."""
    here = [
        (relay, load)
        for relay in plan.relays
        if seated.get(f"relay:{relay.id}") and (load := plan.load(relay.load)) is not None
    ]
    spare = (WIDTH - FIRST_RELAY - RELAY * len(here)) / max(1, len(here))
    gap = min(MOST_RELAY_GAP, max(RELAY_GAP, spare))
    relay_spots: list[RelaySpot] = []
    under: dict[str, tuple[Load, list[float]]] = {}
    for index, (relay, load) in enumerate(here):
        x = FIRST_RELAY + index * (RELAY + gap)
        following = here[index + 1][1].id if index + 1 < len(here) else ""
        joined = load_device(load).in_series and following == load.id
        conducts, energised = _stands(relay, shown)
        places, path = _below(plan, relay, x, joined_to=x + RELAY + gap if joined else None)
        warning = owned.get(f"relay:{relay.id}", "")
        relay_spots.append(
            RelaySpot(
                relay=relay,
                x=x,
                pin=spot(x + COMMON_X, *seated[f"relay:{relay.id}"][0]),
                conducts=conducts,
                energised=energised,
                priority=shown.priorities.get(load.id, 7),
                current=_current(plan, relay, load),
                terminals=places,
                path=path,
                path_width=2 if conducts and (places or joined) else 1,
                warning=warning,
                tone=tones.get(warning, "ink"),
            )
        )
        under.setdefault(load.id, (load, []))[1].append(x + COMMON_X)
    loads = tuple(_load_spot(plan, load, middles, gap) for load, middles in under.values())
    return tuple(relay_spots), loads, FIRST_RELAY + len(here) * (RELAY + gap)


def _stands(relay: RelayOutput, shown: PanelState) -> tuple[bool, bool]:
    """Whether its contact conducts and its coil is energised."""
    conducts = shown.conducting.get(relay.id, relay.contact == "nc")
    if shown.lines is None:
        return conducts, False
    return conducts, WiredContacts.coil(relay, conducts)


def _current(plan: Plan, relay: RelayOutput, load: Load) -> str:
    """What its contact switches, in a word."""
    if has_contactor(relay, load):
        return "coil"
    if load_device(load).volt_free:
        return "dry"
    return f"{contact_of(relay, load, plan).current_a:.1f} A"


def _below(
    plan: Plan, relay: RelayOutput, x: float, *, joined_to: float | None
) -> tuple[tuple[TerminalSpot, ...], str]:
    """Its numbered terminals, else the line that it has instead."""
    side = x + (NORMALLY_CLOSED_X if relay.contact == "nc" else NORMALLY_OPEN_X)
    if joined_to is not None:
        return (), f"M{side} 248V258H{joined_to + COMMON_X}V248"
    labels = [t.label for t in terminals(plan) if t.relay == relay.id]
    if not labels:
        return (), f"M{x + NORMALLY_OPEN_X} 248V282M{x + COMMON_X} 248V282"
    first = x + COMMON_X - (len(labels) - 1) / 2 * TERMINAL_GAP
    # Two terminals are the two contacts of a relay that changes over.
    sides = (x + NORMALLY_CLOSED_X, side) if len(labels) == 2 else (side,) * len(labels)
    places = [round(first + i * TERMINAL_GAP, 1) for i in range(len(labels))]
    return tuple(
        TerminalSpot(x=at, label=label, path=f"M{begin} 248V256H{at}V264")
        for at, label, begin in zip(places, labels, sides, strict=True)
    ), ""


def _load_spot(plan: Plan, load: Load, middles: list[float], gap: float) -> LoadSpot:
    left, right = min(middles) - RELAY / 2 + 2, max(middles) + RELAY / 2 - 2
    return LoadSpot(
        load=load,
        left=left,
        right=right,
        lines=wrapped(load.name, right - left + gap - 2),
        feed=_feed(plan, load),
    )


def _feed(plan: Plan, load: Load) -> str:
    """What a load is fed with, in a word or two."""
    if load_device(load).volt_free:
        return "volt-free"
    if load.on_mains:
        return load.feed or "feed?"
    return f"{short(load.volts or 0)} V {load.runs_on.upper()}"


def fitted(name: str, width: float) -> str:
    """A name cut to a width, with an ellipsis where it is."""
    most = max(4, int(width / LETTER))
    return name if len(name) <= most else f"{name[: most - 1]}…"


def wrapped(name: str, width: float) -> tuple[str, ...]:
    """A name on two lines at the most."""
    most = max(4, int(width / LETTER))
    if len(name) <= most:
        return (name,)
    words = name.split()
    first = ""
    while words and len(f"{first} {words[0]}".strip()) <= most:
        first = f"{first} {words.pop(0)}".strip()
    if not first:
        first = fitted(words.pop(0), width)
    return (first, fitted(" ".join(words), width)) if words else (first,)
