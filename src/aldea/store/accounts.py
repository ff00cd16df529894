"""Accounts, sessions and the limit on sign-in attempts."""

import hashlib
import secrets
from dataclasses import dataclass
from functools import cache
from typing import Literal

from pwdlib import PasswordHash
from sqlalchemy import Connection, delete, func, insert, select

from aldea.core.base.errors import InputError, NotAllowedError
from aldea.store import tables as t

Role = Literal["builder", "householder", "viewer"]
SESSION_MS = 14 * 86_400_000
WINDOW_MS = 15 * 60_000
MOST_FAILURES_PER_NAME = 6
MOST_FAILURES_PER_ADDRESS = 30
SHORTEST_PASSWORD = 10

_hasher = PasswordHash.recommended()  # Argon2id


@cache
def _decoy() -> str:
    return _hasher.hash("nobody has this password")


@dataclass(frozen=True, slots=True, kw_only=True)
class Account:
    """Somebody who can sign in."""

    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Session:
    """A signed-in browser; `form_token` must come back with every change."""

    account: Account
    form_token: str


def create_account(connection: Connection, *, name: str, password: str, now_ms: int) -> Account:
    """Make an account with an Argon2 password."""
    if len(password) < SHORTEST_PASSWORD:
        raise InputError(
            "password",
            got=f"{len(password)} characters",
            allowed=f"{SHORTEST_PASSWORD} or more",
        )
    row = connection.execute(
        insert(t.account)
        .values(name=name, password_hash=_hasher.hash(password), created_ms=now_ms)
        .returning(t.account.c.id)
    ).scalar_one()
    return Account(id=row, name=name)


def check_attempts(connection: Connection, *, name: str, address: str, now_ms: int) -> None:
    """Raise `NotAllowedError` after too many failures of a name or of an address."""
    attempt = t.sign_in_attempt
    failures = select(func.count(), func.min(attempt.c.at_ms)).where(
        attempt.c.at_ms > now_ms - WINDOW_MS, ~attempt.c.good
    )
    for column, value, most in (
        (attempt.c.name, name, MOST_FAILURES_PER_NAME),
        (attempt.c.address, address, MOST_FAILURES_PER_ADDRESS),
    ):
        count, first_ms = connection.execute(failures.where(column == value)).one()
        if count >= most:
            minutes = max(1, -(-(first_ms + WINDOW_MS - now_ms) // 60_000))
            raise NotAllowedError(
                "sign-in",
                got=f"{count} failed attempts in 15 minutes",
                allowed=f"fewer than {most}",
                mend=f"Wait {minutes} min and try again.",
            )


def sign_in(
    connection: Connection, *, name: str, password: str, address: str, now_ms: int
) -> Account | None:
    """The account where name and password are right, else None; every attempt is written down."""
    row = connection.execute(select(t.account).where(t.account.c.name == name)).one_or_none()
    # An unknown name costs the same time as a wrong password.
    good = _hasher.verify(password, row.password_hash if row else _decoy()) and row is not None
    connection.execute(
        insert(t.sign_in_attempt).values(name=name, address=address, at_ms=now_ms, good=good)
    )
    return Account(id=row.id, name=row.name) if good and row else None


def open_session(connection: Connection, account: Account, now_ms: int) -> str:
    """A new session; returns the token for the cookie, of which only the hash is kept."""
    token = secrets.token_urlsafe(32)
    connection.execute(delete(t.web_session).where(t.web_session.c.ends_ms < now_ms))
    connection.execute(
        insert(t.web_session).values(
            token_sha256=_digest(token),
            account_id=account.id,
            form_token=secrets.token_urlsafe(24),
            created_ms=now_ms,
            ends_ms=now_ms + SESSION_MS,
        )
    )
    return token


def find_session(connection: Connection, token: str, now_ms: int) -> Session | None:
    """The session of a cookie's token while it lasts."""
    row = connection.execute(
        select(t.account.c.id, t.account.c.name, t.web_session.c.form_token)
        .join_from(t.web_session, t.account)
        .where(t.web_session.c.token_sha256 == _digest(token), t.web_session.c.ends_ms > now_ms)
    ).one_or_none()
    if row is None:
        return None
    return Session(account=Account(id=row.id, name=row.name), form_token=row.form_token)


def close_session(connection: Connection, token: str) -> None:
    """Sign out: the token is worth nothing from here on."""
    connection.execute(delete(t.web_session).where(t.web_session.c.token_sha256 == _digest(token)))


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
