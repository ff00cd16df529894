"""Does the wiring do what it is for? Conductors as a graph, walked with the contacts as they stand.

networkx keeps the graph. A load is live where a path leads from its feed to its own terminal.
"""

from collections.abc import Mapping

import networkx as nx

from aldea.core.plan.document import Load, Plan
from aldea.core.wire.conductors import conductors
from aldea.core.wire.mains import Conductor, outlet


def circuit(
    plan: Plan, wires: tuple[Conductor, ...], conducts: Mapping[str, bool]
) -> "nx.Graph[str]":
    """The panel as a graph of terminals: every conductor, and every contact that conducts.

    `conducts` is by relay id. Contactors follow their relay; capacitors pass alternating current. A
    wall switch stands at L2, where its lamp burns with the relay pulled in.
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
            if relay.contactor:
                graph.add_edge(f"KM {label}:1", f"KM {label}:2")
    for load in plan.loads:
        if load.kind == "two_way":
            graph.add_edge(f"{load.name} wall switch:L2", f"{load.name} wall switch:COM")
        for cap in load.stepped.capacitors if load.stepped else ():
            graph.add_edge(
                f"{load.name}:{cap.role.upper()} in", f"{load.name}:{cap.role.upper()} out"
            )
    return graph


def is_live(graph: "nx.Graph[str]", load: Load) -> bool:
    """Whether mains reaches a load's terminal."""
    feed = f"{load.feed or 'feed to be named'}:L"
    target = f"{load.name}:L"
    return feed in graph and target in graph and nx.has_path(graph, feed, target)


def crossings(plan: Plan) -> list[tuple[str, str]]:
    """Pairs of mains and extra-low-voltage terminals that one conductor net joins: must be none."""
    wires = conductors(plan)
    graph: nx.Graph[str] = nx.Graph()
    for wire in wires:
        graph.add_edge(wire.start, wire.end)
    mains = {end for w in wires if w.feed == "mains" for end in (w.start, w.end)}
    low = {end for w in wires if w.feed == "ELV" for end in (w.start, w.end)}
    return [
        (min(net & mains), min(net & low))
        for net in nx.connected_components(graph)
        if net & mains and net & low
    ]
