"""Drafts with a version check, and immutable revisions."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

from sqlalchemy import Connection, Row, Select, bindparam, delete, func, insert, select, update

from aldea.core.errors import ConflictError, InputError, NotFoundError
from aldea.core.plan.codec import plan_sha256, plan_text, read_plan
from aldea.core.plan.document import Plan
from aldea.store import tables as t
from aldea.store.accounts import Account

MOST_STEPS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """The one draft of a house at a version; what can be taken back and done again."""

    version: int
    plan: Plan
    text: str
    based_on: int | None
    changed_ms: int
    changed_by: str
    step: int
    undo: str | None
    redo: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """A published plan; nothing about it ever changes."""

    number: int
    text: str
    sha256: str
    author: str
    reason: str
    at_ms: int

    @property
    def plan(self) -> Plan:
        """The document."""
        return parsed(self.text)


@lru_cache(maxsize=64)
def parsed(text: str) -> Plan:
    """A plan that was checked when it was written; read once per text."""
    return read_plan(text)


class DraftMovedError(ConflictError):
    """The draft was changed by somebody else since it was read; `current` is what it is now."""

    def __init__(self, current: Draft, version_read: int) -> None:
        self.current = current
        super().__init__(
            "draft",
            got=f"a change made on version {version_read}",
            allowed=f"version {current.version}, kept by {current.changed_by} since",
            mend="Look at the difference and choose.",
        )


def begin_draft(connection: Connection, house_id: int, plan: Plan, by: Account, at_ms: int) -> None:
    """The first draft of a new house."""
    connection.execute(
        insert(t.plan_draft).values(
            house_id=house_id,
            version=1,
            document=plan_text(plan),
            changed_ms=at_ms,
            changed_by=by.id,
        )
    )
    connection.execute(
        insert(t.plan_step).values(
            house_id=house_id,
            step=0,
            document=plan_text(plan),
            what="the beginning",
            by_id=by.id,
            at_ms=at_ms,
        )
    )


def _draft_statement() -> Select[Any]:
    here, before, after = t.plan_step, t.plan_step.alias(), t.plan_step.alias()

    def beside(other: Any, step: Any) -> Any:
        return (other.c.house_id == t.plan_draft.c.house_id) & (other.c.step == step)

    return (
        select(
            t.plan_draft,
            t.account.c.name,
            here.c.what.label("what_here"),
            before.c.step.label("step_before"),
            after.c.what.label("what_after"),
        )
        .join_from(t.plan_draft, t.account)
        .outerjoin(here, beside(here, t.plan_draft.c.step))
        .outerjoin(before, beside(before, t.plan_draft.c.step - 1))
        .outerjoin(after, beside(after, t.plan_draft.c.step + 1))
        .where(t.plan_draft.c.house_id == bindparam("house"))
    )


DRAFT = _draft_statement()  # put together once: every page asks it


def read_draft(connection: Connection, house_id: int) -> Draft:
    """The draft as it is now."""
    row = connection.execute(DRAFT, {"house": house_id}).one()
    return Draft(
        version=row.version,
        plan=parsed(row.document),
        text=row.document,
        based_on=row.based_on,
        changed_ms=row.changed_ms,
        changed_by=row.name,
        step=row.step,
        undo=row.what_here if row.step_before is not None else None,
        redo=row.what_after,
    )


def keep_draft(
    connection: Connection,
    house_id: int,
    plan: Plan,
    *,
    version_read: int,
    by: Account,
    at_ms: int,
    what: str = "a change",
) -> Draft:
    """Write the draft if it still is at the version at which it was read; one step that undoes.

    Raises `DraftMovedError` with what it is now; nothing is written then. A plan that does not
    fit together raises `PlanError`.
    """
    text = plan_text(plan)
    read_plan(text)
    step = _write(connection, house_id, text, version_read=version_read, by=by, at_ms=at_ms)
    steps = t.plan_step
    connection.execute(delete(steps).where(steps.c.house_id == house_id, steps.c.step > step))
    connection.execute(
        delete(steps).where(steps.c.house_id == house_id, steps.c.step < step + 1 - MOST_STEPS)
    )
    connection.execute(
        insert(steps).values(
            house_id=house_id,
            step=step + 1,
            document=text,
            what=what[:200],
            by_id=by.id,
            at_ms=at_ms,
        )
    )
    _stand_at(connection, house_id, step + 1)
    return read_draft(connection, house_id)


def _write(
    connection: Connection, house_id: int, text: str, *, version_read: int, by: Account, at_ms: int
) -> int:
    """Write the draft's text; returns the step at which it stood before."""
    step: int | None = connection.scalar(
        update(t.plan_draft)
        .where(t.plan_draft.c.house_id == house_id, t.plan_draft.c.version == version_read)
        .values(version=version_read + 1, document=text, changed_ms=at_ms, changed_by=by.id)
        .returning(t.plan_draft.c.step)
    )
    if step is None:
        raise DraftMovedError(read_draft(connection, house_id), version_read)
    return step


def _stand_at(connection: Connection, house_id: int, step: int) -> None:
    connection.execute(
        update(t.plan_draft).where(t.plan_draft.c.house_id == house_id).values(step=step)
    )


def step_draft(
    connection: Connection,
    house_id: int,
    direction: Literal[-1, 1],
    *,
    version_read: int,
    by: Account,
    at_ms: int,
) -> Draft:
    """Take the last edit back, or do the next one again; a new version either way.

    Raises `InputError` where there is nothing to take back or do again, `DraftMovedError` where
    somebody else changed the draft in between.
    """
    draft = read_draft(connection, house_id)
    target = draft.step + direction
    text = connection.scalar(
        select(t.plan_step.c.document).where(
            t.plan_step.c.house_id == house_id, t.plan_step.c.step == target
        )
    )
    if text is None:
        raise InputError(
            "draft",
            got="nothing to take back" if direction < 0 else "nothing to do again",
            allowed=f"the last {MOST_STEPS} edits",
        )
    _write(connection, house_id, text, version_read=version_read, by=by, at_ms=at_ms)
    _stand_at(connection, house_id, target)
    return read_draft(connection, house_id)


def publish(
    connection: Connection,
    house_id: int,
    *,
    version_read: int,
    reason: str,
    by: Account,
    at_ms: int,
) -> Revision:
    """Make the draft a revision with a reason; it must be the draft that the person looked at."""
    if not reason.strip():
        raise InputError(
            "reason", got="nothing", allowed="a sentence", mend="Say why the panel should change."
        )
    # The row lock keeps two people from publishing the same number.
    connection.execute(
        select(t.plan_draft.c.version).where(t.plan_draft.c.house_id == house_id).with_for_update()
    )
    draft = read_draft(connection, house_id)
    if draft.version != version_read:
        raise DraftMovedError(draft, version_read)
    newest = newest_revision(connection, house_id)
    if newest is not None and newest.text == draft.text:
        raise InputError(
            "draft",
            got=f"the same plan as program {newest.number}",
            allowed="a draft that differs",
            mend="Change something first.",
        )
    number = (newest.number if newest else 0) + 1
    connection.execute(
        insert(t.plan_revision).values(
            house_id=house_id,
            number=number,
            document=draft.text,
            sha256=plan_sha256(draft.text),
            author_id=by.id,
            reason=reason.strip(),
            at_ms=at_ms,
        )
    )
    connection.execute(
        update(t.plan_draft).where(t.plan_draft.c.house_id == house_id).values(based_on=number)
    )
    return revision(connection, house_id, number)


def _revisions(house_id: int) -> Select[Any]:
    return (
        select(t.plan_revision, t.account.c.name)
        .join_from(t.plan_revision, t.account)
        .where(t.plan_revision.c.house_id == house_id)
        .order_by(t.plan_revision.c.number.desc())
    )


def _revision_from_row(row: Row[Any]) -> Revision:
    return Revision(
        number=row.number,
        text=row.document,
        sha256=row.sha256,
        author=row.name,
        reason=row.reason,
        at_ms=row.at_ms,
    )


def revisions(connection: Connection, house_id: int) -> list[Revision]:
    """All revisions, newest first."""
    return [_revision_from_row(row) for row in connection.execute(_revisions(house_id)).all()]


def newest_revision(connection: Connection, house_id: int) -> Revision | None:
    """What the panel runs; None before the first."""
    row = connection.execute(_revisions(house_id).limit(1)).one_or_none()
    return _revision_from_row(row) if row else None


def revision(connection: Connection, house_id: int, number: int) -> Revision:
    """One revision by its number."""
    row = connection.execute(
        _revisions(house_id).where(t.plan_revision.c.number == number)
    ).one_or_none()
    if row is None:
        last = connection.scalar(
            select(func.max(t.plan_revision.c.number)).where(t.plan_revision.c.house_id == house_id)
        )
        raise NotFoundError("program", got=str(number), allowed=f"1 to {last or 0}")
    return _revision_from_row(row)
