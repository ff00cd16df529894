"""What one press does to a chosen part: moved, removed, copied, carried on, a must-never said."""

from typing import Any

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.base.numbers import whole_of
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import fresh_id, ids_of, move_part, part_of, put_part, remove_part
from aldea.core.wiring.copies import carried, copied, copies_of
from aldea.core.wiring.duplicates import duplicated
from aldea.core.words.invariants import figures_of, suggestions, with_figures
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.layout.routes import ADDED, back_to, layout_page
from aldea.web.shell.access import BuilderAccess, HouseAccess, Sent, State
from aldea.web.shell.drafts import edit_draft, version_of
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import open_house
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}/layout", include_in_schema=False)


@router.post("/move")
def move(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """A chip was dragged, or moved by the arrows, into another place."""
    typed = typed_of(form)
    kind, _, part_id = typed.get("part", "").partition(":")
    place = typed.get("place", "")

    def change(plan: Plan) -> Plan:
        return move_part(plan, kind, part_id, place)

    return _save_and_go(
        request,
        state,
        access,
        typed,
        change,
        f"{kind} {part_id} moved to {place}",
        f"{kind}:{part_id}",
    )


@router.post("/remove")
def remove(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take a part away with what only hung on it."""
    typed = typed_of(form)
    kind, _, part_id = typed.get("part", "").partition(":")

    def change(plan: Plan) -> Plan:
        if kind not in ADDED:
            raise InputError("part", got=repr(kind), allowed="one of " + ", ".join(ADDED))
        return remove_part(plan, kind, part_id)

    return _save_and_go(
        request, state, access, typed, change, f"{kind} {part_id} removed", f"{kind}:{part_id}",
        after="",
    )  # fmt: skip


@router.post("/copy")
def copy_unit(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Another like this: a board with all that hangs on it, once for each word."""
    typed = typed_of(form)
    board_id = typed.get("part", "").removeprefix("board:")
    word = typed.get("word", "").strip()
    others = [one.strip() for one in typed.get("others", "").split(",") if one.strip()]

    def change(plan: Plan) -> Plan:
        return copied(plan, board_id, word, others)

    what = f"{board_id} copied for {', '.join(others)}"[:200]
    return _save_and_go(request, state, access, typed, change, what, f"board:{board_id}")


@router.post("/duplicate")
def duplicate(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Another probe or load like the chosen one, planned, with a name of its own."""
    typed = typed_of(form)
    kind, _, part_id = typed.get("part", "").partition(":")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    try:
        _, key = duplicated(opened.plan, kind, part_id)
    except (InputError, NotFoundError):
        key = f"{kind}:{part_id}"

    def change(plan: Plan) -> Plan:
        return duplicated(plan, kind, part_id)[0]

    what = f"{key.partition(':')[2]} added as a copy of {part_id}"[:200]
    return _save_and_go(request, state, access, typed, change, what, f"{kind}:{part_id}", after=key)


@router.post("/carry")
def carry_unit(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """The figures of a unit carried to all its copies."""
    typed = typed_of(form)
    board_id = typed.get("part", "").removeprefix("board:")

    def change(plan: Plan) -> Plan:
        if not copies_of(plan, board_id):
            raise InputError("board", got="no copies", allowed="a board that was copied")
        return carried(plan, board_id)

    what = f"figures of {board_id} carried to its copies"
    return _save_and_go(request, state, access, typed, change, what, f"board:{board_id}")


@router.post("/never")
def say_never(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Say what must never happen with a load: one of what is usual, by its number."""
    typed = typed_of(form)
    load_id = typed.get("part", "").removeprefix("load:")

    def change(plan: Plan) -> Plan:
        load = part_of(plan, "load", load_id)
        offered = suggestions(load, plan)
        number = whole_of(typed.get("number", ""))
        if number is None or number >= len(offered):
            raise InputError(
                "number", got=repr(typed.get("number"))[:80], allowed=f"0 to {len(offered) - 1}"
            )
        _, never = offered[number]
        fields = Fields(typed)
        values = {
            figure.key: fields.number(
                figure.key, low=figure.low, high=figure.high, unit=figure.unit
            )
            for figure in figures_of(never, plan)
            if figure.key in typed
        }
        fields.check()
        never = with_figures(never, values, typed.get("partner", ""))
        new_id = fresh_id(f"{load_id} never", ids_of(plan, "invariant"))
        why = typed.get("why", "").strip()[:400]
        return put_part(plan, "invariant", never.model_copy(update={"id": new_id, "why": why}))

    what = f"set what must never happen with {load_id}"
    return _save_and_go(request, state, access, typed, change, what, f"load:{load_id}")


@router.post("/unsay")
def unsay(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take back what must never happen."""
    typed = typed_of(form)

    def change(plan: Plan) -> Plan:
        return remove_part(plan, "invariant", typed.get("invariant", ""))

    return _save_and_go(
        request, state, access, typed, change, "a must-never removed", typed.get("part", "")
    )


def _save_and_go(
    request: Request,
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Any,
    what: str,
    chosen: str,
    *,
    after: str | None = None,
) -> Response:
    """A change without fields: refused as a sentence above the bench, or kept."""
    try:
        edit_draft(state, access, version_of(typed), change, what)
    except (InputError, NotFoundError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        status = 409 if isinstance(exc, DraftMovedError) else 422
        known = chosen if _is_there(opened.plan, chosen) else ""
        return layout_page(
            request, state, opened, chosen=known, refusal=exc.sentence, status=status
        )
    return back_to(access, chosen if after is None else after)


def _is_there(plan: Plan, chosen: str) -> bool:
    kind, _, part_id = chosen.partition(":")
    return kind in ADDED and part_id in ids_of(plan, kind)
