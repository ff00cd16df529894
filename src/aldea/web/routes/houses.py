"""The list of houses, and a new one from a plan file."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.datastructures import UploadFile

from aldea.core.errors import PlanError
from aldea.core.plan.codec import MAX_BYTES, read_plan
from aldea.store.houses import (
    check_may_begin,
    create_house,
    houses_of,
    is_builder_somewhere,
    write_log,
)
from aldea.store.plans import begin_draft, parsed
from aldea.web.pages import render
from aldea.web.security import Sent, SignedIn, State, Visitor
from aldea.web.state import AppState

router = APIRouter(include_in_schema=False)


@router.get("/")
def first(state: State, visitor: SignedIn) -> Response:
    """Straight into the first house."""
    with state.database.begin() as connection:
        houses = houses_of(connection, visitor.account)
    return RedirectResponse(f"/h/{houses[0][0].slug}" if houses else "/houses", status_code=303)


@router.get("/houses")
def houses(request: Request, state: State, visitor: SignedIn) -> Response:
    """Every house of the visitor."""
    return _page(request, state, visitor)


def _page(
    request: Request, state: AppState, visitor: Visitor, *, refusal: str = "", status: int = 200
) -> Response:
    with state.database.begin() as connection:
        rows = houses_of(connection, visitor.account)
        may_begin = is_builder_somewhere(connection, visitor.account)
    return render(
        request,
        "houses.html",
        status=status,
        rows=[(house, role, parsed(text)) for house, role, text in rows],
        may_begin=may_begin,
        refusal=refusal,
        visitor=visitor,
        form_token=visitor.form_token,
    )


@router.post("/houses")
def begin(request: Request, state: State, visitor: SignedIn, form: Sent) -> Response:
    """A new house from a plan file: the whole of it, or nothing."""
    upload = form.get("plan")
    if not isinstance(upload, UploadFile) or not upload.filename:
        said = "Got no file; allowed: a plan that Aldea exported."
        return _page(request, state, visitor, refusal=said, status=422)
    try:
        plan = read_plan(upload.file.read(MAX_BYTES + 1))
        now_ms = state.clock()
        with state.database.begin() as connection:
            check_may_begin(connection, visitor.account)
            house = create_house(
                connection, name=plan.house.name, owner=visitor.account, created_ms=now_ms
            )
            begin_draft(connection, house.id, plan, visitor.account, now_ms)
            write_log(
                connection,
                house.id,
                account=visitor.account,
                at_ms=now_ms,
                what=f"House begun from the plan file {upload.filename}.",
            )
    except PlanError as exc:
        said = f"The plan is refused whole, at {exc.where}: got {exc.got}; allowed: {exc.allowed}."
        return _page(request, state, visitor, refusal=f"{said} {exc.mend}".strip(), status=422)
    return RedirectResponse(f"/h/{house.slug}/record", status_code=303)
