"""Accounts and their passwords; hashing is slow by design and never done in a transaction."""

from dataclasses import dataclass
from functools import cache
from typing import Literal

from pwdlib import PasswordHash
from sqlalchemy import Connection, insert, select, update

from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.store import tables as t

Role = Literal["builder", "householder", "viewer"]
SHORTEST_PASSWORD = 10
LONGEST_PASSWORD = 200
LONGEST_NAME = 80

_hasher = PasswordHash.recommended()  # Argon2id


@cache
def _decoy() -> str:
    return _hasher.hash("nobody has this password")


@dataclass(frozen=True, slots=True, kw_only=True)
class Account:
    """Somebody who can sign in."""

    id: int
    name: str


def name_as_kept(name: str) -> str:
    """A name as it is looked up: without spaces around it, in small letters."""
    return name.strip().lower()


def check_password(password: str) -> None:
    """Raise `InputError` for a new password that is too short or too long."""
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise InputError(
            "password",
            text=f"This password has {len(password)} characters; it needs {SHORTEST_PASSWORD} to "
            f"{LONGEST_PASSWORD}.",
        )


def hashed(password: str) -> str:
    """The Argon2 hash of a new password; `InputError` where it is too short or too long."""
    check_password(password)
    return _hasher.hash(password)


def is_right(password: str, password_hash: str | None) -> bool:
    """Whether a password belongs to a hash; no account costs the same time as a wrong password."""
    return _hasher.verify(password, password_hash or _decoy()) and password_hash is not None


def create_account(
    connection: Connection, *, name: str, password_hash: str, now_ms: int
) -> Account:
    """Make an account; `InputError` for a name that is none, `ConflictError` for a taken one."""
    name = name_as_kept(name)
    if not name.isprintable() or not 1 <= len(name) <= LONGEST_NAME:
        raise InputError(
            "name", got=repr(name)[:100], allowed=f"1 to {LONGEST_NAME} letters, on one line"
        )
    if find_account(connection, name) is not None:
        raise ConflictError("name", text=f"The name “{name}” is in use. Choose another one.")
    row = connection.execute(
        insert(t.account)
        .values(name=name, password_hash=password_hash, created_ms=now_ms)
        .returning(t.account.c.id)
    ).scalar_one()
    return Account(id=row, name=name)


def find_account(connection: Connection, name: str) -> tuple[Account, str] | None:
    """An account and the hash of its password; None where nobody has that name."""
    row = connection.execute(
        select(t.account).where(t.account.c.name == name_as_kept(name))
    ).one_or_none()
    return (Account(id=row.id, name=row.name), row.password_hash) if row else None


def account_named(connection: Connection, name: str) -> Account:
    """The account of a name; `NotFoundError` where there is none."""
    account = find_account(connection, name)
    if account is None:
        raise NotFoundError("account", got=repr(name), allowed="one made with ./aldea account NAME")
    return account[0]


def change_password(connection: Connection, account: Account, password_hash: str) -> None:
    """Put another password's hash in the place of the old one."""
    connection.execute(
        update(t.account).where(t.account.c.id == account.id).values(password_hash=password_hash)
    )
