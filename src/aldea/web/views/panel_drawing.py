"""A board drawn in physical order: probes, pins, board, coils, contacts, terminals, loads.

All places are finished here; the template only draws. One drawing serves screen and paper.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from aldea.core.engine.lines import LineProgram
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.wiring import Board, Pin, RelayLine
from aldea.core.wire.contacts import contact_of, has_contactor
from aldea.core.wire.findings import Finding
from aldea.core.wire.mains import terminals
from aldea.core.wire.signals import Signal, signals

WIDTH = 936
SLOT, SMALLEST_DEVICE = 42, 68
LETTER = 5.9
RELAY, RELAY_GAP = 62, 13
HEIGHT, HEIGHT_WITHOUT_RELAYS = 340, 160
MOST_DEVICE_GAP, MOST_RELAY_GAP = 46, 62
FIRST_RELAY = 52.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PinSpot:
    """A pin on the board's edge: where, its name, the small marks beside it, its warning."""

    x: float
    pin: str
    marks: str
    warning: str
    title: str
    signal: str
    number: str
    joined: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Device:
    """Something on the input side with its pins."""

    owner: str
    lines: tuple[str, ...]
    value: str
    x: float
    width: float
    pins: tuple[PinSpot, ...]
    warning: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RelaySpot:
    """A relay: coil window, contact as it stands, its pin above and its terminals below."""

    relay: RelayLine
    x: float
    pin: PinSpot
    conducts: bool
    energised: bool
    rank: int
    current: str
    strips: tuple[tuple[float, str], ...]
    warning: str
    series_to: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadSpot:
    """The bracket under the terminals of one load."""

    load: Load
    left: float
    right: float
    lines: tuple[str, ...]
    feed: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelDrawing:
    """One board with all that hangs on it."""

    board: Board
    type_name: str
    width: float
    height: int
    devices: tuple[Device, ...]
    relays: tuple[RelaySpot, ...]
    loads: tuple[LoadSpot, ...]
    free: str
    summary: str
    supply: str
    mains: str
    elv: str
    severe: int


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
    return " ".join(words[:2])


def draw_panel(
    plan: Plan,
    board: Board,
    *,
    found: tuple[Finding, ...],
    tags: Mapping[str, str],
    lines: LineProgram | None,
    conducting: Mapping[str, bool],
    ranks: Mapping[str, int],
    readings: Mapping[str, str],
    numbers: Mapping[str, str],
) -> PanelDrawing:
    """Lay one board out. `tags` name warnings by finding, `numbers` conductors by signal."""
    kind = board_types(plan)[board.board_type]
    rung = {pin: tags[f.key] for f in reversed(found) if f.key in tags for pin in f.pins}
    owned = {f.at: tags[f.key] for f in reversed(found) if f.key in tags and not f.pins}
    seated: dict[str, list[tuple[Signal, Pin]]] = {}
    rows = {row.signal: row for row in plan.assignments if row.board == board.id}
    for signal in signals(plan):
        row = rows.get(signal.id)
        pin = kind.pin(row.pin) if row else None
        if pin is not None:
            seated.setdefault(signal.owner, []).append((signal, pin))

    first_on = {
        pin.name: signal.id
        for members in reversed(seated.values())
        for signal, pin in reversed(members)
    }

    def spot(x: float, signal: Signal, pin: Pin) -> PinSpot:
        row = rows[signal.id]
        return PinSpot(
            x=round(x, 1),
            pin=pin.name,
            marks=boot_marks(pin, board),
            warning=rung.get((board.id, pin.name), ""),
            title=f"{signal.name} on {pin.name}: {row.reason}" if row.reason else signal.name,
            signal=signal.id,
            number=numbers.get(signal.id, ""),
            joined=bool(signal.share) and first_on[pin.name] != signal.id,
        )

    devices: list[Device] = []
    inputs = {k: v for k, v in seated.items() if not k.startswith("relay:")}
    widths = [max(SMALLEST_DEVICE, SLOT * len(members)) for members in inputs.values()]
    spare = (WIDTH - 16 - sum(widths)) / max(1, len(widths))
    gap = min(MOST_DEVICE_GAP, max(4.0, spare))
    x = 8.0
    for (owner, members), width in zip(inputs.items(), widths, strict=True):
        start = x + (width - SLOT * len(members)) / 2
        devices.append(
            Device(
                owner=owner,
                lines=wrapped(members[0][0].name, width + gap - 6),
                value=readings.get(owner, ""),
                x=round(x, 1),
                width=width,
                pins=tuple(
                    spot(start + SLOT * (i + 0.5), signal, pin)
                    for i, (signal, pin) in enumerate(members)
                ),
                warning=owned.get(owner, ""),
            )
        )
        x += width + gap
    relays, loads, right = _relays(
        plan, seated, spot, owned, lines=lines, conducting=conducting, ranks=ranks
    )
    used = {pin.name for members in seated.values() for _, pin in members}
    free = [pin.name for pin in kind.pins if pin.name not in used]
    supply = plan.supply(board.supply)
    host = plan.board(board.host) if board.host else None
    closed = sum(conducting.get(r.relay.id, False) for r in relays)
    return PanelDrawing(
        board=board,
        type_name=kind.name,
        width=max(WIDTH, x - gap + 8, right + 4),
        height=HEIGHT if relays else HEIGHT_WITHOUT_RELAYS,
        devices=tuple(devices),
        relays=relays,
        loads=loads,
        free=", ".join(free) or "none",
        summary=f"{len(used)} of {len(kind.pins)} pins used, {closed} of {len(relays)} relays "
        "closed",
        supply=host.name if host else supply.name if supply else "no supply yet",
        mains=f"{plan.house.mains_v:g} V",
        elv=f"{(supply.volts if supply else kind.supply_v):g} V",
        severe=sum(f.weight == "severe" for f in found),
    )


def _relays(
    plan: Plan,
    seated: dict[str, list[tuple[Signal, Pin]]],
    spot: object,
    owned: dict[str, str],
    *,
    lines: LineProgram | None,
    conducting: Mapping[str, bool],
    ranks: Mapping[str, int],
) -> tuple[tuple[RelaySpot, ...], tuple[LoadSpot, ...], float]:
    strip = terminals(plan)
    known = [r.id for r in lines.relays] if lines else []
    made: list[RelaySpot] = []
    under: dict[str, list[float]] = {}
    here = [r for r in plan.relays if seated.get(f"relay:{r.id}")]
    spare = (WIDTH - FIRST_RELAY - RELAY * len(here)) / max(1, len(here))
    gap = min(MOST_RELAY_GAP, max(RELAY_GAP, spare))
    x = FIRST_RELAY
    for index, relay in enumerate(here):
        members = seated[f"relay:{relay.id}"]
        load = plan.load(relay.load)
        if load is None:
            continue
        following = here[index + 1] if index + 1 < len(here) else None
        in_series = load.kind == "valve" and following and following.load == load.id
        mine = [t.label for t in strip if t.relay == relay.id]
        middle = x + RELAY / 2
        places = [
            (round(middle + (i - (len(mine) - 1) / 2) * 26, 1), label)
            for i, label in enumerate(mine)
        ]
        conducts = conducting.get(relay.id, relay.contact == "nc")
        energised = (
            lines.coil(known.index(relay.id), conducts) if lines and relay.id in known else False
        )
        contact = contact_of(relay, load, plan)
        made.append(
            RelaySpot(
                relay=relay,
                x=x,
                pin=spot(middle, *members[0]),  # type: ignore[operator]
                conducts=conducts,
                energised=energised,
                rank=ranks.get(load.id, 7),
                current="coil"
                if has_contactor(relay, load)
                else f"{contact.current_a:.1f} A"
                if load.kind != "pulse_drive"
                else "dry",
                strips=tuple(places),
                warning=owned.get(f"relay:{relay.id}", ""),
                series_to=x + RELAY + gap + RELAY / 2 if in_series else None,
            )
        )
        under.setdefault(load.id, []).append(middle)
        x += RELAY + gap
    loads = []
    for load_id, middles in under.items():
        load = plan.load(load_id)
        if load is None:
            continue
        left, right = min(middles) - RELAY / 2 + 2, max(middles) + RELAY / 2 - 2
        feed = "volt-free" if load.kind == "pulse_drive" else load.feed or "feed?"
        loads.append(
            LoadSpot(
                load=load,
                left=left,
                right=right,
                lines=wrapped(load.name, right - left + gap - 2),
                feed=feed,
            )
        )
    return tuple(made), tuple(loads), x


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
