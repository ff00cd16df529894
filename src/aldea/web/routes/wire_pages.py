"""What the pages beside the Wire bench share: opening, rendering, keeping, downloads."""

from typing import Any

from fastapi import Request, Response
from fastapi.responses import RedirectResponse

from aldea.web.editing import Change, edit_draft, version_of
from aldea.web.pages import Bench, open_bench, render_bench
from aldea.web.routes.record import rail_now
from aldea.web.security import Door
from aldea.web.state import AppState

PAGES = (
    ("panel", "", "Panel"),
    ("circuits", "/circuits", "Circuits"),
    ("hands", "/hands", "Hands"),
    ("boards", "/boards", "Boards"),
    ("parts", "/parts", "Parts"),
)


def opened(state: AppState, door: Door) -> Bench:
    """The draft and the program of the house."""
    with state.database.begin() as connection:
        return open_bench(connection, door)


def wire_sub_page(
    request: Request, state: AppState, bench: Bench, template: str, now: str, **values: Any
) -> Response:
    """A page beside the bench, with its neighbours in the head."""
    return render_bench(
        request,
        template,
        bench,
        current="wire",
        rail=rail_now(request, state, bench),
        pages=PAGES,
        page_now=now,
        version=bench.draft.version,
        **values,
    )


def keep_and_go(
    state: AppState, door: Door, typed: dict[str, str], change: Change, what: str, back: str
) -> Response:
    """Keep a change of the draft, then to a page below /wire."""
    edit_draft(state, door, version_of(typed), change, what)
    return RedirectResponse(f"/h/{door.house.slug}/wire/{back}", status_code=303)


def csv_file(text: str, name: str) -> Response:
    """A CSV download."""
    return Response(
        text,
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
