"""Drafts with a version check, and immutable revisions."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

from sqlalchemy import Connection, Row, Select, bindparam, delete, func, insert, select, update

from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.merging import merged
from aldea.core.plan.text import plan_sha256, plan_text, read_plan
from aldea.core.rules.findings import unmended
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.houses import add_log_entry

MOST_STEPS = 200
MOST_REASON = 2000


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
    connection.execute(insert(t.draft_version).values(house_id=house_id, version=1, step=0))


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


def keep_change(
    connection: Connection,
    house_id: int,
    change: Callable[[Plan], Plan],
    *,
    version_read: int,
    by: Account,
    at_ms: int,
    what: str,
) -> Draft:
    """Make a change to the draft as it was read, and keep it.

    Where somebody else changed it since, both changes are put together if they touched different
    parts. Raises `DraftMovedError` where they touched the same one, or where the two do not fit
    together; what the change itself refuses comes through. Nothing is written then.
    """
    lock_draft(connection, house_id)
    draft = read_draft(connection, house_id)
    base = draft.plan
    if draft.version != version_read:
        text = connection.scalar(_text_at(house_id, version_read))
        if text is None:  # too long ago, or taken back and written over
            raise DraftMovedError(draft, version_read)
        base = parsed(text)
    mine = change(base)
    if mine == base:
        return draft
    made = mine if base is draft.plan else merged(base, mine, draft.plan)
    if made is None:
        raise DraftMovedError(draft, version_read)
    return keep_draft(
        connection, house_id, made, version_read=draft.version, by=by, at_ms=at_ms, what=what
    )


def lock_draft(connection: Connection, house_id: int) -> None:
    """Let others who change the draft, publish or sign in this house wait for the transaction."""
    connection.execute(
        select(t.plan_draft.c.version).where(t.plan_draft.c.house_id == house_id).with_for_update()
    )


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
        .values(version=version_read + 1, document=text, changed_ms=at_ms, changed_by=by.id)
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
    despite: str = "",
    by: Account,
    at_ms: int,
) -> Revision:
    """Make the draft a revision with a reason, and write it into the log book.

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
    if newest is not None and newest.text == draft.text:
        raise InputError(
            "draft",
            got=f"the same plan as revision {newest.number}",
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
                got="nothing",
                allowed="a sentence",
                mend="Say why the panel should change.",
            )
        )
    trials = [claim for claim in plan.claims if claim.basis == "stand_in"]
    if trials:
        missing.append(
            InputError(
                "reason",
                got=f"{len(trials)} claim{'' if len(trials) == 1 else 's'} with a stand-in value",
                allowed="figures that are meant",
                mend="Say the true figure at Rule; what stands in for a trial is not published.",
            )
        )
    left = unmended(plan)
    if left and not despite.strip():
        missing.append(
            InputError(
                "despite",
                got=f"{len(left)} open findings",
                allowed="a written reason, or the mend",
                said=f"{len(left)} finding{' is' if len(left) == 1 else 's are'} open at Wire or "
                "Rule. Mend them there, or write why you publish anyway.",
            )
        )
    return tuple(missing)


def _with_severe(plan: Plan, reason: str, despite: str) -> str:
    """The reason, with what is not mended and why that may be."""
    left = unmended(plan)
    if not left:
        return reason
    things = "; ".join(finding.head.rstrip(".") for finding in left)
    return f"{reason} Published despite {things}: {despite}"[:MOST_REASON]


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
        raise NotFoundError("revision", got=str(number), allowed=f"1 to {last or 0}")
    return _revision_from_row(row)
