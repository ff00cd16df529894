"""What an error looks like: a page for people, a problem document (RFC 9457) for programs."""

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse
from starlette.exceptions import HTTPException

from aldea.core.base.errors import (
    AldeaError,
    ConflictError,
    InputError,
    NotAllowedError,
    NotFoundError,
)
from aldea.web.shell.access import SignInNeededError
from aldea.web.shell.page import render
from aldea.web.shell.state import EngineStartingError

STATUS_OF: dict[type[AldeaError], int] = {
    InputError: 422,
    NotFoundError: 404,
    NotAllowedError: 403,
    ConflictError: 409,
    SignInNeededError: 401,
    EngineStartingError: 503,
    AldeaError: 500,
}


HEADS = {
    403: "That is not yours to do.",
    404: "That is not here.",
    409: "Somebody was faster.",
    422: "That cannot be used.",
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
    return _error_page(request, status, exc)


async def _http_error(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, HTTPException):
        raise exc
    if _is_api(request):
        return problem(exc.status_code, "HTTP error", str(exc.detail))
    error = NotFoundError("address", got=request.url.path, allowed="a page of Aldea")
    return _error_page(request, exc.status_code, error)


def _error_page(request: Request, status: int, error: AldeaError) -> Response:
    head = HEADS.get(status, "That did not work.")
    sentence = error.sentence[:1].upper() + error.sentence[1:]
    return render(request, "error.html", status=status, code=status, head=head, sentence=sentence)


async def _unreadable(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, RequestValidationError):
        raise exc
    first = exc.errors()[0]
    where = ".".join(str(step) for step in first["loc"])
    error = InputError(where, got=repr(first.get("input"))[:80], allowed=str(first["msg"]))
    return await _aldea_error(request, error)


def answer_errors(app: FastAPI) -> None:
    """Let every error of an application be answered here."""
    app.add_exception_handler(AldeaError, _aldea_error)
    app.add_exception_handler(HTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _unreadable)
