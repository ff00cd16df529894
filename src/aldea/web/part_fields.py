"""The fields of every kind of part that is laid out: what is asked, in which unit, what is allowed.

A kind shows the figures that it needs and no others.
"""

from collections.abc import Callable
from typing import Any, get_args

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, WallKind
from aldea.core.plan.kinds import PLACES, place_figures
from aldea.core.wire.contacts import NO_CONTACTOR
from aldea.core.words.figures import short
from aldea.web.fields import Field, Group, Options, choice, named, number, places, text
from aldea.web.load_fields import load_groups
from aldea.web.probe_fields import SENSOR_FIELDS, probe_groups

CONTROL_KINDS: Options = (
    ("push_button", "push-button, momentary"),
    ("wall_switch", "wall switch, latching"),
    ("selector", "selector switch"),
    ("remote", "remote receiver"),
    ("lamp", "lamp on the panel"),
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
    made: dict[str, Callable[[Plan, Any], tuple[Group, ...]]] = {
        "house": _house,
        "place": _place,
        "probe": probe_groups,
        "load": load_groups,
        "control": _control,
        "board": _board,
        "supply": _supply,
        "relay": _relay,
    }
    return made[kind](plan, part)


def _house(_plan: Plan, house: Any) -> tuple[Group, ...]:
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
                number(
                    "latitude_deg",
                    "North",
                    house.latitude_deg,
                    "°",
                    -90,
                    90,
                    optional=True,
                    note="for the sun",
                ),
                number("longitude_deg", "East", house.longitude_deg, "°", -180, 180, optional=True),
                number("mains_v", "Mains", house.mains_v, "V", 90, 260),
                number("mains_hz", "Frequency", house.mains_hz, "Hz", 45, 65),
                number("tariff_per_kwh", "Energy costs", house.tariff_per_kwh, "a kWh", 0, 10),
                text("currency", "Currency", house.currency),
            ),
        ),
        Group(title="Conductor colours", fields=colours, inside="colours"),
    )


def _place(plan: Plan, place: Any) -> tuple[Group, ...]:
    usual = place_figures(place)

    def size(key: str, label: str, unit: str, high: float) -> Field:
        value, is_default = usual[key]
        return number(
            key,
            label,
            getattr(place, key),
            unit,
            0.01,
            high,
            optional=True,
            note=f"default {short(float(value))}" if is_default else "",
        )

    walls = (("", f"default: {usual['walls'][0]}"), *((w, w) for w in get_args(WallKind)))
    others = tuple(p for p in plan.places if p.id != place.id and p.kind != "enclosure")
    return (
        Group(
            title="Place",
            fields=(
                text("name", "Name", place.name),
                choice("kind", "Kind", place.kind, tuple((k, v.name) for k, v in PLACES.items())),
                number(
                    "level", "Level", place.level, "", -5, 30, note="0 is the ground", whole=True
                ),
                number(
                    "top_level",
                    "Up to level",
                    place.top_level,
                    "",
                    -5,
                    30,
                    optional=True,
                    whole=True,
                ),
                number("from_m", "Wall from", place.from_m, "m", -100, 400),
                number("to_m", "to", place.to_m, "m", -100, 400),
                choice("within", "Inside", place.within or "", named(others, "stands by itself")),
                text("people", "People", ", ".join(place.people), "names, a comma between"),
            ),
        ),
        Group(
            title="For the room model",
            fields=(
                size("depth_m", "Depth", "m", 200),
                size("height_m", "Height", "m", 50),
                size("air_changes_per_h", "Air changes", "an hour", 100),
                choice("walls", "Walls", place.walls or "", walls),
            ),
        ),
    )


def _control(plan: Plan, control: Any) -> tuple[Group, ...]:
    rows = [
        text("name", "Name", control.name),
        choice("place", "Stands in", control.place, places(plan)),
        choice("kind", "Kind", control.kind, CONTROL_KINDS),
        choice("load", "Is for", control.load or "", named(plan.loads, "nothing yet")),
    ]
    if control.kind in ("push_button", "wall_switch", "selector"):
        rows += [
            number("contacts", "Contacts", control.contacts, "", 1, 8, whole=True),
            choice(
                "closed_means",
                "Closed means",
                control.closed_means,
                SENSOR_FIELDS["closed_means"][2],
            ),
            choice("pull", "Pull-up", control.pull, SENSOR_FIELDS["pull"][2]),
            number("pull_ohm", "Pull-up of", control.pull_ohm, "Ω", 1, 1e9),
            number("debounce_ms", "Debounce", control.debounce_ms, "ms", 0, 10_000),
        ]
    if control.kind == "remote":
        rows.append(
            number("lockout_ms", "Repeats ignored for", control.lockout_ms, "ms", 0, 10_000)
        )
    if control.kind == "lamp":
        rows.append(number("lamp_ma", "Takes", control.lamp_ma, "mA", 0, 100_000))
    return (Group(title="Control", fields=tuple(rows)),)


def _board(plan: Plan, board: Any) -> tuple[Group, ...]:
    types = board_types(plan)
    kind = types[board.board_type]
    hosts = tuple(b for b in plan.boards if types[b.board_type].role == "controller")
    rows = [
        text("name", "Name", board.name),
        choice("place", "Stands in", board.place, places(plan)),
        choice(
            "board_type", "Is a", board.board_type, tuple((t.id, t.name) for t in types.values())
        ),
    ]
    if kind.role == "controller":
        rows.append(choice("supply", "Fed by", board.supply or "", named(plan.supplies, "nobody")))
    else:
        own = tuple(b for b in hosts if b.id != board.id)
        rows.append(choice("host", "Hangs on", board.host or "", named(own, "nothing yet")))
    if kind.role == "expander":
        rows.append(
            number(
                "address", "Bus address", board.address, "of 127", 0, 127, optional=True, whole=True
            )
        )
    if kind.has_radio:
        rows.append(
            choice(
                "radio_on",
                "Radio",
                "yes" if board.radio_on else "no",
                (("yes", "on"), ("no", "off")),
            )
        )
    return (Group(title="Board", fields=tuple(rows)),)


def _supply(plan: Plan, supply: Any) -> tuple[Group, ...]:
    return (
        Group(
            title="Supply",
            fields=(
                text("name", "Name", supply.name),
                choice("place", "Stands in", supply.place, places(plan)),
                number("volts", "Gives", supply.volts, "V", 1, 60),
                number("rating_ma", "up to", supply.rating_ma, "mA", 1, 100_000),
                number("margin_1", "Margin kept", supply.margin_1, "of 1", 0, 2),
            ),
        ),
    )


def _relay(plan: Plan, relay: Any) -> tuple[Group, ...]:
    load = plan.load(relay.load)
    contactor = choice(
        "contactor",
        "Contactor",
        "yes" if relay.contactor else "no",
        (("no", "none"), ("yes", "it switches one")),
    )
    return (
        Group(
            title="Relay",
            fields=(
                choice(
                    "driver",
                    "Driven by",
                    relay.driver,
                    (
                        ("module", "its module"),
                        ("transistor", "a transistor"),
                        ("board", "the board’s output"),
                    ),
                ),
                choice(
                    "active",
                    "Pulls in when",
                    relay.active,
                    (("high", "the pin is high"), ("low", "the pin is low")),
                ),
                choice(
                    "contact",
                    "Contact",
                    relay.contact,
                    (("no", "14, open at rest"), ("nc", "12, closed at rest")),
                ),
                number("rated_a", "Contact bears", relay.rated_a, "A", 0.1, 400),
                number("coil_v", "Coil", relay.coil_v, "V", 1, 60),
                number("coil_ma", "takes", relay.coil_ma, "mA", 0, 100_000),
                number(
                    "pull_ohm",
                    "Resistor to idle",
                    relay.pull_ohm,
                    "Ω",
                    1,
                    1e9,
                    optional=True,
                    note="at the pin",
                ),
                *(() if load is not None and load.kind in NO_CONTACTOR else (contactor,)),
            ),
        ),
    )
