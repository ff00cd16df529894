"""What an error looks like: a page for people, a problem document (RFC 9457) for programs."""

from http import HTTPStatus

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
    UnavailableError,
)
from aldea.core.base.unfit import unfit
from aldea.web.shell.access import SignInNeededError
from aldea.web.shell.page import render


class BadRequestError(AldeaError):
    """What came is no request that a page could be made for."""


STATUS_OF: dict[type[AldeaError], int] = {
    InputError: 422,
    NotFoundError: 404,
    NotAllowedError: 403,
    ConflictError: 409,
    SignInNeededError: 401,
    UnavailableError: 503,
    BadRequestError: 400,
    AldeaError: 500,
}
HEADS = {
    403: "You are not allowed to do this.",
    404: "This page does not exist.",
    405: "This page does not exist in that form.",
    409: "Somebody else saved first.",
    413: "That is too much at once.",
    422: "This request cannot be used.",
    500: "Internal error in Aldea.",
    503: "The database does not answer.",
}
UNREADABLE = "What was sent cannot be read as a form. Load the page again and send it from there."
HTTP_SENTENCES = {405: "Open the page that leads here and continue from there."}
AGAIN_S = 5  # between two looks for a database that was away


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


def answer_of(request: Request, error: AldeaError) -> Response:
    """The answer to an error: a page, a way to sign in, or a problem document."""
    if isinstance(error, SignInNeededError) and not _is_api(request):
        if request.headers.get("hx-request"):
            return Response(status_code=204, headers={"HX-Redirect": error.sign_in_path})
        return RedirectResponse(error.sign_in_path, status_code=303)
    status = status_of(error)
    if _is_api(request):
        answer: Response = problem(
            status, type(error).__name__.removesuffix("Error"), error.sentence
        )
    else:
        answer = _error_page(request, status, error.sentence)
    if isinstance(error, UnavailableError):
        answer.headers["Retry-After"] = str(AGAIN_S)
    return answer


def failure_answer(request: Request) -> Response:
    """The answer where Aldea itself went wrong: what to do, and nothing of the inside."""
    sentence = (
        "Nothing was changed; the server’s log has the cause. Go back (what you typed is still "
        "there) and try again. If it happens again, tell the maintainers what you did."
    )
    if _is_api(request):
        return problem(500, "Internal error", sentence)
    return _error_page(request, 500, sentence)


def too_large_answer(request: Request) -> Response:
    """The answer to a body beyond what its address takes."""
    sentence = "More was sent than this address allows. Send a log in parts, a form without files."
    if _is_api(request):
        return problem(413, "Too large", sentence)
    return _error_page(request, 413, sentence)


async def _aldea_error(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, AldeaError):
        raise exc
    return answer_of(request, exc)


async def _http_error(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, HTTPException):
        raise exc
    if exc.status_code == HTTPStatus.REQUEST_ENTITY_TOO_LARGE:
        return too_large_answer(request)
    if exc.status_code == HTTPStatus.NOT_FOUND:
        error = NotFoundError("address", got=request.url.path, allowed="a page of Aldea")
        return answer_of(request, error)
    if exc.status_code == HTTPStatus.METHOD_NOT_ALLOWED and _may_go_up(request):
        # What a refused form leaves in the address is loaded again: the page that the form is on.
        above = "/" + request.url.path.rsplit("/", 1)[0].lstrip("/")
        return RedirectResponse(above, status_code=HTTPStatus.SEE_OTHER)
    if _is_api(request):
        answer: Response = problem(exc.status_code, "HTTP error", str(exc.detail))
    else:
        answer = _error_page(
            request, exc.status_code, HTTP_SENTENCES.get(exc.status_code, UNREADABLE)
        )
    answer.headers.update(exc.headers or {})
    return answer


def _error_page(request: Request, status: int, sentence: str) -> Response:
    return render(
        request,
        "error.html",
        status=status,
        code=status,
        head=HEADS.get(status, "The change was not made."),
        sentence=sentence[:1].upper() + sentence[1:],
        again_s=AGAIN_S if status == HTTPStatus.SERVICE_UNAVAILABLE else None,
        # A page that was asked for can be asked for again; what was sent is sent by its form.
        again=_asked(request) if request.method in ("GET", "HEAD") else None,
    )


def _may_go_up(request: Request) -> bool:
    return request.method in ("GET", "HEAD") and not _is_api(request)


def _asked(request: Request) -> str:
    return request.url.path + (f"?{request.url.query}" if request.url.query else "")


async def _unreadable(request: Request, exc: Exception) -> Response:
    if not isinstance(exc, RequestValidationError):
        raise exc
    first, *_ = unfit(exc.errors())
    error = InputError(first.field.replace("_", " "), got=first.got, allowed=first.allowed)
    return answer_of(request, error)


def answer_errors(app: FastAPI) -> None:
    """Let every error of an application be answered here."""
    app.add_exception_handler(AldeaError, _aldea_error)
    app.add_exception_handler(HTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _unreadable)
