"""The Record bench: programs, plan files, what is recorded, the log book."""

import hashlib

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.errors import InputError
from aldea.core.plan.edit import differences
from aldea.core.wire.findings import severe
from aldea.store.houses import log_lines, write_log
from aldea.store.imports import (
    imports_of,
)
from aldea.store.plans import DraftMovedError, publish, read_draft, revision, revisions
from aldea.store.readings import summaries
from aldea.web.forms import Fields
from aldea.web.pages import (
    Bench,
    asked_window,
    open_bench,
    rail_of,
    render_bench,
    running_replay,
)
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.views.rail import Rail

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def rail_now(request: Request, state: AppState, bench: Bench) -> Rail:
    """The rail of a bench that stays at the running program."""
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, bench)
    window = asked_window(request, bench.door.now_ms, replayed)
    return rail_of(plan, replayed, window, mode)


def record_page(
    request: Request,
    state: AppState,
    bench: Bench,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    """Programs, readings, imports and the log book, with what was refused in its fields."""
    house = bench.door.house.id
    with state.database.begin() as connection:
        programs = revisions(connection, house)
        recorded = summaries(connection, house)
        runs = imports_of(connection, house)
        lines = log_lines(connection, house)
    changed = differences(bench.program.plan, bench.plan) if bench.program else ()
    grave = severe(bench.plan)
    return render_bench(
        request,
        "record.html",
        bench,
        current="record",
        rail=rail_now(request, state, bench),
        status=status,
        programs=programs,
        recorded=recorded,
        runs=runs,
        lines=lines,
        changed=changed,
        grave=grave,
        working=(working := [p for p in bench.plan.probes if p.stage == "working"]),
        probe_options=[(p.id, p.name) for p in working],
        probe_names={p.id: p.name for p in bench.plan.probes},
        errors=errors or {},
        typed=typed or {},
        version=bench.draft.version,
    )


@router.get("/record")
def record(request: Request, state: State, door: AnyDoor) -> Response:
    """Programs, readings, log book."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return record_page(request, state, bench)


@router.post("/record/publish")
def publish_draft(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Make the draft the next program."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    reason = fields.text("reason")
    despite = fields.text("despite")
    if not reason:
        fields.refuse("reason", "nothing", "a sentence: say why the panel should change")
    version = fields.number("version", low=1, high=1e9)
    try:
        with state.database.begin() as connection:
            current = read_draft(connection, door.house.id)
            grave = severe(current.plan) if current.version == int(version) else ()
            if grave and not despite:
                fields.refuse(
                    "despite",
                    f"{len(grave)} unmended thing{'' if len(grave) == 1 else 's'} at Wire",
                    "a written reason why the panel may have it all the same, or the mend",
                )
            fields.check()
            if grave:
                things = "; ".join(finding.head.rstrip(".") for finding in grave)
                reason = f"{reason} Published despite {things}: {despite}"[:2000] if reason else ""
            done = publish(
                connection,
                door.house.id,
                version_read=int(version),
                reason=reason,
                by=door.account,
                at_ms=door.now_ms,
            )
            write_log(
                connection,
                door.house.id,
                account=door.account,
                at_ms=door.now_ms,
                what=f"Program {done.number} published: {done.reason}",
            )
    except (InputError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            bench = open_bench(connection, door)
        said = f"Got {exc.got}; allowed: {exc.allowed}. {exc.mend}"
        errors = fields.errors or {"reason": said}
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return record_page(request, state, bench, errors=errors, typed=typed, status=status)
    return RedirectResponse(f"/h/{door.house.slug}/record", status_code=303)


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
def draft_file(state: State, door: AnyDoor) -> Response:
    """The draft as a plan file."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return _plan_file(bench.draft.text, f"{door.house.slug}-draft.json")


@router.get("/record/programs/{number}.json")
def program_file(state: State, door: AnyDoor, number: int) -> Response:
    """A program as a plan file."""
    with state.database.begin() as connection:
        found = revision(connection, door.house.id, number)
    return _plan_file(found.text, f"{door.house.slug}-{number}.json")
