"""The server: its parts, its routes, and what an error looks like."""

import asyncio
import contextlib
from collections.abc import AsyncIterator, Callable
from pathlib import Path

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware

from aldea.core.errors import (
    AldeaError,
    ConflictError,
    InputError,
    NotAllowedError,
    NotFoundError,
)
from aldea.jobs.queue import make_queue, work
from aldea.store.database import Database
from aldea.store.imports import release_interrupted
from aldea.store.readings import ReadingCache
from aldea.web.desk import Desk
from aldea.web.pages import render
from aldea.web.routes import (
    api,
    boards,
    calibrate,
    certificates,
    curve,
    detective,
    difference,
    filters,
    hands,
    house,
    houses,
    imports,
    layout,
    parts_list,
    radar,
    record,
    sign_in,
    tape,
    trials,
    tune,
    wire,
)
from aldea.web.security import SignInNeededError, add_headers
from aldea.web.state import AppState, EngineStart, EngineStartingError, wall_clock_ms

STATUS_OF: dict[type[AldeaError], int] = {
    InputError: 422,
    NotFoundError: 404,
    NotAllowedError: 403,
    ConflictError: 409,
    SignInNeededError: 401,
    EngineStartingError: 503,
    AldeaError: 500,
}


def status_of(error: AldeaError) -> int:
    """The HTTP status of an error, looked up along its tree."""
    return next(STATUS_OF[kind] for kind in type(error).__mro__ if kind in STATUS_OF)


def problem(status: int, title: str, detail: str) -> JSONResponse:
    """RFC 9457 problem document."""
    return JSONResponse(
        {"type": "about:blank", "title": title, "status": status, "detail": detail},
        status_code=status,
        media_type="application/problem+json",
    )


def _is_api(request: Request) -> bool:
    return request.url.path.startswith(("/api/", "/schema/"))


async def _aldea_error(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, AldeaError):
        raise exc
    if isinstance(exc, SignInNeededError) and not _is_api(request):
        if request.headers.get("hx-request"):
            return Response(status_code=204, headers={"HX-Redirect": exc.sign_in_path})
        return RedirectResponse(exc.sign_in_path, status_code=303)
    status = status_of(exc)
    if isinstance(exc, EngineStartingError) and not _is_api(request):
        return render(request, "engine_starting.html", status=status, again=request.url.path)
    if _is_api(request):
        return problem(status, type(exc).__name__.removesuffix("Error"), exc.sentence)
    return render(request, "error.html", status=status, code=status, error=exc)


async def _http_error(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, HTTPException):
        raise exc
    if _is_api(request):
        return problem(exc.status_code, "HTTP error", str(exc.detail))
    error = NotFoundError("address", got=request.url.path, allowed="a page of Aldea")
    return render(request, "error.html", status=exc.status_code, code=exc.status_code, error=error)


async def _unreadable(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, RequestValidationError):
        raise exc
    first = exc.errors()[0]
    where = ".".join(str(step) for step in first["loc"])
    error = InputError(where, got=repr(first.get("input"))[:80], allowed=str(first["msg"]))
    return await _aldea_error(request, error)


def create_app(
    database: Database, uploads: Path, *, clock: Callable[[], int] = wall_clock_ms
) -> FastAPI:
    """The application; its lifespan works the queue and compiles the engine in the background."""
    readings = ReadingCache(database)
    state = AppState(
        database=database,
        readings=readings,
        desk=Desk(readings),
        queue=make_queue(database, uploads),
        uploads=uploads,
        engine=EngineStart(),
        clock=clock,
    )

    @contextlib.asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        with database.begin() as connection:
            release_interrupted(connection)
        state.engine.begin()
        async with state.queue.open_async():
            worker = asyncio.create_task(work(state.queue))
            yield
            worker.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await worker

    app = FastAPI(
        title="Aldea",
        version="0.3.0",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/v1/openapi.json",
    )
    app.state.aldea = state
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=3)
    app.middleware("http")(add_headers)
    app.mount("/static", StaticFiles(directory=Path(__file__).parent / "static"), name="static")
    for module in (
        sign_in,
        houses,
        house,
        layout,
        boards,
        parts_list,
        hands,
        wire,
        calibrate,
        certificates,
        curve,
        detective,
        tape,
        difference,
        filters,
        radar,
        trials,
        tune,
        record,
        imports,
        api,
    ):
        app.include_router(module.router)
    app.add_exception_handler(AldeaError, _aldea_error)
    app.add_exception_handler(HTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _unreadable)
    return app
