"""Who is asking, what they may do, and the headers that every answer carries."""

import secrets
from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import quote, urlsplit

from fastapi import Depends, Request
from fastapi import Path as FromPath
from starlette.datastructures import FormData

from aldea.core.base.errors import AldeaError, NotAllowedError
from aldea.store.accounts import Account, Role
from aldea.store.houses import HouseRow, house_for
from aldea.store.sessions import Session, find_session
from aldea.web.shell.state import AppState

MOST_FIELDS = 6000  # a board table of 400 pins sends that many
MOST_ROW = 2**63 - 1  # what a number of a row can be in the database
SESSION_COOKIE = "aldea_session"
FORM_COOKIE = "aldea_form"


class SignInNeededError(AldeaError):
    """Nobody is signed in; `next_path` is where they wanted to go."""

    def __init__(self, next_path: str) -> None:
        self.next_path = next_path
        super().__init__("session", text="Nobody is signed in. Sign in first.")

    @property
    def sign_in_path(self) -> str:
        """The sign-in page, which leads back."""
        return f"/sign-in?next={quote(self.next_path, safe='/?=&')}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Visitor:
    """A signed-in person."""

    account: Account
    form_token: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseAccess:
    """A house as this visitor may use it."""

    house: HouseRow
    role: Role
    visitor: Visitor
    now_ms: int

    @property
    def account(self) -> Account:
        """The visitor's account."""
        return self.visitor.account

    @property
    def may_build(self) -> bool:
        """Whether this visitor may change the plan and the records."""
        return self.role == "builder"


def app_state(request: Request) -> AppState:
    """The server's parts."""
    state: AppState = request.app.state.aldea
    return state


State = Annotated[AppState, Depends(app_state)]


RowId = Annotated[int, FromPath(ge=1, le=MOST_ROW)]  # a row's number in an address


def check_same_origin(request: Request) -> None:
    """Refuse a change that another site's page asked for."""
    origin = request.headers.get("origin")
    site = request.headers.get("sec-fetch-site")
    foreign = origin is not None and urlsplit(origin).netloc != request.headers.get("host")
    if foreign or site in ("cross-site", "same-site"):
        raise NotAllowedError(
            "request",
            text="This request came from a page of another site. Make the change on a page of "
            "Aldea.",
        )


def session_of(request: Request, state: State) -> Session:
    """The session of the cookie, or `SignInNeededError`."""
    token = request.cookies.get(SESSION_COOKIE, "")
    session = None
    if token:
        with state.database.look() as connection:
            session = find_session(connection, token, state.clock())
    if session is None:
        address = request.url.path + (f"?{request.url.query}" if request.url.query else "")
        raise SignInNeededError(address if request.method == "GET" else "/")
    return session


async def sent_form(
    request: Request, _session: Annotated[Session, Depends(session_of)]
) -> AsyncIterator[FormData]:
    """The form of a change; read only for somebody who is signed in, its file closed after."""
    if request.method in ("GET", "HEAD"):
        yield FormData()
        return
    check_same_origin(request)
    async with request.form(max_files=1, max_fields=MOST_FIELDS) as form:
        yield form


def signed_in(
    request: Request,
    session: Annotated[Session, Depends(session_of)],
    form: Annotated[FormData, Depends(sent_form)],
) -> Visitor:
    """The visitor; checks the form token where something is to be changed."""
    if request.method not in ("GET", "HEAD"):
        sent = request.headers.get("x-form-token") or str(form.get("form_token", ""))
        if not secrets.compare_digest(sent.encode(), session.form_token.encode()):
            raise NotAllowedError(
                "form",
                text="This page is old. Load it again; what you typed is kept in it.",
            )
    return Visitor(account=session.account, form_token=session.form_token)


SignedIn = Annotated[Visitor, Depends(signed_in)]
Sent = Annotated[FormData, Depends(sent_form)]


def house_access(slug: str, state: State, visitor: SignedIn) -> HouseAccess:
    """The house of the address, if the visitor belongs to it."""
    with state.database.look() as connection:
        house, role = house_for(connection, slug, visitor.account)
    now_ms = house.now_ms if house.now_ms is not None else state.clock()
    return HouseAccess(house=house, role=role, visitor=visitor, now_ms=now_ms)


MemberAccess = Annotated[HouseAccess, Depends(house_access)]


def builder_access(access: MemberAccess) -> HouseAccess:
    """The house, for its builders only."""
    if not access.may_build:
        raise NotAllowedError(
            "role",
            text=f"You are a {access.role} of this house. A builder can do it, or make you one.",
        )
    return access


BuilderAccess = Annotated[HouseAccess, Depends(builder_access)]
