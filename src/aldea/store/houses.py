"""Houses, who belongs to them, and the history."""

import re
import unicodedata
from dataclasses import dataclass

from sqlalchemy import Connection, delete, func, select, text
from sqlalchemy.dialects.postgresql import insert

from aldea.core.base.errors import ConflictError, NotAllowedError, NotFoundError
from aldea.store import tables as t
from aldea.store.accounts import Account, Role

ONE_AT_A_TIME = text("SELECT pg_advisory_xact_lock(715523)")


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseRow:
    """A house as the store knows it; what it is made of stands in its plan."""

    id: int
    slug: str
    now_ms: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LogEntry:
    """One line of the history."""

    at_ms: int
    who: str
    what: str


def slug_of(name: str) -> str:
    """A name as it can stand in an address: `Molino Alto` → `molino-alto`."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:40] or "house"


def house_named(connection: Connection, slug: str) -> int:
    """The number of a house by its name in addresses; `NotFoundError` where there is none."""
    house_id: int | None = connection.scalar(select(t.house.c.id).where(t.house.c.slug == slug))
    if house_id is None:
        raise NotFoundError("house", got=repr(slug), allowed="the name in its address")
    return house_id


def create_house(
    connection: Connection, *, name: str, owner: Account, created_ms: int, now_ms: int | None = None
) -> HouseRow:
    """A new house whose owner is its builder; the slug is made from the name and unique."""
    base = slug_of(name)
    connection.execute(ONE_AT_A_TIME)  # six people may begin a house of one name at once
    taken = set(
        connection.scalars(select(t.house.c.slug).where(t.house.c.slug.startswith(base))).all()
    )
    slug, number = base, 2
    while slug in taken:
        slug, number = f"{base}-{number}", number + 1
    house_id = connection.execute(
        insert(t.house)
        .values(slug=slug, now_ms=now_ms, created_ms=created_ms)
        .returning(t.house.c.id)
    ).scalar_one()
    set_member(connection, house_id, owner, "builder")
    return HouseRow(id=house_id, slug=slug, now_ms=now_ms)


# The tables whose rows are a record: a trigger refuses every change of them.
GUARDED = text(
    "SELECT DISTINCT c.relname FROM pg_trigger g JOIN pg_class c ON c.oid = g.tgrelid "
    "JOIN pg_proc f ON f.oid = g.tgfoid WHERE f.proname = 'refuse_change'"
)


def remove_house(connection: Connection, house_id: int, *, with_record: bool = False) -> None:
    """Remove a house with all that it has: plan, readings, history.

    Raises `ConflictError` where something was published or signed, for that is kept for good;
    with `with_record` the revisions and certificates go, too.
    """
    for kept, word in ((t.plan_revision, "published"), (t.certificate, "signed")):
        if not with_record and connection.scalar(
            select(func.count()).where(kept.c.house_id == house_id)
        ):
            raise ConflictError(
                "house",
                text=f"In this house something was {word}, and that is kept for good. Only a "
                f"house in which nothing was published or signed can be removed.",
            )
    guarded = connection.scalars(GUARDED).all() if with_record else ()
    for name in guarded:
        connection.execute(text(f'ALTER TABLE "{name}" DISABLE TRIGGER USER'))
    mine = select(t.series.c.id).where(t.series.c.house_id == house_id)
    connection.execute(delete(t.reading).where(t.reading.c.series_id.in_(mine)))
    for table in reversed(t.metadata.sorted_tables):
        if "house_id" in table.c:
            connection.execute(delete(table).where(table.c.house_id == house_id))
    for name in guarded:  # in the same transaction: no other sees them without
        connection.execute(text(f'ALTER TABLE "{name}" ENABLE TRIGGER USER'))
    connection.execute(delete(t.house).where(t.house.c.id == house_id))


def only_begun(connection: Connection, house_ids: list[int]) -> frozenset[int]:
    """Those of some houses in which nothing was published or signed: they can be taken back."""
    kept = select(t.plan_revision.c.house_id).union(select(t.certificate.c.house_id))
    grown = set(connection.scalars(kept))
    return frozenset(house for house in house_ids if house not in grown)


def set_member(connection: Connection, house_id: int, account: Account, role: Role) -> None:
    """Let an account into a house, or give it another role there."""
    connection.execute(
        insert(t.membership)
        .values(house_id=house_id, account_id=account.id, role=role)
        .on_conflict_do_update(index_elements=["house_id", "account_id"], set_={"role": role})
    )


def take_out(connection: Connection, house_id: int, account: Account) -> None:
    """Let an account into a house no longer; `NotFoundError` where it was not in it."""
    gone = connection.execute(
        delete(t.membership).where(
            t.membership.c.house_id == house_id, t.membership.c.account_id == account.id
        )
    )
    if gone.rowcount == 0:
        raise NotFoundError("member", got=repr(account.name), allowed="somebody of this house")


def house_for(connection: Connection, slug: str, account: Account) -> tuple[HouseRow, Role]:
    """The house and the account's role in it; to strangers it does not exist."""
    row = connection.execute(
        select(t.house, t.membership.c.role)
        .join_from(t.house, t.membership)
        .where(t.house.c.slug == slug, t.membership.c.account_id == account.id)
    ).one_or_none()
    if row is None:
        raise NotFoundError("house", got=repr(slug), allowed="a house that you belong to")
    return HouseRow(id=row.id, slug=row.slug, now_ms=row.now_ms), row.role


def houses_of(connection: Connection, account: Account) -> list[tuple[HouseRow, Role, str]]:
    """Every house of an account with its role and the plan's text, oldest first."""
    rows = connection.execute(
        select(t.house, t.membership.c.role, t.plan_draft.c.document)
        .join_from(t.house, t.membership)
        .join(t.plan_draft, t.plan_draft.c.house_id == t.house.c.id)
        .where(t.membership.c.account_id == account.id)
        .order_by(t.house.c.id)
    ).all()
    return [
        (HouseRow(id=row.id, slug=row.slug, now_ms=row.now_ms), row.role, row.document)
        for row in rows
    ]


def is_builder_somewhere(connection: Connection, account: Account) -> bool:
    """Whether the account builds in any house, and so may begin another; anybody the first."""
    if not connection.scalar(select(func.count()).select_from(t.house)):
        return True
    query = select(func.count()).where(
        t.membership.c.account_id == account.id, t.membership.c.role == "builder"
    )
    return bool(connection.scalar(query))


def check_may_begin(connection: Connection, account: Account) -> None:
    """Raise `NotAllowedError` for somebody who builds in no house; decides one by one."""
    connection.execute(ONE_AT_A_TIME)
    if not is_builder_somewhere(connection, account):
        raise NotAllowedError(
            "role",
            text="You belong to no house as a builder yet. A builder can create one and add you.",
        )


def add_log_entry(
    connection: Connection, house_id: int, *, account: Account | None, at_ms: int, what: str
) -> None:
    """Add a line to the history."""
    connection.execute(
        insert(t.log_book).values(
            house_id=house_id, at_ms=at_ms, account_id=account.id if account else None, what=what
        )
    )


def log_entries(connection: Connection, house_id: int, most: int = 60) -> list[LogEntry]:
    """The newest lines of the history, newest first."""
    rows = connection.execute(
        select(t.log_book.c.at_ms, t.log_book.c.what, t.account.c.name)
        .join_from(t.log_book, t.account, isouter=True)
        .where(t.log_book.c.house_id == house_id)
        .order_by(t.log_book.c.id.desc())
        .limit(most)
    ).all()
    return [LogEntry(at_ms=row.at_ms, who=row.name or "Aldea", what=row.what) for row in rows]
