"""Revisions: what was published with a reason; nothing about one ever changes."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection, Row, Select, func, insert, select

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.text import plan_text
from aldea.core.rules.findings import unresolved
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.documents import Document, document_of, known_document
from aldea.store.drafts import DraftMovedError, lock_draft, read_draft
from aldea.store.houses import add_log_entry

MOST_REASON = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """A published plan; nothing about it ever changes."""

    number: int
    document: Document
    author: str
    reason: str
    at_ms: int

    @property
    def plan(self) -> Plan:
        """Its plan."""
        return self.document.plan

    @property
    def text(self) -> str:
        """The text that was signed for, letter by letter."""
        return self.document.text

    @property
    def sha256(self) -> str:
        """The sum of its text."""
        return self.document.sha256


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionNote:
    """What a list tells of a revision: no document."""

    number: int
    sha256: str
    author: str
    reason: str
    at_ms: int


def publish(
    connection: Connection,
    house_id: int,
    *,
    version_read: int,
    reason: str,
    despite: str = "",
    by: Account,
    at_ms: int,
) -> Revision:
    """Make the draft a revision with a reason, and write it into the history.

    It must be the draft that the person looked at (`DraftMovedError`), differ from the newest
    revision, and have a reason; a draft with a severe finding wants a second one, `despite`: why
    the panel may have it all the same. Raises `InputError` at the field that is missing.
    """
    lock_draft(connection, house_id)  # two people never publish the same number
    draft = read_draft(connection, house_id)
    if draft.version != version_read:
        raise DraftMovedError(draft, version_read)
    for refusal in publish_refusals(draft.plan, reason, despite):
        raise refusal
    reason = _with_severe(draft.plan, reason.strip(), despite.strip())
    newest = newest_revision(connection, house_id)
    if newest is not None and plan_text(newest.plan) == draft.text:
        raise InputError(
            "draft",
            text=f"The draft is the same plan as revision {newest.number}. Change something first.",
        )
    number = (newest.number if newest else 0) + 1
    connection.execute(
        insert(t.plan_revision).values(
            house_id=house_id,
            number=number,
            document=draft.text,
            sha256=document_of(draft.text).sha256,
            author_id=by.id,
            reason=reason,
            at_ms=at_ms,
        )
    )
    add_log_entry(
        connection,
        house_id,
        account=by,
        at_ms=at_ms,
        what=f"Revision {number} published: {reason}",
    )
    return revision(connection, house_id, number)


def publish_refusals(plan: Plan, reason: str, despite: str) -> tuple[InputError, ...]:
    """Every word that publishing a plan still wants, each at its field; none where all is said.

    Raises `PlanError` where its rules cannot run: what is published runs on every page.
    """
    compile_plan(plan)
    missing = []
    if not reason.strip():
        missing.append(
            InputError(
                "reason",
                text="Enter the reason for the change in one sentence.",
            )
        )
    trials = [rule for rule in plan.rules if rule.basis == "trial"]
    if trials:
        missing.append(
            InputError(
                "reason",
                text=f"{len(trials)} rule{' stands' if len(trials) == 1 else 's stand'} on a "
                "value for a trial. Enter the true figure at Rule: trial values are not published.",
            )
        )
    left = unresolved(plan)
    if left and not despite.strip():
        missing.append(
            InputError(
                "despite",
                text=f"{len(left)} finding{' is' if len(left) == 1 else 's are'} open at Wire or "
                f"Rule. Fix {'it' if len(left) == 1 else 'them'} there, or enter the reason to "
                f"publish anyway.",
            )
        )
    return tuple(missing)


def _with_severe(plan: Plan, reason: str, despite: str) -> str:
    """The reason, with what is not fixed and why that may be."""
    left = unresolved(plan)
    if not left:
        return reason
    things = "; ".join(finding.head.rstrip(".") for finding in left)
    return f"{reason} Published despite {things}: {despite}"[:MOST_REASON]


def _revisions(house_id: int, *columns: Any) -> Select[Any]:
    return (
        select(*columns, t.account.c.name)
        .join_from(t.plan_revision, t.account)
        .where(t.plan_revision.c.house_id == house_id)
        .order_by(t.plan_revision.c.number.desc())
    )


NOTED = tuple(c for c in t.plan_revision.c if c.name != "document")


def _whole(connection: Connection, house_id: int, row: Row[Any]) -> Revision:
    """A revision with its document, which is fetched where this process has not read it yet."""
    document = known_document(row.sha256)
    if document is None:
        kept = t.plan_revision.c
        text = connection.scalar(
            select(kept.document).where(kept.house_id == house_id, kept.number == row.number)
        )
        document = document_of(str(text))
    return Revision(
        number=row.number,
        document=document,
        author=row.name,
        reason=row.reason,
        at_ms=row.at_ms,
    )


def revision_notes(connection: Connection, house_id: int) -> list[RevisionNote]:
    """All revisions as a list tells them, newest first."""
    return [
        RevisionNote(
            number=row.number,
            sha256=row.sha256,
            author=row.name,
            reason=row.reason,
            at_ms=row.at_ms,
        )
        for row in connection.execute(_revisions(house_id, *NOTED)).all()
    ]


def newest_revision(connection: Connection, house_id: int) -> Revision | None:
    """What the panel runs; None before the first."""
    row = connection.execute(_revisions(house_id, *NOTED).limit(1)).one_or_none()
    return _whole(connection, house_id, row) if row else None


def revision(connection: Connection, house_id: int, number: int) -> Revision:
    """One revision by its number."""
    row = connection.execute(
        _revisions(house_id, *NOTED).where(t.plan_revision.c.number == number)
    ).one_or_none()
    if row is None:
        last = connection.scalar(
            select(func.max(t.plan_revision.c.number)).where(t.plan_revision.c.house_id == house_id)
        )
        raise NotFoundError("revision", got=str(number), allowed=f"1 to {last or 0}")
    return _whole(connection, house_id, row)
