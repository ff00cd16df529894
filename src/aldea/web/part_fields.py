"""The fields of every kind of part that is laid out: what is asked, in which unit, what is allowed.

A kind shows the figures that it needs and no others.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, get_args

from aldea.core.plan.base import Part
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan, Probe, WallKind
from aldea.core.plan.kinds import (
    CLASSES,
    LOAD_KINDS,
    NATURES,
    PLACES,
    QUANTITIES,
    place_figures,
)
from aldea.core.plan.sensors import SENSOR_KINDS
from aldea.core.words.figures import short

Options = tuple[tuple[str, str], ...]
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One field: its name in the form and the part, how it is typed, and its value as text."""

    name: str
    label: str
    kind: Literal["text", "number", "choice"] = "text"
    value: str = ""
    unit: str = ""
    low: float = 0.0
    high: float = 1e9
    options: Options = ()
    optional: bool = False
    note: str = ""
    whole: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Fields under one heading; `inside` is the key of the part that they belong to, or empty."""

    title: str
    fields: tuple[Field, ...]
    inside: str = ""


def text(name: str, label: str, value: object, note: str = "") -> Field:
    """A line of text."""
    return Field(name=name, label=label, value="" if value is None else str(value), note=note)


def number(
    name: str,
    label: str,
    value: float | None,
    unit: str,
    low: float,
    high: float,
    *,
    optional: bool = False,
    note: str = "",
    whole: bool = False,
) -> Field:
    """A number in a unit with its limits."""
    return Field(
        name=name,
        label=label,
        kind="number",
        value="" if value is None else short(value),
        unit=unit,
        low=low,
        high=high,
        optional=optional,
        note=note,
        whole=whole,
    )


def choice(name: str, label: str, value: object, options: Options, note: str = "") -> Field:
    """One of a list."""
    return Field(
        name=name,
        label=label,
        kind="choice",
        value="" if value is None else str(value),
        options=options,
        note=note,
    )


def places(plan: Plan) -> Options:
    """Every place a thing can stand in."""
    return tuple((place.id, place.name) for place in plan.places)


def named(parts: Any, none: str) -> Options:
    """Parts to choose from, or none."""
    return (("", none), *((part.id, part.name) for part in parts))


def groups_of(plan: Plan, kind: str, part: Any) -> tuple[Group, ...]:
    """The form of a part, as groups of fields."""
    made: dict[str, Callable[[Plan, Any], tuple[Group, ...]]] = {
        "house": _house,
        "place": _place,
        "probe": _probe,
        "load": _load,
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


def _sensor_fields(sensor: Part) -> tuple[Field, ...]:
    rows: list[Field] = []
    for key, value in sensor:
        if key == "kind":
            continue
        label, unit, options = SENSOR_FIELDS[key]
        if options:
            rows.append(choice(key, label, value, options))
        else:
            rows.append(
                number(
                    key,
                    label,
                    value,
                    unit,
                    *SENSOR_LIMITS.get(key, (0.001, 1e9)),
                    optional=key in ("end_of_line_ohm", "upper_ohm", "lower_ohm"),
                    whole=key == "address",
                )
            )
    return tuple(rows)


SENSOR_FIELDS: dict[str, tuple[str, str, Options]] = {
    "r25_ohm": ("At 25 °C", "Ω", ()),
    "beta_k": ("B value", "K", ()),
    "fixed_ohm": ("Fixed resistor", "Ω", ()),
    "side": (
        "Sensor is",
        "",
        (("sensor_low", "between pin and 0 V"), ("sensor_high", "between pin and +")),
    ),
    "r10_ohm": ("At 10 lx", "Ω", ()),
    "gamma_1": ("Gamma", "", ()),
    "threshold_lux": ("Wanted threshold", "lx", ()),
    "end_of_line_ohm": ("Far-end resistor", "Ω", ()),
    "wet_ohm": ("Wet at or under", "Ω", ()),
    "excitation": (
        "Excitation",
        "",
        (("pulsed", "pulsed"), ("alternating", "alternating"), ("constant", "constant")),
    ),
    "highest_v": ("Highest output", "V", ()),
    "upper_ohm": ("Divider, in line", "Ω", ()),
    "lower_ohm": ("Divider, to 0 V", "Ω", ()),
    "supply_v": ("Supply", "V", ()),
    "supply_ma": ("takes", "mA", ()),
    "address": ("Bus address", "of 127", ()),
    "output_v": ("Output", "V", ()),
    "closed_means": ("Closed means", "", (("on", "on"), ("off", "off (inverted)"))),
    "pull": ("Pull-up", "", (("board", "the board’s own"), ("resistor", "a resistor"))),
    "pull_ohm": ("Pull-up of", "Ω", ()),
    "debounce_ms": ("Debounce", "ms", ()),
}
SENSOR_LIMITS: dict[str, tuple[float, float]] = {
    "address": (0, 127),
    "beta_k": (1000, 8000),
    "gamma_1": (0.11, 1.99),
    "threshold_lux": (0.001, 200_000),
    "supply_v": (1, 60),
    "output_v": (1, 60),
    "highest_v": (0.1, 60),
    "supply_ma": (0, 100_000),
    "debounce_ms": (0, 10_000),
}
STAGES: Options = (("planned", "planned, no rule yet"), ("working", "working"))


def _probe(plan: Plan, probe: Probe) -> tuple[Group, ...]:
    kinds = QUANTITIES[probe.quantity].sensors
    offered = dict.fromkeys((*kinds, *((probe.sensor.kind,) if probe.sensor else ())))
    ways = (("", "not chosen yet"), *((k, SENSOR_KINDS[k][1]) for k in offered))
    groups = [
        Group(
            title="Probe",
            fields=(
                text("name", "Name", probe.name),
                choice("place", "Stands in", probe.place, places(plan)),
                choice(
                    "quantity",
                    "Measures",
                    probe.quantity,
                    tuple((k, v.name) for k, v in QUANTITIES.items()),
                ),
                choice("sensor_kind", "Made as", probe.sensor.kind if probe.sensor else "", ways),
                number("cable_m", "Cable", probe.cable_m, "m", 0, 500),
                choice("stage", "Stage", probe.stage, STAGES),
            ),
        )
    ]
    if probe.sensor is not None:
        groups.append(
            Group(
                title=SENSOR_KINDS[probe.sensor.kind][1],
                fields=_sensor_fields(probe.sensor),
                inside="sensor",
            )
        )
    return tuple(groups)


def _load(plan: Plan, load: Load) -> tuple[Group, ...]:
    groups = [
        Group(
            title="Load",
            fields=(
                text("name", "Name", load.name),
                choice("place", "Stands in", load.place, places(plan)),
                choice("kind", "Kind", load.kind, tuple(LOAD_KINDS.items())),
                choice(
                    "load_class",
                    "Class",
                    load.load_class,
                    tuple((k, v.name) for k, v in CLASSES.items()),
                ),
                choice("nature", "It is a", load.nature, tuple(NATURES.items())),
                number("power_w", "Power", load.power_w, "W", 0, 100_000),
                text("feed", "Feed", load.feed, "as on the board"),
                number("cable_m", "Cable", load.cable_m, "m", 0, 500),
                choice("stage", "Stage", load.stage, STAGES),
            ),
        )
    ]
    probes = plan.probes
    if load.stepped is not None:
        fan = load.stepped
        groups.append(
            Group(
                title="Steps",
                inside="stepped",
                fields=(
                    number("motor_ohm", "Motor", fan.motor_ohm, "Ω", 0.01, 1e6),
                    number("motor_henry", "Inductance", fan.motor_henry, "H", 0.0001, 100),
                    text(
                        "capacitors",
                        "Capacitors",
                        ", ".join(f"{c.role} {short(c.capacitance_uf)}" for c in fan.capacitors),
                        "role and µF",
                    ),
                    text(
                        "steps",
                        "Steps",
                        "; ".join(f"{s.name}: {'+'.join(s.closed)}" for s in fan.steps),
                        "what each closes",
                    ),
                    text(
                        "never_together",
                        "Never together",
                        ", ".join("+".join(pair) for pair in fan.never_together),
                    ),
                    number("dead_time_s", "Dead time", fan.dead_time_s, "s", 0.02, 60),
                    number(
                        "bleed_ohm", "Bleed resistor", fan.bleed_ohm, "Ω", 1, 1e9, optional=True
                    ),
                ),
            )
        )
    if load.drive is not None:
        drive = load.drive
        groups.append(
            Group(
                title="Drive",
                inside="drive",
                fields=(
                    number("pulse_s", "Pulse", drive.pulse_s, "s", 0.05, 10),
                    number("travel_s", "Full travel", drive.travel_s, "s", 0.1, 600),
                    choice(
                        "position",
                        "Position by",
                        drive.position,
                        (("contacts", "two end contacts"), ("distance", "a distance")),
                    ),
                    choice(
                        "open_contact",
                        "Open contact",
                        drive.open_contact or "",
                        named(probes, "none"),
                    ),
                    choice(
                        "shut_contact",
                        "Shut contact",
                        drive.shut_contact or "",
                        named(probes, "none"),
                    ),
                    choice(
                        "distance_probe",
                        "Distance probe",
                        drive.distance_probe or "",
                        named(probes, "none"),
                    ),
                ),
            )
        )
    if load.valve is not None:
        rest = (("shut", "shut"), ("open", "open"))
        series = (("1", "one contact"), ("2", "two in series"))
        groups.append(
            Group(
                title="Valve",
                inside="valve",
                fields=(
                    choice("at_rest", "Without supply", load.valve.at_rest, rest),
                    choice("in_series", "Switched by", load.valve.in_series, series),
                ),
            )
        )
    if load.two_way is not None:
        groups.append(
            Group(
                title="Two-way",
                inside="two_way",
                fields=(
                    choice("sense", "Sensed by", load.two_way.sense or "", named(probes, "nobody")),
                    number("settle_s", "Settles in", load.two_way.settle_s, "s", 0.05, 10),
                ),
            )
        )
    if load.pattern is not None:
        groups.append(
            Group(
                title="Pattern",
                inside="pattern",
                fields=(
                    number("on_s", "On", load.pattern.on_s, "s", 0, 604_800),
                    number("off_s", "Off", load.pattern.off_s, "s", 0, 604_800),
                ),
            )
        )
    return tuple(groups)


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


def _relay(_plan: Plan, relay: Any) -> tuple[Group, ...]:
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
                choice(
                    "contactor",
                    "Contactor",
                    "yes" if relay.contactor else "no",
                    (("no", "none"), ("yes", "it switches one")),
                ),
            ),
        ),
    )
