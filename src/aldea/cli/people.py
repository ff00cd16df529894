"""Letting people in: accounts and their roles, from the terminal of the machine that serves."""

import time
from typing import get_args

from sqlalchemy import select

from aldea.cli.opening import open_database
from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.store import tables as t
from aldea.store.accounts import Account, Role, create_account
from aldea.store.houses import set_member
from aldea.store.settings import Settings


def add_account(name: str, password: str) -> None:
    """Make an account; it belongs to no house yet."""
    name = name.strip().lower()
    if not name or len(name) > 80:
        raise InputError("name", got=repr(name), allowed="1 to 80 characters")
    with open_database(Settings()) as database, database.begin() as connection:
        if connection.scalar(select(t.account.c.id).where(t.account.c.name == name)):
            raise ConflictError("name", got=f"{name!r} again", allowed="a name that is free")
        create_account(connection, name=name, password=password, now_ms=time.time_ns() // 1_000_000)


def let_in(house_slug: str, name: str, role: str) -> None:
    """Give an account a role in a house, or another one."""
    if role not in get_args(Role):
        raise InputError("role", got=repr(role), allowed=", ".join(get_args(Role)))
    with open_database(Settings()) as database, database.begin() as connection:
        house = connection.scalar(select(t.house.c.id).where(t.house.c.slug == house_slug))
        account = connection.scalar(select(t.account.c.id).where(t.account.c.name == name.lower()))
        if house is None:
            raise NotFoundError("house", got=repr(house_slug), allowed="the name in its address")
        if account is None:
            raise NotFoundError(
                "account", got=repr(name), allowed="one made with ./aldea account NAME"
            )
        set_member(connection, house, Account(id=account, name=name), role)  # type: ignore[arg-type]
