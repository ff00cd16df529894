"""The Wire bench: pins, conductors, findings, circuits, boards, controls, parts, sheets."""

from pathlib import Path

from aldea.web.benches.wire.boards import routes as boards
from aldea.web.benches.wire.circuits import routes as circuits
from aldea.web.benches.wire.controls import routes as controls
from aldea.web.benches.wire.panel import assigning
from aldea.web.benches.wire.panel import routes as panel
from aldea.web.benches.wire.parts import routes as parts
from aldea.web.benches.wire.sheets import routes as sheets
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="wire",
    folder=Path(__file__).parent,
    routers=(
        panel.router,
        assigning.router,
        circuits.router,
        boards.router,
        controls.router,
        parts.router,
        sheets.router,
    ),
    name="Wire",
    digit="2",
    path="/wire",
    part="place",
    on_phone="Made for a wider screen: drawings and tables scroll sideways here. At the panel the "
    "door sheet does.",
    keys=(
        Key(key="Z and Y", does="undo the last edit of the draft, redo it"),
        Key(key="P", does="print the door sheet"),
    ),
    views=(
        "/wire",
        "/wire?board=board_b&part=relay:k3",
        "/wire?by=place",
        "/wire/circuits",
        "/wire/controls",
        "/wire/boards",
        "/wire/parts",
    ),
)
