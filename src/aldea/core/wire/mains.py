"""The mains side: the strip X1, and every conductor from the feed through contacts to the loads."""

from collections import defaultdict
from collections.abc import Callable, Generator, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Literal

from aldea.core.plan.document import Load, Plan
from aldea.core.plan.memo import per_plan
from aldea.core.plan.wiring import Colours, RelayLine
from aldea.core.wire.contacts import has_contactor, load_current_a

Feed = Literal["ELV", "mains"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """One wire: its number, its two ends, what it is, and what to know of it.

    `signal` names the signal that it carries, `owner` the thing that it serves. `current_a` is the
    load's where that flows, 0 in earth, coils, sensing and extra-low voltage; section and fuse of
    mains are the electrician's to decide.
    """

    number: str
    start: str
    end: str
    feed: Feed
    colour: str
    section: str
    owner: str
    place: str
    signal: str = ""
    fuse: str = ""
    current_a: float = 0.0
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Terminal:
    """A mains terminal of the strip X1 with the load that hangs on it."""

    label: str
    load: str
    relay: str


@per_plan
def terminals(plan: Plan) -> tuple[Terminal, ...]:
    """The mains strip X1: one terminal a switched conductor, in the order of the plan."""
    made: list[Terminal] = []
    number = 0
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        if not relays or load.kind == "pulse_drive":
            continue
        if load.kind == "two_way":
            number += 1
            made += [
                Terminal(label=f"{number}{side}", load=load.id, relay=relays[0].id) for side in "ab"
            ]
            continue
        for relay in [relays[-1]] if load.kind == "valve" else relays:
            number += 1
            made.append(Terminal(label=str(number), load=load.id, relay=relay.id))
    return tuple(made)


@per_plan
def _strips(plan: Plan) -> dict[str, list[Terminal]]:
    found: dict[str, list[Terminal]] = defaultdict(list)
    for terminal in terminals(plan):
        found[terminal.load].append(terminal)
    return found


def outlet(relay: RelayLine) -> str:
    """The contact's outgoing terminal: 14 of a normally open contact, 12 of a closed one."""
    return f"{relay.id.upper()}:{'14' if relay.contact == 'no' else '12'}"


def mains_wires(load: Load, plan: Plan) -> Iterator[Conductor]:
    """Every mains conductor of a load; none where its relays switch no mains."""
    relays = plan.relays_of(load.id)
    if not relays or load.kind == "pulse_drive":
        return
    colours = plan.house.colours
    current = load_current_a(load, plan)
    fuse = load.feed or "feed to be named"
    strip = _strips(plan)[load.id]

    def made(
        number: str,
        start: str,
        end: str,
        colour: str,
        note: str = "",
        *,
        carries_load: bool = True,
    ) -> Conductor:
        return Conductor(
            number=number,
            start=start,
            end=end,
            feed="mains",
            colour=colour,
            section="electrician decides",
            owner=f"load:{load.id}",
            place=load.place,
            fuse=fuse,
            current_a=current if carries_load else 0.0,
            note=note,
        )

    first = strip[0].label
    live = f"{fuse}:L"
    if load.kind == "two_way":
        switch = relays[0].id.upper()
        yield made(f"L{first}", live, f"{switch}:11", colours.line)
        for terminal, contact in zip(strip, ("12", "14"), strict=True):
            label = f"X1:{terminal.label}"
            yield made(terminal.label, f"{switch}:{contact}", label, colours.switched, "traveller")
            yield made(
                f"{terminal.label}′",
                label,
                f"{load.name} wall switch:{'L1' if contact == '12' else 'L2'}",
                colours.switched,
                "can be live with the relay at rest",
            )
        yield made(
            f"{first[:-1]}′", f"{load.name} wall switch:COM", f"{load.name}:L", colours.switched
        )
        sense = plan.probe(load.two_way.sense or "") if load.two_way else None
        if sense is not None:
            note = "isolated sensing across the lamp"
            yield made(
                f"{first[:-1]}s",
                f"{load.name}:L",
                f"{sense.name}:L",
                colours.switched,
                note,
                carries_load=False,
            )
            yield made(
                f"{first[:-1]}n",
                "N bar:N",
                f"{sense.name}:N",
                colours.neutral,
                note,
                carries_load=False,
            )
    elif load.kind == "valve":
        end = live
        for relay, mark in zip(relays, (first, f"{first}s"), strict=False):
            end = yield from _through(made, relay, load, live, end, mark, colours)
        yield from _to_load(made, load, end, first, colours.switched, "L")
    else:
        caps = {c.role: c for c in load.stepped.capacitors} if load.stepped else {}
        for relay, terminal in zip(relays, strip, strict=True):
            start = yield from _through(made, relay, load, live, live, terminal.label, colours)
            end = "L"
            note = ""
            if relay.role in caps:
                end = f"{relay.role.upper()} in"
                note = f"series capacitor {caps[relay.role].capacitance_uf:g} µF; holds charge"
            yield from _to_load(made, load, start, terminal.label, colours.switched, end, note)
            if relay.role in caps:
                yield made(
                    f"{terminal.label}″",
                    f"{load.name}:{relay.role.upper()} out",
                    f"{load.name}:L",
                    colours.switched,
                    "capacitor to motor",
                )
    yield made(f"N{first}", "N bar:N", f"{load.name}:N", colours.neutral)
    yield made(
        f"PE{first}",
        "PE bar:PE",
        f"{load.name}:PE",
        colours.earth,
        "where it has one",
        carries_load=False,
    )


def _through(
    made: Callable[..., Conductor],
    relay: RelayLine,
    load: Load,
    live: str,
    source: str,
    mark: str,
    colours: Colours,
) -> Generator[Conductor, None, str]:
    """From a source through a relay's contact, or the contactor whose coil it switches.

    Returns the terminal where the current comes out. A contactor's coil has a line of its own, so
    that of two in series neither waits for the other.
    """
    name = relay.id.upper()
    series = source != live
    colour = colours.switched if series else colours.line
    note = "two contacts in series: both must weld to fail" if series else ""
    if not has_contactor(relay, load):
        yield made(f"L{mark}", source, f"{name}:11", colour, note)
        return outlet(relay)
    contactor = f"KM {name}"
    coil = partial(made, note="coil", carries_load=False)
    yield coil(f"L{mark}", live, f"{name}:11", colours.line)
    yield coil(f"{mark}c", outlet(relay), f"{contactor}:A1", colours.switched)
    yield coil(f"{mark}n", "N bar:N", f"{contactor}:A2", colours.neutral)
    yield made(f"{mark}m", source, f"{contactor}:1", colour, note)
    return f"{contactor}:2"


def _to_load(
    made: Callable[..., Conductor],
    load: Load,
    start: str,
    label: str,
    colour: str,
    end: str,
    note: str = "",
) -> Iterator[Conductor]:
    strip = f"X1:{label}"
    yield made(label, start, strip, colour, note)
    yield made(f"{label}′", strip, f"{load.name}:{end}", colour, note)
