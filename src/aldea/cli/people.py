"""Letting people in and out, from the terminal of the machine that serves."""

import getpass
import sys
import time
from typing import get_args

from aldea.cli.opening import open_database
from aldea.core.base.errors import InputError
from aldea.store.accounts import (
    Role,
    account_named,
    change_password,
    create_account,
    hashed,
)
from aldea.store.houses import house_named, remove_house, set_member, take_out
from aldea.store.sessions import end_sessions
from aldea.store.settings import Place


def asked_password() -> str:
    """A password asked for twice at the terminal, or one line of what is piped in.

    Never an argument: those stand in the list of processes and in the history of the shell.
    """
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    first = getpass.getpass("Password: ")
    if getpass.getpass("The same again: ") != first:
        raise InputError("password", got="two that differ", allowed="the same one twice")
    return first


def add_account(place: Place, name: str, password: str) -> None:
    """Make an account; it belongs to no house yet."""
    password_hash = hashed(password)
    with open_database(place) as database, database.begin() as connection:
        now_ms = time.time_ns() // 1_000_000
        create_account(connection, name=name, password_hash=password_hash, now_ms=now_ms)


def set_password(place: Place, name: str, password: str) -> None:
    """Give an account another password; whoever was signed in by the old one is signed out."""
    password_hash = hashed(password)
    with open_database(place) as database, database.begin() as connection:
        account = account_named(connection, name)
        change_password(connection, account, password_hash)
        end_sessions(connection, account)


def let_in(place: Place, house_slug: str, name: str, role: str) -> None:
    """Give an account a role in a house, or another one."""
    if role not in get_args(Role):
        allowed = f"{', '.join(get_args(Role))}, or out"
        raise InputError("role", got=repr(role), allowed=allowed)
    with open_database(place) as database, database.begin() as connection:
        house = house_named(connection, house_slug)
        set_member(connection, house, account_named(connection, name), role)  # type: ignore[arg-type]


def let_out(place: Place, house_slug: str, name: str) -> None:
    """Take an account out of a house and end its sessions: what it had open shows nothing new."""
    with open_database(place) as database, database.begin() as connection:
        account = account_named(connection, name)
        take_out(connection, house_named(connection, house_slug), account)
        end_sessions(connection, account)


def remove_for_good(place: Place, house_slug: str, typed_again: str) -> None:
    """Remove a house with its readings, revisions and certificates; nothing brings them back."""
    with open_database(place) as database, database.begin() as connection:
        house = house_named(connection, house_slug)
        if typed_again.strip() != house_slug:
            raise InputError(
                "house", text=f"Nothing was removed: type {house_slug} again to confirm."
            )
        remove_house(connection, house, with_record=True)
