"""Signing in and out."""

import secrets
from typing import Annotated

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import NotAllowedError
from aldea.store.accounts import SESSION_MS, check_attempts, close_session, open_session, sign_in
from aldea.web.shell.access import (
    FORM_COOKIE,
    SESSION_COOKIE,
    SignedIn,
    State,
    check_same_origin,
)
from aldea.web.shell.page import render

router = APIRouter()


def _inside(path: str) -> str:
    """A path of this site; anything else leads to the first page."""
    good = path.startswith("/") and not path.startswith(("//", "/\\")) and "\n" not in path
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


@router.get("/sign-in", include_in_schema=False)
def ask(request: Request, next: str = "/") -> Response:
    """The sign-in page."""
    return _page(request, next_path=_inside(next))


@router.post("/sign-in", include_in_schema=False)
def enter(
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
    if not known or not secrets.compare_digest(known.encode(), form_token.encode()):
        refusal = "The page was open too long. Sign in again."
        return _page(request, next_path=next_path, name=name, refusal=refusal, status=403)
    address = request.client.host if request.client else "unknown"
    now_ms = state.clock()
    try:
        with state.database.begin() as connection:
            check_attempts(connection, name=name, address=address, now_ms=now_ms)
            account = sign_in(
                connection, name=name, password=password, address=address, now_ms=now_ms
            )
            token = open_session(connection, account, now_ms) if account else ""
    except NotAllowedError as exc:
        refusal = f"Got {exc.got}. {exc.mend}"
        return _page(request, next_path=next_path, name=name, refusal=refusal, status=429)
    if account is None:
        refusal = "Name or password is not right. Capitals count in the password."
        return _page(request, next_path=next_path, name=name, refusal=refusal, status=422)
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


@router.post("/sign-out", include_in_schema=False)
def leave(request: Request, state: State, _visitor: SignedIn) -> Response:
    """Close the session."""
    with state.database.begin() as connection:
        close_session(connection, request.cookies.get(SESSION_COOKIE, ""))
    response = RedirectResponse("/sign-in", status_code=303)
    response.delete_cookie(SESSION_COOKIE)
    return response
