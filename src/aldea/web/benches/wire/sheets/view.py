"""The sheets that are printed: panel door, and the electrician's part alone; A4 by weasyprint."""

from dataclasses import dataclass

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.devices.conductor import Conductor
from aldea.core.devices.finding import Finding
from aldea.core.devices.loads.ratings import contact_of, has_contactor, load_current_a
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Load, Plan
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.terminals import terminals
from aldea.core.words.lost_probe import lost_probe_words
from aldea.core.words.power_cut import power_cut_sentence, without_supply

PAPER = {
    "ink": "#000000",
    "ink2": "#333333",
    "plate": "#ffffff",
    "lit": "#ffffff",
    "sunk": "#f3f3f3",
    "fail": "#000000",
    "fault": "#000000",
}
STANDS_BY_ITSELF = ("valve", "pulse_drive")
SCREEN = {key: f"var(--{key})" for key in PAPER}


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayRow:
    """What the relays of one load do, for the door."""

    relays: str
    terminals: str
    load: str
    at_mains: bool
    volt_free: bool
    feed: str
    power_return: str
    probe_lost: str
    longest: str
    current: str
    contact: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DoorSheet:
    """Everything on the door sheet that is not the drawing."""

    feeds: str
    isolation: tuple[str, ...]
    rows: tuple[RelayRow, ...]
    warnings: tuple[tuple[str, Finding], ...]
    mains: tuple[Conductor, ...]
    elv: tuple[Conductor, ...]

    @property
    def on_mains(self) -> tuple[RelayRow, ...]:
        """The rows of loads that are switched at mains: they alone are the electrician's."""
        return tuple(row for row in self.rows if row.at_mains)


def make_sheet(plan: Plan, warnings: tuple[tuple[str, Finding], ...]) -> DoorSheet:
    """Isolation steps first, then a row a load, then what is still wrong."""
    wires = conductors(plan)
    feeds = sorted({load.feed or "" for load in plan.loads if _at_mains(load, plan)} - {""})
    return DoorSheet(
        feeds=_spoken(feeds),
        isolation=tuple(_isolation(plan)),
        rows=tuple(_row(load, plan) for load in plan.loads if plan.relays_of(load.id)),
        warnings=warnings,
        mains=tuple(wire for wire in wires if wire.net == "mains"),
        elv=tuple(wire for wire in wires if wire.net == "ELV"),
    )


def _at_mains(load: Load, plan: Plan) -> bool:
    """Whether the panel switches a load at mains."""
    return load.on_mains and not load_device(load).volt_free and bool(plan.relays_of(load.id))


def _spoken(names: list[str]) -> str:
    if len(names) < 2:
        return "".join(names)
    return f"{', '.join(names[:-1])} and {names[-1]}"


def _isolation(plan: Plan) -> list[str]:
    """What to know before the panel is opened: shared feeds, then what each load says of itself."""
    wired = [load for load in plan.loads if plan.relays_of(load.id)]
    by_feed: dict[str, list[str]] = {}
    for load in wired:
        if load.feed and _at_mains(load, plan):
            by_feed.setdefault(load.feed, []).append(load.name)
    lines = [
        f"{feed} feeds {len(names)} loads: {_spoken(names)}."
        for feed, names in by_feed.items()
        if len(names) > 1
    ]
    for load in wired:
        labels = [t.label for t in terminals(plan) if t.load == load.id]
        lines += load_device(load).isolation(load, labels)
        if load.kind in STANDS_BY_ITSELF:
            lines.append(f"{load.name} {without_supply(load, plan)} without supply.")
    if any(_at_mains(load, plan) for load in wired):
        lines.append(_below_the_line(plan, wired))
    return lines


def _below_the_line(plan: Plan, wired: list[Load]) -> str:
    """Which of the loads in the lower half of the drawing are at mains, and which are not."""
    below = f"Everything below the double line in the drawing is {short(plan.house.mains_v)} V"
    low = [load.name for load in wired if not load.on_mains]
    free = [load.name for load in wired if load.on_mains and not _at_mains(load, plan)]
    apart = [f"{_spoken(names)} ({words})" for names, words in _apart(low, free) if names]
    return f"{below}, but not {' and '.join(apart)}." if apart else f"{below}."


def _apart(low: list[str], free: list[str]) -> tuple[tuple[list[str], str], ...]:
    return (low, "extra-low voltage"), (free, "volt-free")


def _leaves_by(load: Load, plan: Plan, labels: list[str]) -> str:
    if load.on_mains:
        return f"X1:{', '.join(labels)}"
    return f"{short(load.volts or 0)} V {load.runs_on.upper()}"


def _fed(load: Load, plan: Plan) -> str:
    if load.on_mains:
        return load.feed or "to be named"
    supply = plan.supply(load.supply)
    return supply.name if supply else "to be named"


def _row(load: Load, plan: Plan) -> RelayRow:
    relays = plan.relays_of(load.id)
    labels = [t.label for t in terminals(plan) if t.load == load.id]
    volt_free = load_device(load).volt_free
    bears: dict[str, list[str]] = {}
    for relay in relays:
        words = f"{short(relay.rated_a)} A, bears {contact_of(relay, load, plan).allowed_a:.1f} A"
        if has_contactor(relay, load):
            words += " of its contactor’s coil"
        bears.setdefault(words, []).append(relay.id.upper())
    return RelayRow(
        relays=", ".join(r.id.upper() for r in relays),
        terminals="volt-free" if volt_free else _leaves_by(load, plan, labels),
        load=load.name,
        at_mains=load.on_mains and not volt_free,
        volt_free=volt_free,
        feed="–" if volt_free else _fed(load, plan),
        power_return=power_cut_sentence(load, plan).removeprefix(f"{load.name} "),
        probe_lost=lost_probe_words(plan, load),
        longest="no limit" if load.max_on_s is None else span(load.max_on_s),
        current=f"{load_current_a(load, plan):.1f} A",
        contact="; ".join(
            words if len(bears) == 1 else f"{', '.join(names)}: {words}"
            for words, names in bears.items()
        ),
    )
