"""The server: its parts, its benches, its work in the background."""

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator, Callable
from pathlib import Path

import procrastinate
from anyio import CapacityLimiter
from fastapi import FastAPI
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.middleware.gzip import GZipMiddleware

from aldea.jobs.queue import make_queue, run_queue
from aldea.jobs.sweeping import sweep
from aldea.store.database import Database
from aldea.store.reading_cache import ReadingCache
from aldea.web.api import routes as api
from aldea.web.registry import BENCHES
from aldea.web.shell.gate import Gate
from aldea.web.shell.printing import Printer
from aldea.web.shell.problems import answer_errors
from aldea.web.shell.replay_cache import ReplayCache
from aldea.web.shell.state import AppState, leave_alone_what_is_loaded, wall_clock_ms
from aldea.web.shell.statics import serve_statics
from aldea.web.shell.templates import use_benches

SECONDS_BETWEEN_SWEEPS = 600
SECONDS_BEFORE_AGAIN = 5
SECONDS_TO_END = 3
HASHES_AT_ONCE = 2  # each takes a core and 64 MB for as long as it lasts
MOST_BODY_BYTES = 1_000_000  # counted as it comes, unless an address says otherwise
log = logging.getLogger("aldea.web")


async def _sweep(database: Database, uploads: Path) -> None:
    while True:
        try:
            await asyncio.to_thread(sweep, database, uploads, wall_clock_ms())
        except Exception:
            log.exception("sweeping")  # the next one may find the database again
        await asyncio.sleep(SECONDS_BETWEEN_SWEEPS)


async def _run_queue(queue: procrastinate.App) -> None:
    while True:
        try:
            async with queue.open_async():
                await run_queue(queue)
        except Exception:
            log.exception("working the queue")  # the database may be back in a moment
        await asyncio.sleep(SECONDS_BEFORE_AGAIN)


def create_app(
    database: Database, uploads: Path, *, clock: Callable[[], int] = wall_clock_ms
) -> FastAPI:
    """The application; its lifespan works the queue. Whoever makes it has loaded the engine."""
    readings = ReadingCache()
    state = AppState(
        database=database,
        readings=readings,
        replays=ReplayCache(readings),
        hashing=CapacityLimiter(HASHES_AT_ONCE),
        printer=Printer(),
        uploads=uploads,
        clock=clock,
    )

    @contextlib.asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        leave_alone_what_is_loaded()
        tasks = [
            asyncio.create_task(_run_queue(make_queue(database, uploads))),
            asyncio.create_task(_sweep(database, uploads)),
        ]
        yield
        for task in tasks:
            task.cancel()
        # With its database gone the queue would wait for it: the server ends in any case.
        await asyncio.wait(tasks, timeout=SECONDS_TO_END)

    app = FastAPI(
        title="Aldea",
        version="0.3.0",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/v1/openapi.json",
    )
    app.state.aldea = state
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=1)
    app.add_middleware(RequestBodyLimitMiddleware, max_body_size=MOST_BODY_BYTES)
    app.add_middleware(Gate)
    serve_statics(app, BENCHES)
    use_benches(BENCHES)
    for bench in BENCHES:
        for router in bench.routers:
            app.include_router(router)
    app.include_router(api.router)
    answer_errors(app)
    return app
