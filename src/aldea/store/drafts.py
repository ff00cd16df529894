"""Drafts: edited at a version, each edit one step that can be undone."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import Connection, Select, bindparam, delete, insert, select, update

from aldea.core.base.errors import ConflictError, InputError
from aldea.core.plan.document import Plan
from aldea.core.plan.merging import merged, merged_over
from aldea.core.plan.text import plan_sha256, plan_text
from aldea.core.wiring.numbers import with_numbers
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.documents import document_of, known_document
from aldea.store.houses import add_log_entry

MOST_STEPS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """The one draft of a house at a version; what can be taken back and done again."""

    version: int
    plan: Plan
    text: str
    changed_ms: int
    changed_by: str
    step: int
    undo: str | None
    redo: str | None


class DraftMovedError(ConflictError):
    """The draft was changed by somebody else since it was read; `current` is what it is now."""

    def __init__(self, current: Draft, version_read: int) -> None:
        self.current = current
        self.version_read = version_read
        super().__init__(
            "draft",
            text=f"{current.changed_by} kept version {current.version} of the draft since you read "
            f"version {version_read}. Look at the difference and choose.",
        )


def begin_draft(connection: Connection, house_id: int, plan: Plan, by: Account, at_ms: int) -> None:
    """The first draft of a new house."""
    connection.execute(
        insert(t.plan_draft).values(
            house_id=house_id,
            version=1,
            document=plan_text(plan),
            sha256=plan_sha256(plan_text(plan)),
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
    connection.execute(insert(t.draft_version).values(house_id=house_id, version=1, step=0))


def _draft_statement(*columns: Any) -> Select[Any]:
    here, before, after = t.plan_step, t.plan_step.alias(), t.plan_step.alias()

    def beside(other: Any, step: Any) -> Any:
        return (other.c.house_id == t.plan_draft.c.house_id) & (other.c.step == step)

    return (
        select(
            *columns,
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


# Put together once: every page asks it, and nearly every one knows the text of the digest.
DRAFT = _draft_statement(*(c for c in t.plan_draft.c if c.name != "document"))
DRAFT_WITH_TEXT = _draft_statement(t.plan_draft)


def read_draft(connection: Connection, house_id: int) -> Draft:
    """The draft as it is now."""
    row = connection.execute(DRAFT, {"house": house_id}).one()
    document = known_document(row.sha256)
    if document is None:
        # All of it again, for somebody may have changed it in between.
        row = connection.execute(DRAFT_WITH_TEXT, {"house": house_id}).one()
        document = document_of(row.document)
    return Draft(
        version=row.version,
        plan=document.plan,
        text=plan_text(document.plan),  # in today's words, whatever it was kept in
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
    document_of(text)
    step = _write(connection, house_id, text, version_read=version_read, by=by, at_ms=at_ms)
    steps = t.plan_step
    connection.execute(delete(steps).where(steps.c.house_id == house_id, steps.c.step > step))
    # Their numbers are given anew: the versions that stood at them are not to be had any more.
    cut = t.draft_version.c.step > step
    connection.execute(delete(t.draft_version).where(t.draft_version.c.house_id == house_id, cut))
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


def keep_change(
    connection: Connection,
    house_id: int,
    change: Callable[[Plan], Plan],
    *,
    version_read: int,
    by: Account,
    at_ms: int,
    what: str,
    begun_at: int | None = None,
) -> Draft:
    """Make a change to the draft as it was read, and keep it.

    Where somebody else changed it since, both changes are put together if they touched different
    parts. With `begun_at`, the version at which the change was begun, the person has seen the
    difference and said that theirs goes over it: field by field. Raises `DraftMovedError` where
    both touched the same part, or where the two do not fit together; what the change itself
    refuses comes through. Nothing is written then.
    """
    lock_draft(connection, house_id)
    draft = read_draft(connection, house_id)
    if begun_at is not None and version_read == draft.version:
        base = plan_at(connection, house_id, begun_at, draft)
        changed = merged_over(base, change(base), draft.plan) or change(draft.plan)
        if changed == draft.plan:
            return draft
    else:
        base = plan_at(connection, house_id, version_read, draft)
        mine = change(base)
        if mine == base:
            return draft
        both = mine if base is draft.plan else merged(base, mine, draft.plan)
        if both is None:
            raise DraftMovedError(draft, begun_at or version_read)
        changed = both
    return keep_draft(
        connection, house_id, changed, version_read=draft.version, by=by, at_ms=at_ms, what=what
    )


def change_draft(
    connection: Connection,
    house_id: int,
    change: Callable[[Plan], Plan],
    *,
    version_read: int,
    by: Account,
    at_ms: int,
    what: str,
    begun_at: int | None = None,
) -> Draft:
    """Make a change as a person does: kept with the numbers of new conductors, and written down.

    Refuses what `keep_change` refuses; nothing is written then, nor where nothing changes.
    """
    lock_draft(connection, house_id)  # or another's edit would count as a change of this one
    before = read_draft(connection, house_id)
    kept = keep_change(
        connection,
        house_id,
        lambda plan: with_numbers(plan, change(plan)),
        version_read=version_read,
        by=by,
        at_ms=at_ms,
        what=what,
        begun_at=begun_at,
    )
    if kept.version != before.version:
        add_log_entry(connection, house_id, account=by, at_ms=at_ms, what=f"{what}.")
    return kept


def lock_draft(connection: Connection, house_id: int) -> None:
    """Let others who change the draft, publish or sign in this house wait for the transaction."""
    connection.execute(
        select(t.plan_draft.c.version).where(t.plan_draft.c.house_id == house_id).with_for_update()
    )


def plan_at(connection: Connection, house_id: int, version: int, draft: Draft) -> Plan:
    """The draft's plan as it was at a version; `draft` is what it is now.

    Raises `DraftMovedError` where that was too long ago, or taken back and written over.
    """
    if draft.version == version:
        return draft.plan
    text = connection.scalar(_text_at(house_id, version))
    if text is None:
        raise DraftMovedError(draft, version)
    return document_of(text).plan


def change_over(
    connection: Connection, house_id: int, moved: DraftMovedError, change: Callable[[Plan], Plan]
) -> Plan:
    """The plan as it would be with a change put over what was kept meanwhile; nothing is written.

    A version too old to be known is taken as what is there now.
    """
    try:
        base = plan_at(connection, house_id, moved.version_read, moved.current)
    except DraftMovedError:
        base = moved.current.plan
    return merged_over(base, change(base), moved.current.plan) or change(moved.current.plan)


def _text_at(house_id: int, version: int) -> Select[Any]:
    return (
        select(t.plan_step.c.document)
        .join_from(
            t.draft_version,
            t.plan_step,
            (t.plan_step.c.house_id == t.draft_version.c.house_id)
            & (t.plan_step.c.step == t.draft_version.c.step),
        )
        .where(t.draft_version.c.house_id == house_id, t.draft_version.c.version == version)
    )


def _write(
    connection: Connection, house_id: int, text: str, *, version_read: int, by: Account, at_ms: int
) -> int:
    """Write the draft's text; returns the step at which it stood before."""
    step: int | None = connection.scalar(
        update(t.plan_draft)
        .where(t.plan_draft.c.house_id == house_id, t.plan_draft.c.version == version_read)
        .values(
            version=version_read + 1,
            document=text,
            sha256=plan_sha256(text),
            changed_ms=at_ms,
            changed_by=by.id,
        )
        .returning(t.plan_draft.c.step)
    )
    if step is None:
        raise DraftMovedError(read_draft(connection, house_id), version_read)
    return step


def _stand_at(connection: Connection, house_id: int, step: int) -> None:
    version = connection.scalar(
        update(t.plan_draft)
        .where(t.plan_draft.c.house_id == house_id)
        .values(step=step)
        .returning(t.plan_draft.c.version)
    )
    table = t.draft_version
    connection.execute(insert(table).values(house_id=house_id, version=version, step=step))
    connection.execute(
        delete(table).where(
            table.c.house_id == house_id, table.c.version <= (version or 0) - MOST_STEPS
        )
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

    Raises `InputError` where there is nothing to undo or do again, `DraftMovedError` where
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
        word = "undo" if direction < 0 else "redo"
        raise InputError(
            "draft",
            text=f"There is nothing to {word}; the last {MOST_STEPS} edits are kept.",
        )
    _write(connection, house_id, text, version_read=version_read, by=by, at_ms=at_ms)
    _stand_at(connection, house_id, target)
    return read_draft(connection, house_id)
