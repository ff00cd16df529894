"""The House bench: what stands in every room at the scrubber, and what is owed."""

from pathlib import Path

from aldea.web.benches.house import routes
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="house",
    folder=Path(__file__).parent,
    routers=(routes.router,),
    name="House",
    digit="0",
    path="",
    part="house",
    views=("",),
)
