"""The list of houses, and a new one."""

from pathlib import Path

from aldea.web.benches.houses import beginning, routes
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="houses",
    folder=Path(__file__).parent,
    routers=(routes.router, beginning.router),
    views=("//houses",),
)
