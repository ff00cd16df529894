"""The Record bench: revisions, plan files, what is recorded, imports, the history."""

from pathlib import Path

from aldea.web.benches.record import readings_out, routes
from aldea.web.benches.record.imports import removals
from aldea.web.benches.record.imports import routes as imports
from aldea.web.shell.bench import Bench

BENCH = Bench(
    key="record",
    folder=Path(__file__).parent,
    routers=(routes.router, readings_out.router, removals.router, imports.router),
    name="Record",
    digit="9",
    path="/record",
    part="keep",
    views=("/record",),
)
