"""The Record bench: revisions, plan files, what is recorded, the history."""

import hashlib
from dataclasses import dataclass

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from aldea.core.base.errors import AldeaError, InputError, NotFoundError
from aldea.core.base.numbers import whole_of
from aldea.core.plan.changes import PlanChange, plan_changes
from aldea.core.plan.document import Plan
from aldea.core.plan.excerpt import excerpt
from aldea.core.plan.text import plan_text
from aldea.core.words.changed_rules import RuleChange, rule_changes
from aldea.store.drafts import DraftMovedError
from aldea.store.houses import log_entries
from aldea.store.imports import (
    imports_of,
)
from aldea.store.reading_cache import series_of
from aldea.store.reading_changes import changes_of
from aldea.store.revisions import RevisionNote, publish, publish_refusals, revision, revision_notes
from aldea.web.benches.record.view import record_verdict, unresolved_of
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.forms import Fields
from aldea.web.shell.page import (
    OpenHouse,
    open_house,
    render_bench,
    timeline_now,
)
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def record_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    """Revisions, readings, imports and the history, with what was refused in its fields."""
    house = opened.access.house.id
    with state.database.begin() as connection:
        notes = revision_notes(connection, house)
        compared = _compared(request, connection, opened, notes)
        recorded = series_of(connection, house)
        runs = imports_of(connection, house)
        lines = log_entries(connection, house)
        moved = changes_of(connection, house)
    changed = plan_changes(opened.revision.plan, opened.plan) if opened.revision else ()
    return render_bench(
        request,
        "record/record.html",
        opened,
        current="record",
        timeline=timeline_now(request, state, opened),
        status=status,
        made=notes,
        recorded=recorded,
        runs=runs,
        lines=lines,
        changed=changed,
        compared=compared,
        verdict_words=record_verdict(opened.draft.version, notes, changed, recorded),
        unresolved=unresolved_of(opened.plan, opened.today),
        may_publish=bool(changed) or not notes,
        next_number=notes[0].number + 1 if notes else 1,
        probes=opened.plan.probes,
        moved=moved,
        probe_options=[(p.id, p.name) for p in opened.plan.probes],
        probe_names={p.id: p.name for p in opened.plan.probes},
        errors=errors or {},
        typed=typed or {},
        version=opened.draft.version,
        undo_back=f"{opened.base}/record",
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """Two states of the plan, by the names in `sides`, and what differs between them."""

    first: str
    second: str
    sides: tuple[tuple[str, str], ...]
    values: tuple[PlanChange, ...]
    rules: tuple[RuleChange, ...]


def _compared(
    request: Request, connection: Connection, opened: OpenHouse, notes: list[RevisionNote]
) -> Compared | None:
    """The two that the address asks for: the newest revision and the draft where it asks none."""
    if not notes:
        return None
    numbers = {str(note.number): note.number for note in notes}
    newest = str(notes[0].number)
    newest_two = request.query_params.get("from", newest)
    first = newest_two if newest_two in numbers else newest
    newest_two = request.query_params.get("to", "draft")
    second = newest_two if newest_two in numbers else "draft"

    def plan_of(side: str) -> Plan:
        if side == "draft":
            return opened.plan
        if opened.revision is not None and opened.revision.number == numbers[side]:
            return opened.revision.plan
        return revision(connection, opened.access.house.id, numbers[side]).plan

    was, now = plan_of(first), plan_of(second)
    return Compared(
        first=first,
        second=second,
        sides=(
            ("draft", f"draft {opened.draft.version}"),
            *((n, f"revision {n}") for n in numbers),
        ),
        values=plan_changes(was, now),
        rules=rule_changes(was, now),
    )


@router.get("/record")
def record(request: Request, state: State, access: MemberAccess) -> Response:
    """Revisions, readings, history."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return record_page(request, state, opened)


@router.post("/record/publish")
def publish_draft(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Make the draft the next revision; every word that is missing is asked at once."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    reason, despite = fields.text("reason"), fields.text("despite")
    status = 422
    try:
        version = version_of(typed)
        fields.check()
        with state.database.begin() as connection:
            publish(
                connection,
                access.house.id,
                version_read=version,
                reason=reason,
                despite=despite,
                by=access.account,
                at_ms=access.now_ms,
            )
    except (InputError, DraftMovedError) as exc:
        if isinstance(exc, DraftMovedError):
            status = 409
        if not fields.errors:
            fields.refuse_error(exc.where if exc.where == "despite" else "reason", exc)
    else:
        return RedirectResponse(f"/h/{access.house.slug}/record", status_code=303)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    if status == 422:
        for refusal in publish_refusals(opened.plan, reason, despite):
            fields.refuse_error(refusal.where, refusal)
    return record_page(request, state, opened, errors=fields.errors, typed=typed, status=status)


@router.post("/record/take-back")
def take_back(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Make the draft what a revision was: a step of the draft, that undo takes back."""
    typed = {k: str(v) for k, v in form.items()}
    number = whole_of(typed.get("number", ""))
    try:
        if number is None:
            raise InputError("revision", got="no number", allowed="a published revision")
        with state.database.begin() as connection:
            plan = revision(connection, access.house.id, number).plan
        what = f"Draft set back to revision {number}"
        edit_draft(state, access, version_of(typed), lambda _: plan, what)
    except (AldeaError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        status = 409 if isinstance(exc, DraftMovedError) else 422
        errors = {"reason": exc.sentence}
        return record_page(request, state, opened, errors=errors, status=status)
    return RedirectResponse(f"/h/{access.house.slug}/record", status_code=303)


def _plan_file(text: str, name: str) -> Response:
    return Response(
        text,
        media_type="application/json",
        headers={
            "Content-Disposition": f'attachment; filename="{name}"',
            "X-Content-SHA256": hashlib.sha256(text.encode()).hexdigest(),
        },
    )


@router.get("/record/plan.json")
def draft_file(state: State, access: MemberAccess) -> Response:
    """The draft as a plan file."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return _plan_file(opened.draft.text, f"{access.house.slug}-draft.json")


@router.get("/record/loads/{load_id}.json")
def load_file(state: State, access: MemberAccess, load_id: str) -> Response:
    """The draft of one load alone as a plan file: a small house of what its rules need."""
    with state.database.begin() as connection:
        plan = open_house(connection, access).plan
    if plan.load(load_id) is None:
        raise NotFoundError("load", got=repr(load_id)[:60], allowed="a load of this house")
    text = plan_text(excerpt(plan, frozenset({load_id})))
    return _plan_file(text, f"{access.house.slug}-{load_id}.json")


@router.get("/record/revisions/{number}.json")
def revision_file(state: State, access: MemberAccess, number: int) -> Response:
    """A revision as a plan file."""
    with state.database.begin() as connection:
        kept_revision = revision(connection, access.house.id, number)
    return _plan_file(kept_revision.text, f"{access.house.slug}-{number}.json")
