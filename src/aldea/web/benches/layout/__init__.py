"""The Lay out bench: places and what stands in them."""

from pathlib import Path

from aldea.web.benches.layout import acts, routes
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="layout",
    folder=Path(__file__).parent,
    routers=(routes.router, acts.router),
    name="Lay out",
    digit="1",
    path="/layout",
    part="place",
    on_phone="Made for a wider screen, where parts are dragged. Here they are a list by room.",
    keys=(
        Key(key="K", does="save in draft"),
        Key(key="Z and Y", does="undo the last edit of the draft, redo it"),
        Key(key="arrows", does="a part into the next room"),
    ),
    views=("/layout?part=load:inlet_valve",),
)
