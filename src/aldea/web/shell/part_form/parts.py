"""The fields of every kind of part that is laid out: what is asked, in which unit, what is allowed.

A kind shows the figures that it needs and no others.
"""

from collections.abc import Callable
from typing import Any, get_args

from aldea.core.base.addresses import address_words, read_address
from aldea.core.base.figures import short
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.contact.device import ContactDevice
from aldea.core.plan.board_types import board_types
from aldea.core.plan.controls import USUAL_MEANING, Control
from aldea.core.plan.defaults import PLACES, place_figures
from aldea.core.plan.document import House, Place, Plan, WallType
from aldea.core.plan.panel import Board, RelayOutput, Supply
from aldea.core.wiring.circuits import PRESSED
from aldea.web.shell.form_fields import (
    Field,
    Group,
    Options,
    choice,
    named,
    number,
    places,
    text,
)
from aldea.web.shell.part_form.devices import CURRENTS, cable_fields, load_groups, probe_groups

CONTROL_TYPES: Options = (
    ("push_button", "push-button, momentary"),
    ("wall_switch", "wall switch, latching"),
    ("selector", "selector switch"),
    ("touch_pad", "touch pad, powered"),
    ("remote", "remote receiver"),
    ("lamp", "lamp on the panel"),
)
INPUTS: Options = (("no", "its own volts"), ("yes", "the board’s volts"))
ENABLE: Options = (("tied", "tied to 0 V"), ("driven", "driven by a pin"))
MEANINGS = {
    "position": "its position rules",
    "last_action": "the last action rules",
    "toggle": "each change toggles",
}
AT_BOOT: Options = (
    ("as_it_stands", "its position is in effect"),
    ("nothing", "no effect until it is moved"),
)
AFTER_OTHER: Options = (
    ("when_moved", "in effect again when it is moved"),
    ("at_once", "in effect at once"),
)
OUTPUTS: Options = (
    ("high", "drives high while touched"),
    ("low", "drives low while touched"),
    ("open_collector", "open collector, to 0 V"),
)
KIND_NAMES = {
    "place": "Place",
    "load": "Load",
    "probe": "Probe",
    "control": "Control",
    "board": "Board",
    "supply": "Supply",
    "relay": "Relay",
    "house": "House",
}


def groups_of(plan: Plan, kind: str, part: Any) -> tuple[Group, ...]:
    """The form of a part, as groups of fields."""
    readers: dict[str, Callable[[Plan, Any], tuple[Group, ...]]] = {
        "house": _house,
        "place": _place,
        "probe": probe_groups,
        "load": load_groups,
        "control": _control,
        "board": _board,
        "supply": _supply,
        "relay": _relay,
    }
    return readers[kind](plan, part)


def _house(_plan: Plan, house: House) -> tuple[Group, ...]:
    colours = tuple(
        text(key, f"{key} wire", getattr(house.colours, key))
        for key in type(house.colours).model_fields
    )
    return (
        Group(
            title="House",
            fields=(
                text("name", "Name", house.name),
                text("time_zone", "Time zone", house.time_zone),
                number(house, "latitude_deg", "North", "°", note="for the sun"),
                number(house, "longitude_deg", "East", "°"),
                number(house, "mains_v", "Mains", "V"),
                number(house, "mains_hz", "Frequency", "Hz"),
                number(house, "tariff_per_kwh", "Energy costs", "a kWh"),
                text("currency", "Currency", house.currency),
            ),
        ),
        Group(title="Conductor colours", fields=colours, inside="colours"),
    )


def _people(line: str) -> tuple[str, ...]:
    return tuple(name.strip() for name in line.split(",") if name.strip())


def _place(plan: Plan, place: Place) -> tuple[Group, ...]:
    usual = place_figures(place)

    def size(key: str, label: str, unit: str) -> Field:
        value, is_default = usual[key]
        note = f"default {short(float(value))}" if is_default else ""
        return number(place, key, label, unit, note=note)

    kinds = tuple((key, facts.name) for key, facts in PLACES.items())
    walls = (("", f"default: {usual['walls'][0]}"), *((w, w) for w in get_args(WallType)))
    others = tuple(p for p in plan.places if p.id != place.id and p.kind != "enclosure")
    people = Field(
        name="people",
        label="People",
        value=", ".join(place.people),
        note="names, a comma between",
        read=_people,
    )
    return (
        Group(
            title="Place",
            fields=(
                text("name", "Name", place.name),
                choice("kind", "Kind", place.kind, kinds),
                number(place, "level", "Level", note="0 is the ground"),
                number(place, "top_level", "Up to level"),
                number(place, "from_m", "Wall from", "m"),
                number(place, "to_m", "to", "m"),
                choice("within", "Inside", place.within, named(others, "its own part")),
                people,
            ),
        ),
        Group(
            title="For the room model",
            fields=(
                size("depth_m", "Depth", "m"),
                size("height_m", "Height", "m"),
                size("air_changes_per_h", "Air changes", "an hour"),
                choice("walls", "Walls", place.walls, walls),
            ),
        ),
    )


def _control(plan: Plan, control: Control) -> tuple[Group, ...]:
    rows = [
        text("name", "Name", control.name),
        choice("place", "Is in", control.place, places(plan)),
        choice("kind", "Kind", control.kind, CONTROL_TYPES, remade=True),
        choice("load", "Is for", control.load, named(plan.loads, "nothing yet")),
    ]
    if control.kind in PRESSED:
        contact = ContactDevice.asks
        rows.append(number(control, "contacts", "Contacts"))
        rows += [
            choice(key, contact[key].label, getattr(control, key), contact[key].options)
            for key in ("closed_means", "pull")
        ]
        rows += [
            number(control, key, contact[key].label, contact[key].unit)
            for key in ("pull_ohm", "debounce_ms")
        ]
    if control.kind == "touch_pad":
        rows += [
            choice("output", "Its output", control.output, OUTPUTS),
            number(control, "supply_v", "Supply", "V"),
            number(control, "supply_ma", "draws", "mA"),
            number(control, "debounce_ms", "Debounce", "ms"),
        ]
    if control.kind in (*PRESSED, "touch_pad"):
        usual = MEANINGS[USUAL_MEANING[control.kind]]
        options = (("", f"default: {usual}"), *MEANINGS.items())
        rows.append(choice("means", "What counts", control.means, options))
        if control.meaning == "position":
            rows.append(choice("at_boot", "At power-up", control.at_boot, AT_BOOT))
            rows.append(
                choice("after_other", "After another way acted", control.after_other, AFTER_OTHER)
            )
    if control.kind in ("push_button", "touch_pad"):
        rows.append(number(control, "long_ms", "Long from", "ms"))
        rows.append(number(control, "double_ms", "Twice within", "ms"))
    if control.kind == "selector":
        rows.append(number(control, "settle_ms", "Settled after", "ms", note="empty: usual"))
    if control.kind == "remote":
        rows.append(number(control, "lockout_ms", "Repeats ignored for", "ms"))
    if control.kind == "lamp":
        rows.append(number(control, "lamp_ma", "Takes", "mA"))
    return (Group(title="Control", fields=tuple(rows)),)


def _board(plan: Plan, board: Board) -> tuple[Group, ...]:
    types = board_types(plan)
    kind = types[board.board_type]
    is_a = tuple((kind.id, kind.name) for kind in types.values())
    rows = [
        text("name", "Name", board.name),
        choice("place", "Is in", board.place, places(plan)),
        choice("board_type", "Is a", board.board_type, is_a, remade=True),
    ]
    if kind.role == "controller":
        rows.append(choice("supply", "Fed by", board.supply, named(plan.supplies, "no supply yet")))
    else:
        hosts = [
            other
            for other in plan.boards
            if types[other.board_type].role == "controller" and other.id != board.id
        ]
        rows.append(choice("host", "Hangs on", board.host, named(hosts, "nothing yet")))
    if kind.role == "multiplexer":
        rows.append(choice("enable", "Enable line", board.enable, ENABLE))
    if kind.role == "expander":
        rows.append(
            Field(
                name="address",
                label="Bus address",
                value=address_words(board.address),
                note="hex or decimal",
                read=read_address,
                example="0 to 127, as 0x20 or 32",
            )
        )
    if kind.has_radio:
        on = "yes" if board.radio_on else "no"
        rows.append(choice("radio_on", "Radio", on, (("yes", "on"), ("no", "off"))))
    return (Group(title="Board", fields=tuple(rows)),)


def _supply(plan: Plan, supply: Supply) -> tuple[Group, ...]:
    return (
        Group(
            title="Supply",
            fields=(
                text("name", "Name", supply.name),
                choice("place", "Is in", supply.place, places(plan)),
                number(supply, "volts", "Gives", "V"),
                choice("gives", "as", supply.gives, CURRENTS),
                number(supply, "rating_ma", "up to", "mA"),
                number(supply, "margin_1", "Margin kept", "of 1"),
            ),
        ),
    )


DRIVERS: Options = (
    ("module", "its module"),
    ("transistor", "a transistor"),
    ("board", "the board’s output"),
)
SWITCHES: Options = (
    ("", "a relay’s contact"),
    ("field_effect", "a field-effect transistor"),
    ("bipolar", "a bipolar transistor"),
)
ACTIVE: Options = (("high", "the pin is high"), ("low", "the pin is low"))
CONTACTS: Options = (("no", "14, open at rest"), ("nc", "12, closed at rest"))
CONTACTOR: Options = (("no", "none"), ("yes", "it switches one"))


def _coil_supplies(plan: Plan) -> Options:
    return named([s for s in plan.supplies if s.gives == "dc"], "its board’s supply")


def _relay(plan: Plan, relay: RelayOutput) -> tuple[Group, ...]:
    load = plan.load(relay.load)
    transistor = relay.transistor
    rows = []
    if transistor is not None or (load is not None and not load.on_mains and load.runs_on == "dc"):
        switch = transistor.kind if transistor is not None else ""
        rows.append(choice("switch", "Switched by", switch, SWITCHES, remade=True))
    if transistor is not None:
        rows.append(number(relay, "pull_ohm", "Resistor to 0 V", "Ω", note="default 4700"))
        rows += cable_fields(relay)
        figures = [
            number(transistor, "full_at_v", "Fully on at", "V"),
            number(transistor, "limit_a", "Bears", "A"),
            number(transistor, "heat_k_per_w", "Warms by", "K a watt", note="without a heat sink"),
            number(transistor, "on_v", "Loses", "V")
            if transistor.kind == "bipolar"
            else number(transistor, "on_ohm", "Resistance then", "Ω"),
        ]
        return (
            Group(title="Switch", fields=tuple(rows)),
            Group(title="Transistor", fields=tuple(figures), inside="transistor"),
        )
    rows += [
        choice("driver", "Driven by", relay.driver, DRIVERS),
        choice("active", "Pulls in when", relay.active, ACTIVE),
        choice("contact", "Contact", relay.contact, CONTACTS),
        number(relay, "rated_a", "Contact bears", "A"),
        number(relay, "coil_v", "Coil", "V"),
        number(relay, "coil_ma", "draws", "mA"),
        choice("coil_fed_by", "Coil fed by", relay.coil_fed_by, _coil_supplies(plan)),
        number(relay, "pull_ohm", "Resistor to idle", "Ω", note="at the pin"),
    ]
    if relay.driver == "module" and relay.active == "low":
        rows.append(choice("input_v3", "Input voltage", "yes" if relay.input_v3 else "no", INPUTS))
    rows.append(choice("place", "Is in", relay.place, named(plan.places, "its board’s box")))
    rows += cable_fields(relay)
    at_mains = load is None or load.on_mains
    if at_mains and (load is None or not load_device(load).no_contactor):
        stands = "yes" if relay.contactor else "no"
        rows.append(choice("contactor", "Contactor", stands, CONTACTOR))
    return (Group(title="Relay", fields=tuple(rows)),)
