"""What the pages beside the Wire bench share: opening, rendering, keeping, downloads."""

from typing import Any

from fastapi import Request, Response
from fastapi.responses import RedirectResponse

from aldea.web.shell.access import HouseAccess
from aldea.web.shell.drafts import Change, edit_draft, version_of
from aldea.web.shell.page import OpenHouse, render_bench, timeline_now
from aldea.web.shell.state import AppState

PAGES = (
    ("panel", "", "Panel"),
    ("circuits", "/circuits", "Circuits"),
    ("controls", "/controls", "Controls"),
    ("boards", "/boards", "Boards"),
    ("parts", "/parts", "Parts to order"),
)


def wire_sub_page(
    request: Request, state: AppState, opened: OpenHouse, template: str, now: str, **values: Any
) -> Response:
    """A page beside the bench, with its neighbours in the head."""
    return render_bench(
        request,
        template,
        opened,
        current="wire",
        timeline=timeline_now(request, state, opened),
        pages=PAGES,
        page_now=now,
        version=opened.draft.version,
        **values,
    )


def keep_and_go(
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Change,
    what: str,
    back: str,
) -> Response:
    """Keep a change of the draft, then to a page below /wire."""
    edit_draft(state, access, version_of(typed), change, what)
    return RedirectResponse(f"/h/{access.house.slug}/wire/{back}", status_code=303)
