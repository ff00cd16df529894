"""What one press does in the stack of a load: a claim moved, switched, removed; a start; a mend."""

from typing import Any

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import AldeaError, NotFoundError
from aldea.core.base.instants import local
from aldea.core.plan.claim_edits import claim_of, moved_claim, switched, without_claim
from aldea.core.plan.document import Plan
from aldea.core.plan.starting_points import begun
from aldea.core.rules.findings import offered_for
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.rule.routes import back_to, rule_page, runnable
from aldea.web.shell.access import BuilderAccess, HouseAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.forms import typed_of, whole_of
from aldea.web.shell.page import open_house
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/rule", include_in_schema=False)


def _kept(
    request: Request,
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Any,
    what: str,
    claim_id: str = "",
) -> Response:
    """A change of the draft by one press, from the stack of a load."""
    load_id = typed.get("load", "")
    try:
        edit_draft(state, access, version_of(typed), change, what)
    except (AldeaError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return rule_page(request, state, opened, load_id, refusal=exc.sentence, status=status)
    return back_to(access, load_id, claim_id)


def _named(state: AppState, access: HouseAccess, typed: dict[str, str]) -> str:
    """How the history calls a claim."""
    with state.database.begin() as connection:
        plan = open_house(connection, access).plan
    claim = claim_of(plan, typed.get("claim", ""))
    load = plan.load(claim.load)
    return f"{load.name if load else claim.load}: {claim.name or claim.rank}"


@router.post("/remove")
def remove(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a claim out; undo brings it back."""
    typed = typed_of(form)
    what = f"{_named(state, access, typed)} removed"
    key = typed.get("claim", "")
    return _kept(request, state, access, typed, lambda plan: without_claim(plan, key), what)


@router.post("/switch")
def switch(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Switch a claim off for now, or on again."""
    typed = typed_of(form)
    key = typed.get("claim", "")
    what = f"{_named(state, access, typed)} switched off or on"
    return _kept(request, state, access, typed, lambda plan: runnable(switched(plan, key)), what)


MOST_PLACES = 1000  # more than a load has rules


@router.post("/move")
def move(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Move a claim up or down inside its level, by so many places."""
    typed = typed_of(form)
    places = min(max(whole_of(typed.get("places", "1")) or 1, 1), MOST_PLACES)
    key, by = typed.get("claim", ""), -places if typed.get("by") == "up" else places
    what = f"{_named(state, access, typed)} moved {'up' if by < 0 else 'down'}"
    return _kept(request, state, access, typed, lambda plan: moved_claim(plan, key, by), what)


@router.post("/begin")
def begin(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Put a starting point in: claims, failsafe and return at once."""
    typed = typed_of(form)
    load_id, key = typed.get("load", ""), typed.get("point", "")
    return _kept(
        request, state, access, typed, lambda plan: runnable(begun(plan, load_id, key)),
        f"{load_id}: begun from “{key}”",
    )  # fmt: skip


@router.post("/mend")
def mend(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Do the mend of a finding of the rules."""
    typed = typed_of(form)
    key = typed.get("finding", "")

    def change(plan: Plan) -> Plan:
        about = typed.get("load", "") or None
        today = local(state.clock(), plan.house.time_zone).date()
        found = next((f for f in offered_for(plan, about, today) if f.key == key), None)
        if found is None or found.apply is None:
            raise NotFoundError("finding", got=repr(key)[:80], allowed="one that still stands")
        return found.apply(plan)

    return _kept(request, state, access, typed, change, f"mended {key}")
