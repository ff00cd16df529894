"""Search over parts, rules, pins and pages: opened anywhere by its key."""

from pathlib import Path

from aldea.web.benches.search import routes
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="search",
    folder=Path(__file__).parent,
    routers=(routes.router,),
    views=("/search?q=drying",),
)
