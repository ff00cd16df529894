"""Sessions of browsers: they end by signing out, by lying idle, by a new password, and by age."""

import hashlib
import secrets
from dataclasses import dataclass

from sqlalchemy import Connection, delete, func, insert, or_, select, update

from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.attempts import KEPT_MS

SESSION_MS = 14 * 86_400_000
IDLE_MS = 2 * 86_400_000
SEEN_EVERY_MS = 5 * 60_000  # being seen is written down no oftener


@dataclass(frozen=True, slots=True, kw_only=True)
class Session:
    """A signed-in browser; `form_token` must come back with every change."""

    account: Account
    form_token: str


def open_session(connection: Connection, account: Account, now_ms: int) -> str:
    """A new session; returns the token for the cookie, of which only the hash is kept."""
    token = secrets.token_urlsafe(32)
    connection.execute(
        insert(t.web_session).values(
            token_sha256=_digest(token),
            account_id=account.id,
            form_token=secrets.token_urlsafe(24),
            created_ms=now_ms,
            seen_ms=now_ms,
            ends_ms=now_ms + SESSION_MS,
        )
    )
    return token


def find_session(connection: Connection, token: str, now_ms: int) -> Session | None:
    """The session of a cookie's token while it lasts; it is seen by being asked for."""
    kept = t.web_session.c
    row = connection.execute(
        select(t.account.c.id, t.account.c.name, kept.form_token, kept.seen_ms)
        .join_from(t.web_session, t.account)
        .where(
            kept.token_sha256 == _digest(token),
            kept.ends_ms > now_ms,
            kept.seen_ms > now_ms - IDLE_MS,
        )
    ).one_or_none()
    if row is None:
        return None
    if row.seen_ms < now_ms - SEEN_EVERY_MS:
        connection.execute(
            update(t.web_session).where(kept.token_sha256 == _digest(token)).values(seen_ms=now_ms)
        )
    return Session(account=Account(id=row.id, name=row.name), form_token=row.form_token)


def close_session(connection: Connection, token: str) -> None:
    """Sign out: the token is worth nothing from here on."""
    connection.execute(delete(t.web_session).where(t.web_session.c.token_sha256 == _digest(token)))


def end_sessions(connection: Connection, account: Account, *, but: str = "") -> int:
    """End every session of an account but that of one token; returns how many."""
    kept = t.web_session.c
    ended = connection.execute(
        delete(t.web_session).where(
            kept.account_id == account.id, kept.token_sha256 != _digest(but)
        )
    )
    return ended.rowcount


def sessions_of(connection: Connection, account: Account, now_ms: int) -> int:
    """How many browsers an account is signed in at."""
    kept = t.web_session.c
    count = connection.scalar(
        select(func.count()).where(
            kept.account_id == account.id, kept.ends_ms > now_ms, kept.seen_ms > now_ms - IDLE_MS
        )
    )
    return int(count or 0)


def forget_ended(connection: Connection, now_ms: int) -> None:
    """Take out sessions that are over, and attempts that no wait counts any more."""
    kept, tried = t.web_session.c, t.sign_in_attempt.c
    over = or_(kept.ends_ms <= now_ms, kept.seen_ms <= now_ms - IDLE_MS)
    connection.execute(delete(t.web_session).where(over))
    connection.execute(delete(t.sign_in_attempt).where(tried.at_ms < now_ms - KEPT_MS))


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
