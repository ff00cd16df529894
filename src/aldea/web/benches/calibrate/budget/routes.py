"""The page of a probe's budget."""

from fastapi import APIRouter, Request, Response

from aldea.web.benches.calibrate.budget.own_rows import OWN_ROWS, SPREAD_OPTIONS
from aldea.web.benches.calibrate.pairs.page import probe_of, probe_page
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house_of

router = APIRouter(prefix="/h/{slug}/calibrate/{probe_id}", include_in_schema=False)


@router.get("/budget")
def budget_page(request: Request, state: State, access: MemberAccess, probe_id: str) -> Response:
    """Every row of the budget, rows of one's own, and what is promised along the range."""
    opened = open_house_of(state, access)
    return probe_page(
        request,
        state,
        opened,
        probe_of(opened.plan, probe_id),
        template="calibrate/budget/budget.html",
        own_rows=OWN_ROWS,
        spreads=SPREAD_OPTIONS,
    )
