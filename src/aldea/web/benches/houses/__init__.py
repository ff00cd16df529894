"""The list of houses, and a new one."""

from pathlib import Path

from aldea.web.benches.houses import routes, start_log, starting
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="houses",
    folder=Path(__file__).parent,
    routers=(routes.router, starting.router, start_log.router),
    views=("//houses",),
)
