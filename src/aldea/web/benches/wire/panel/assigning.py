"""Pins for the whole house: at once where that is quick, else beside the pages, with Stop."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import ConflictError
from aldea.jobs.assign_pins import assign_house
from aldea.jobs.queue import forget
from aldea.store.assign_runs import (
    begin_assigning,
    end_assigning,
    find_assigning,
    want_assigning_stopped,
)
from aldea.store.run_locks import lock_run
from aldea.web.benches.wire.panel.routes import wire_page
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, RowId, Sent, State
from aldea.web.shell.forms import typed_of
from aldea.web.shell.page import open_house, render

router = APIRouter(prefix="/h/{slug}/wire/assign", include_in_schema=False)
SECONDS_IN_PLACE = 2.0  # what takes longer goes on beside the pages


@router.post("")
def assign(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Give every line a pin; what is placed stays, or with `all` only what a hand chose."""
    typed = typed_of(form)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    try:
        with state.database.begin() as connection:
            run_id = begin_assigning(
                connection,
                access.house.id,
                by=access.account,
                version_read=opened.draft.version,
                redeal=typed.get("all") == "yes",
                at_ms=access.now_ms,
            )
    except ConflictError as exc:
        return wire_page(request, state, opened, refusal=exc.sentence, status=409)
    assign_house(state.database, run_id, seconds=SECONDS_IN_PLACE)
    return _shown(access, run_id, typed.get("board", ""))


def _shown(access: HouseAccess, run_id: int, board: str) -> Response:
    query = f"assigning={run_id}" + (f"&board={board}" if board else "")
    return RedirectResponse(f"/h/{access.house.slug}/wire?{query}", status_code=303)


@router.get("/{run_id}")
def progress(request: Request, state: State, access: MemberAccess, run_id: RowId) -> Response:
    """How far it is; once it has ended the page is loaded anew, with what came of it."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        run = find_assigning(connection, run_id, access.house.id)
    board = request.query_params.get("board", "")
    if "hx-request" not in request.headers:
        return _shown(access, run_id, board)
    answer = render(
        request,
        "wire/panel/progress.html",
        opened=opened,
        run=run,
        here=f"{opened.base}/wire",
        may_build=access.may_build,
        form_token=access.visitor.form_token,
        sent_along={"board": board},
    )
    if run.state != "working":
        answer.headers["HX-Redirect"] = _shown(access, run_id, board).headers["location"]
    return answer


@router.post("/{run_id}/stop")
def stop(state: State, access: BuilderAccess, run_id: RowId, form: Sent) -> Response:
    """Stop a run; one that waits for its turn ends at once."""
    with state.database.begin() as connection:
        run = find_assigning(connection, run_id, access.house.id)
        if lock_run(connection, "assign", run.id):
            forget(connection, "assign", run.id)
            end_assigning(connection, run.id, "stopped")
        else:
            want_assigning_stopped(connection, run.id)
    return _shown(access, run_id, typed_of(form).get("board", ""))
