"""Who signs in to the demo house, and whether it is there: what a start has to know of it."""

from sqlalchemy import select

from aldea.store import tables as t
from aldea.store.accounts import Role, find_account, is_right
from aldea.store.database import Database

SLUG = "molino-alto"
PASSWORD = "mill-race-demo"  # noqa: S105  printed by the start command, for made-up data only
SIGN_INS: tuple[tuple[str, Role], ...] = (
    ("jon", "builder"),
    ("ines", "householder"),
    ("guest", "viewer"),
)


def is_loaded(database: Database) -> bool:
    """Whether the demo house is there."""
    with database.begin() as connection:
        return connection.scalar(select(t.house.c.id).where(t.house.c.slug == SLUG)) is not None


def holds_demo_accounts(database: Database) -> bool:
    """Whether anybody could sign in by what the demo prints."""
    with database.begin() as connection:
        accounts = [find_account(connection, name) for name, _ in SIGN_INS]
    return any(account and is_right(PASSWORD, account[1]) for account in accounts)
