"""Signing in and out, another password, and the sessions of an account."""

import secrets
from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse
from starlette.concurrency import run_in_threadpool

from aldea.core.base.errors import InputError
from aldea.store.accounts import change_password, check_password, hashed, is_right
from aldea.store.attempts import Attempt, TooSoonError, attempt_was_good, begin_attempt
from aldea.store.sessions import (
    SESSION_MS,
    close_session,
    end_sessions,
    open_session,
    sessions_of,
)
from aldea.web.shell.access import (
    FORM_COOKIE,
    SESSION_COOKIE,
    Sent,
    SignedIn,
    State,
    Visitor,
    check_same_origin,
)
from aldea.web.shell.page import render
from aldea.web.shell.state import AppState

router = APIRouter(include_in_schema=False)
MOST_WAITING = 20  # for one of the two who hash
SIGN_IN_BYTES = 16_000
NOT_RIGHT = "Name or password is not right. Capitals count in the password."


def _inside(path: str) -> str:
    """A path of this site; anything else leads to the first page."""
    good = path.startswith("/") and not path.startswith(("//", "/\\")) and path.isprintable()
    return path if good else "/"


def _page(
    request: Request, *, next_path: str, name: str = "", refusal: str = "", status: int = 200
) -> Response:
    token = request.cookies.get(FORM_COOKIE) or secrets.token_urlsafe(24)
    response = render(
        request,
        "sign_in/sign_in.html",
        status=status,
        next_path=next_path,
        name=name,
        refusal=refusal,
        form_token=token,
    )
    response.set_cookie(
        FORM_COOKIE, token, httponly=True, samesite="lax", secure=request.url.scheme == "https"
    )
    return response


@router.get("/sign-in")
def ask(request: Request, next: str = "/") -> Response:
    """The sign-in page."""
    return _page(request, next_path=_inside(next))


@router.post("/sign-in", max_body_size=SIGN_IN_BYTES)
async def enter(
    request: Request,
    state: State,
    name: Annotated[str, Form(max_length=80)] = "",
    password: Annotated[str, Form(max_length=200)] = "",
    form_token: Annotated[str, Form()] = "",
    next_path: Annotated[str, Form()] = "/",
) -> Response:
    """Open a session, or say why not; the name that was typed stays."""
    check_same_origin(request)
    known = request.cookies.get(FORM_COOKIE, "")
    next_path, name = _inside(next_path), name.strip().lower()

    def again(refusal: str, status: int) -> Response:
        return _page(request, next_path=next_path, name=name, refusal=refusal, status=status)

    if not known or not secrets.compare_digest(known.encode(), form_token.encode()):
        return again("The page was open too long. Sign in again.", 403)
    if not name.isprintable():
        return again(NOT_RIGHT, 422)
    if state.hashing.statistics().tasks_waiting >= MOST_WAITING:
        return again("Too many people sign in at this moment. Try again in a few seconds.", 503)
    address = request.client.host if request.client else "unknown"
    try:
        attempt = await run_in_threadpool(_begin, state, name, address)
    except TooSoonError as exc:
        refused = again(exc.sentence, 429)
        refused.headers["Retry-After"] = str(exc.wait_s)
        return refused
    right = await _right(state, password, attempt.password_hash)
    token = await run_in_threadpool(_open, state, attempt) if right else None
    if token is None:
        return again(NOT_RIGHT, 422)
    response = RedirectResponse(next_path, status_code=303)
    response.set_cookie(
        SESSION_COOKIE,
        token,
        max_age=SESSION_MS // 1000,
        httponly=True,
        samesite="lax",
        secure=request.url.scheme == "https",
    )
    return response


async def _right(state: AppState, password: str, password_hash: str | None) -> bool:
    """Outside of any transaction, and never more than two at once."""
    return await to_thread.run_sync(is_right, password, password_hash, limiter=state.hashing)


def _begin(state: AppState, name: str, address: str) -> Attempt:
    with state.database.begin() as connection:
        return begin_attempt(connection, name=name, address=address, now_ms=state.clock())


def _open(state: AppState, attempt: Attempt) -> str | None:
    with state.database.begin() as connection:
        if attempt.account is None or not attempt_was_good(connection, attempt):
            return None
        return open_session(connection, attempt.account, state.clock())


@router.post("/sign-out")
def leave(request: Request, state: State, _visitor: SignedIn) -> Response:
    """Close the session."""
    with state.database.begin() as connection:
        close_session(connection, request.cookies.get(SESSION_COOKIE, ""))
    response = RedirectResponse("/sign-in", status_code=303)
    response.delete_cookie(SESSION_COOKIE)
    return response


def _account_page(
    request: Request,
    state: AppState,
    visitor: Visitor,
    *,
    errors: dict[str, str] | None = None,
    done: str = "",
    status: int = 200,
) -> Response:
    with state.database.begin() as connection:
        count = sessions_of(connection, visitor.account, state.clock())
    return render(
        request,
        "sign_in/account.html",
        status=status,
        visitor=visitor,
        form_token=visitor.form_token,
        others=count - 1,
        errors=errors or {},
        done=done,
    )


@router.get("/account")
def account(request: Request, state: State, visitor: SignedIn) -> Response:
    """What is one's own: the password, and the browsers one is signed in at."""
    done = {"password": "The password is changed, and every other browser is signed out."}
    words = done.get(request.query_params.get("done", ""), "")
    return _account_page(request, state, visitor, done=words)


@router.post("/account/password", max_body_size=SIGN_IN_BYTES)
async def another_password(
    request: Request, state: State, visitor: SignedIn, form: Sent
) -> Response:
    """Change the password; every other session of the account ends with the old one."""
    typed = {name: str(form.get(name, "")) for name in ("old", "new", "repeated")}
    address = request.client.host if request.client else "unknown"
    errors: dict[str, str] = {}
    try:
        if typed["new"] != typed["repeated"]:
            errors["repeated"] = "This is not the one above. Write the same one twice."
        check_password(typed["new"])
        if not errors:  # a slip in the new one is no try at the old one
            attempt = await run_in_threadpool(_begin, state, visitor.account.name, address)
            if await _right(state, typed["old"], attempt.password_hash):
                new = await to_thread.run_sync(hashed, typed["new"], limiter=state.hashing)
                token = request.cookies.get(SESSION_COOKIE, "")
                await run_in_threadpool(_change, state, visitor, attempt, new, token)
                return RedirectResponse("/account?done=password", status_code=303)
            errors["old"] = "This is not your password of now."
    except TooSoonError as exc:
        errors["old"] = exc.sentence
    except InputError as exc:
        errors["new"] = exc.at_field
    return await run_in_threadpool(
        _account_page, request, state, visitor, errors=errors, status=422
    )


def _change(state: AppState, visitor: Visitor, attempt: Attempt, new: str, token: str) -> None:
    with state.database.begin() as connection:
        if not attempt_was_good(connection, attempt):  # changed in another tab
            raise InputError("password", got="one changed meanwhile", allowed="that of now")
        change_password(connection, visitor.account, new)
        end_sessions(connection, visitor.account, but=token)


@router.post("/account/others")
def end_others(request: Request, state: State, visitor: SignedIn) -> Response:
    """End every other session of the account."""
    with state.database.begin() as connection:
        token = request.cookies.get(SESSION_COOKIE, "")
        end_sessions(connection, visitor.account, but=token)
    return RedirectResponse("/account", status_code=303)
