"""What one press does in the stack of a load: a rule moved, switched, removed; a start; a fix."""

from typing import Any

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import AldeaError, NotFoundError
from aldea.core.base.instants import local
from aldea.core.base.numbers import whole_of
from aldea.core.plan.at_work import set_to_work
from aldea.core.plan.document import Plan
from aldea.core.plan.rule_edits import moved_rule, rule_of, switched, without_rule
from aldea.core.plan.starting_points import with_starting_point
from aldea.core.rules.findings import offered_for
from aldea.core.wiring.duplicates import rule_copied
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.rule.routes import back_to, rule_page, runnable
from aldea.web.shell.access import BuilderAccess, HouseAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.forms import typed_of
from aldea.web.shell.page import open_house
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/rule", include_in_schema=False)


def _save_and_go(
    request: Request,
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Any,
    what: str,
    rule_id: str = "",
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
    return back_to(access, load_id, rule_id)


def _named(state: AppState, access: HouseAccess, typed: dict[str, str]) -> str:
    """How the history calls a rule."""
    with state.database.begin() as connection:
        plan = open_house(connection, access).plan
    rule = rule_of(plan, typed.get("rule", ""))
    load = plan.load(rule.load)
    return f"{load.name if load else rule.load}: {rule.name or rule.priority}"


@router.post("/remove")
def remove(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a rule out; undo brings it back."""
    typed = typed_of(form)
    what = f"{_named(state, access, typed)} removed"
    key = typed.get("rule", "")
    return _save_and_go(request, state, access, typed, lambda plan: without_rule(plan, key), what)


@router.post("/switch")
def switch(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Switch a rule off for now, or on again."""
    typed = typed_of(form)
    key = typed.get("rule", "")
    what = f"{_named(state, access, typed)} switched off or on"
    return _save_and_go(
        request, state, access, typed, lambda plan: runnable(switched(plan, key)), what
    )


@router.post("/copy")
def copy(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """A copy of any rule of the house as the last one of a load."""
    typed = typed_of(form)
    rule_id, load_id = typed.get("source", ""), typed.get("load", "")
    return _save_and_go(
        request, state, access, typed,
        lambda plan: runnable(set_to_work(rule_copied(plan, rule_id, load_id)[0], (load_id,))),
        f"{load_id}: a copy of the rule {rule_id}"[:200],
    )  # fmt: skip


MOST_PLACES = 1000  # more than a load has rules


@router.post("/move")
def move(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Move a rule up or down inside its level, by so many places."""
    typed = typed_of(form)
    places = min(max(whole_of(typed.get("places", "1")) or 1, 1), MOST_PLACES)
    key, by = typed.get("rule", ""), -places if typed.get("by") == "up" else places
    what = f"{_named(state, access, typed)} moved {'up' if by < 0 else 'down'}"
    return _save_and_go(request, state, access, typed, lambda plan: moved_rule(plan, key, by), what)


@router.post("/begin")
def begin(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Put a starting point in: rules, failsafe and return at once."""
    typed = typed_of(form)
    load_id, key = typed.get("load", ""), typed.get("point", "")
    return _save_and_go(
        request,
        state,
        access,
        typed,
        lambda plan: runnable(with_starting_point(plan, load_id, key)),
        f"{load_id}: started from “{key}”",
    )


@router.post("/fix")
def fix(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Do the fix of a finding of the rules."""
    typed = typed_of(form)
    key = typed.get("finding", "")

    def change(plan: Plan) -> Plan:
        about = typed.get("load", "") or None
        today = local(state.clock(), plan.house.time_zone).date()
        fix = next((f for f in offered_for(plan, about, today) if f.key == key), None)
        if fix is None or fix.apply is None:
            raise NotFoundError("finding", got=repr(key)[:80], allowed="one that still stands")
        return fix.apply(plan)

    return _save_and_go(request, state, access, typed, change, f"fixed {key}")
