"""The Tune bench: thresholds on the trace, what they cost, and keeping them."""

from pathlib import Path

from aldea.web.benches.tune import routes
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="tune",
    folder=Path(__file__).parent,
    routers=(routes.router,),
    name="Tune",
    digit="4",
    path="/tune",
    part="measure",
    on_phone="Made for a wider screen, where the thresholds are dragged. Here they are typed.",
    keys=(
        Key(key="K", does="save in draft"),
        Key(key="arrows", does="a rider by 0.1, with Shift by 1.0"),
    ),
    views=("/tune/dehumidifier",),
)
