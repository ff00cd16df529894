"""The page that says how figures are computed, kind by kind."""

from functools import cache

from fastapi import APIRouter, Request, Response

from aldea.core.words.methods import Method, methods
from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house_of, render_bench, timeline_now

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@cache
def _methods() -> tuple[Method, ...]:
    return methods()  # they hang on nothing but the code


@router.get("/computed")
def computed(request: Request, state: State, access: MemberAccess) -> Response:
    """Formulas, sources, and an example worked through by the same code."""
    opened = open_house_of(state, access)
    return render_bench(
        request,
        "calibrate/computed/computed.html",
        opened,
        current="calibrate",
        timeline=timeline_now(request, state, opened),
        methods=_methods(),
    )
