"""The first page of Calibrate: what is due, and the kinds of bench that the house has parts for."""

from fastapi import APIRouter, Request, Response

from aldea.store.calibrations import certificates
from aldea.store.in_place import in_place_of
from aldea.web.benches.calibrate.certificates.due import due_list
from aldea.web.benches.calibrate.first.view import first_page
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house, render_bench, timeline_now

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.get("/calibrate")
def calibrate_first(request: Request, state: State, access: MemberAccess) -> Response:
    """What is due first, then the kinds."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        signed = certificates(connection, access.house.id)
        checked = in_place_of(connection, access.house.id, signed)
    due = due_list(opened.plan, signed, access.now_ms, checked)
    return render_bench(
        request,
        "calibrate/first/first.html",
        opened,
        current="calibrate",
        timeline=timeline_now(request, state, opened),
        view=first_page(opened.plan, opened.base, due),
    )
