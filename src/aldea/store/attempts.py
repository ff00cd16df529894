"""Attempts to sign in: each written down before it is looked at, each wrong one a longer wait.

Nobody can lock another out: what is counted for a wait is what came from the same address, and no
wait is longer than half a minute (docs/decisions/0013).
"""

from dataclasses import dataclass

from sqlalchemy import Connection, func, insert, select, text, update
from sqlalchemy.sql import ColumnElement

from aldea.core.base.errors import AldeaError
from aldea.store import tables as t
from aldea.store.accounts import Account, find_account, name_as_kept

WINDOW_MS = 15 * 60_000
KEPT_MS = 30 * 86_400_000
FREE_OF_A_NAME = 3  # wrong passwords of one name from one address before any wait
FREE_OF_AN_ADDRESS = 10  # of any names
LONGEST_WAIT_S = 30
TURN = text("SELECT pg_advisory_xact_lock(:of, hashtext(:what))")
OF_AN_ADDRESS, OF_A_NAME = 715521, 715522


class TooSoonError(AldeaError):
    """Another attempt before the wait after the last one is over."""

    def __init__(self, wait_s: int) -> None:
        self.wait_s = wait_s
        super().__init__(
            "sign-in",
            text=f"That was too soon after wrong passwords. Wait {wait_s} s and try again.",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """An attempt that may be looked at; `account` is None where nobody has that name."""

    id: int
    account: Account | None
    password_hash: str | None


def begin_attempt(connection: Connection, *, name: str, address: str, now_ms: int) -> Attempt:
    """Write an attempt down as a wrong one, or raise `TooSoonError`.

    Attempts of one address, and of one name, take turns: many at once are counted one by one.
    """
    name = name_as_kept(name)
    connection.execute(TURN, {"of": OF_AN_ADDRESS, "what": address})
    connection.execute(TURN, {"of": OF_A_NAME, "what": name})
    tried = t.sign_in_attempt.c
    wait_ms = max(
        _wait_ms(connection, now_ms, FREE_OF_A_NAME, tried.address == address, tried.name == name),
        _wait_ms(connection, now_ms, FREE_OF_AN_ADDRESS, tried.address == address),
    )
    if wait_ms > 0:
        raise TooSoonError(-(-wait_ms // 1000))
    number = connection.execute(
        insert(t.sign_in_attempt)
        .values(name=name, address=address, at_ms=now_ms, good=False)
        .returning(tried.id)
    ).scalar_one()
    holder = find_account(connection, name)
    account, password_hash = holder or (None, None)
    return Attempt(id=number, account=account, password_hash=password_hash)


def attempt_was_good(connection: Connection, attempt: Attempt) -> bool:
    """Its password was right: what came before no longer counts.

    False where the password is another one by now, or the account is gone: it lets nobody in.
    """
    holder = attempt.account and find_account(connection, attempt.account.name)
    if not holder or holder[1] != attempt.password_hash:
        return False
    connection.execute(
        update(t.sign_in_attempt).where(t.sign_in_attempt.c.id == attempt.id).values(good=True)
    )
    return True


def wait_after_s(wrong: int, free: int) -> int:
    """Seconds to wait after so many wrong ones: none, then 1, 2, 4 … and never over the longest."""
    return 0 if wrong < free else min(2 ** min(wrong - free, 16), LONGEST_WAIT_S)


def _wait_ms(connection: Connection, now_ms: int, free: int, *of: ColumnElement[bool]) -> int:
    tried = t.sign_in_attempt.c
    good = select(func.coalesce(func.max(tried.id), 0)).where(*of, tried.good).scalar_subquery()
    wrong, last_ms = connection.execute(
        select(func.count(), func.max(tried.at_ms)).where(
            *of, tried.at_ms > now_ms - WINDOW_MS, ~tried.good, tried.id > good
        )
    ).one()
    if not wrong:
        return 0
    return int(last_ms) + wait_after_s(wrong, free) * 1000 - now_ms
