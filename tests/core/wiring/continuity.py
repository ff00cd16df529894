"""Does the wiring do what it is for? Conductors as a graph, walked with the contacts as they stand.

networkx keeps the graph. A load is live where a path leads from its feed to its own terminal.
"""

from collections.abc import Mapping

import networkx as nx

from aldea.core.devices.conductor import Conductor
from aldea.core.devices.loads.mains import outlet
from aldea.core.plan.document import Load, Plan
from aldea.core.wiring.conductors import conductors


def circuit(
    plan: Plan, wires: tuple[Conductor, ...], conducts: Mapping[str, bool]
) -> "nx.Graph[str]":
    """The panel as a graph of terminals: every conductor, and every contact that conducts.

    `conducts` is by relay id. A contactor closes where its coil lies between feed and neutral;
    capacitors pass alternating current. A wall switch stands at L2, where its lamp burns with the
    relay pulled in.
    """
    graph: nx.Graph[str] = nx.Graph()
    for wire in wires:
        graph.add_edge(wire.start, wire.end)
    for relay in plan.relays:
        label, load = relay.id.upper(), plan.load(relay.load)
        on = conducts.get(relay.id, False)
        if load is not None and load.kind == "two_way":
            graph.add_edge(f"{label}:11", f"{label}:{'14' if on else '12'}")
        elif on:
            graph.add_edge(f"{label}:11", outlet(relay))
    for load in plan.loads:
        if load.kind == "two_way":
            graph.add_edge(f"{load.name} wall switch:L2", f"{load.name} wall switch:COM")
        for cap in load.stepped.capacitors if load.stepped else ():
            graph.add_edge(
                f"{load.name}:{cap.role.upper()} in", f"{load.name}:{cap.role.upper()} out"
            )
    for relay in plan.relays:
        load, contactor = plan.load(relay.load), f"KM {relay.id.upper()}"
        feed = f"{load.feed or 'feed to be named'}:L" if load else ""
        if joined(graph, feed, f"{contactor}:A1") and joined(graph, "N bar:N", f"{contactor}:A2"):
            graph.add_edge(f"{contactor}:1", f"{contactor}:2")
    return graph


def joined(graph: "nx.Graph[str]", first: str, second: str) -> bool:
    """Whether a path leads from one terminal to another."""
    return first in graph and second in graph and bool(nx.has_path(graph, first, second))


def is_live(graph: "nx.Graph[str]", load: Load) -> bool:
    """Whether mains reaches a load's terminal."""
    return joined(graph, f"{load.feed or 'feed to be named'}:L", f"{load.name}:L")


def crossings(plan: Plan) -> list[tuple[str, str]]:
    """Pairs of mains and extra-low-voltage terminals that one conductor net joins: must be none."""
    wires = conductors(plan)
    graph: nx.Graph[str] = nx.Graph()
    for wire in wires:
        graph.add_edge(wire.start, wire.end)
    mains = {end for w in wires if w.net == "mains" for end in (w.start, w.end)}
    low = {end for w in wires if w.net == "ELV" for end in (w.start, w.end)}
    return [
        (min(net & mains), min(net & low))
        for net in nx.connected_components(graph)
        if net & mains and net & low
    ]
