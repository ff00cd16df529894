"""The Lay out bench: places and what stands in them, put in and changed; undo for every bench."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, Literal

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.devices.sensors.models import SEVERAL
from aldea.core.plan.at_work import with_controls
from aldea.core.plan.board_types import board_types
from aldea.core.plan.changes import PlanChange
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import fresh_id, ids_of, part_of, put_part
from aldea.core.plan.one_part import with_all_of_part
from aldea.core.wiring.copies import copies_of
from aldea.core.wiring.findings import offered
from aldea.core.wiring.retype import with_board
from aldea.store.drafts import DraftMovedError, step_draft
from aldea.web.benches.layout.view import make_layout_view
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import REMOVED, as_begun, begun_at, edit_draft, rows_over, version_of
from aldea.web.shell.form_fields import Group
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import (
    OpenHouse,
    open_house,
    open_house_of,
    render,
    render_bench,
    timeline_now,
)
from aldea.web.shell.part_form.parts import KIND_NAMES, groups_of
from aldea.web.shell.part_form.reading import as_made, as_typed, form_of, new_part, read_part
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
OF_A_KIND = ("load_class", "nature", "volts", "runs_on", "supply")  # what a kind of load brings
ADDED = ("place", "load", "probe", "control", "board", "supply")


def layout_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    *,
    chosen: str = "",
    adding: str = "",
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    refusal: str = "",
    moved: DraftMovedError | None = None,
    moved_rows: tuple[PlanChange, ...] = (),
    status: int = 200,
) -> Response:
    """The bench with one part chosen, or a new one begun."""
    plan = opened.plan
    kind, part = _chosen(plan, chosen, adding, typed or {})
    if part is not None and kind != "house" and typed:
        part = as_made(plan, kind, part, typed)
    groups: tuple[Group, ...] = groups_of(plan, kind, part) if part is not None else ()
    if adding and groups:
        # Its name is typed, never put in by itself: a press on an untouched form adds nothing.
        named = "name" in (typed or {})
        fields = tuple(
            f if f.name != "name" or named else replace(f, value="") for f in groups[0].fields
        )
        groups = (replace(groups[0], title=f"New {kind}", fields=fields), *groups[1:])
    here = f"{opened.base}/layout"
    return render_bench(
        request,
        "layout/layout.html",
        opened,
        current="layout",
        timeline=timeline_now(request, state, opened),
        status=status,
        view=make_layout_view(plan, "" if adding else chosen, offered(plan)),
        kind=kind,
        part_id="" if adding or part is None else getattr(part, "id", ""),
        groups=groups,
        form_of=form_of(groups),
        typed=typed or {},
        errors=errors or {},
        refusal=refusal,
        adding=adding,
        added_kinds=[(name, KIND_NAMES[name]) for name in ADDED if plan.places or name == "place"],
        into=f"&place={chosen.removeprefix('place:')}" if chosen.startswith("place:") else "",
        here=here,
        copies=_copies(plan, chosen),
        came_loose=_came_loose(opened, chosen),
        undo_back=f"{here}?part={chosen}" if chosen and not adding else here,
        moved=moved,
        moved_rows=moved_rows,
        version=opened.draft.version,
    )


def _copies(plan: Plan, chosen: str) -> tuple[str, ...] | None:
    """The names of a chosen board's copies; None where no controller is chosen."""
    board = plan.board(chosen.removeprefix("board:")) if chosen.startswith("board:") else None
    if board is None or board_types(plan)[board.board_type].role != "controller":
        return None
    return tuple(b.name for b in plan.boards if b.id in copies_of(plan, board.id))


def _came_loose(opened: OpenHouse, chosen: str) -> str:
    """What the last edit of a board left without a pin, in words."""
    last = opened.draft.undo or ""
    return last if chosen.startswith("board:") and "came loose" in last else ""


def _chosen(plan: Plan, chosen: str, adding: str, typed: dict[str, str]) -> tuple[str, Any]:
    if adding in ADDED:
        return adding, new_part(plan, adding, typed)
    if chosen == "house":
        return "house", plan.house
    kind, _, part_id = chosen.partition(":")
    if kind in ADDED and part_id:
        return kind, part_of(plan, kind, part_id)
    return "", None


@router.get("/layout")
def layout(request: Request, state: State, access: MemberAccess) -> Response:
    """The house as it is laid out in the draft."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    query = request.query_params
    chosen = query.get("part", "")
    try:
        return layout_page(
            request,
            state,
            opened,
            chosen=chosen,
            adding=query.get("add", ""),
            typed={"place": query.get("place", "")} if query.get("place") else None,
        )
    except NotFoundError:
        # Undone in between: the bench without it, not an error.
        return layout_page(request, state, opened)


def back_to(access: HouseAccess, chosen: str = "") -> Response:
    """To the bench, with a part chosen or none."""
    query = f"?part={chosen}" if chosen else ""
    return RedirectResponse(f"/h/{access.house.slug}/layout{query}", status_code=303)


MOST_WORDS = 150  # the step of an edit is named in 200 characters, the board's name among them


def _as_fits(words: Sequence[str]) -> str:
    """As many as fit, and how many more: never a word that is cut in two."""
    shown: list[str] = []
    for word in words:
        if sum(len(one) + 2 for one in (*shown, word)) > MOST_WORDS and shown:
            break
        shown.append(word)
    left = len(words) - len(shown)
    return ", ".join(shown) + (f" and {left} more, see Wire" if left else "")


def _with_removed(
    state: AppState, opened: OpenHouse, kind: str, part_id: str, typed: dict[str, str]
) -> tuple[OpenHouse, bool]:
    """The house with a part put back that somebody removed while its form was open."""
    if kind not in ADDED or not part_id or part_id in ids_of(opened.plan, kind):
        return opened, False
    before = as_begun(state, opened, typed)
    if before is None or part_id not in ids_of(before, kind):
        return opened, False
    plan = put_part(opened.plan, kind, part_of(before, kind, part_id))
    return replace(opened, draft=replace(opened.draft, plan=plan)), True


@router.post("/layout/part")
def keep_part(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep a part's form: a new part, or one that is there."""
    typed = typed_of(form)
    kind, part_id = typed.get("part_kind", ""), typed.get("part_id", "")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    adding = kind if not part_id and kind != "house" else ""
    chosen = "house" if kind == "house" else f"{kind}:{part_id}" if part_id else ""
    opened, removed = _with_removed(state, opened, kind, part_id, typed)
    kind_and_part, part = _chosen(opened.plan, chosen, adding, typed)
    if part is None:
        raise InputError("part", got=repr(kind), allowed="one of " + ", ".join(ADDED))
    fields = Fields(typed)
    if removed and begun_at(typed) is None:
        typed["begun_at"] = typed.get("version", "")
        return layout_page(
            request, state, opened, chosen=chosen, typed=typed, refusal=REMOVED, status=409
        )
    try:
        part = (
            as_made(opened.plan, kind_and_part, part, typed) if kind_and_part != "house" else part
        )
        read = read_part(fields, opened.plan, kind_and_part, part)
    except InputError:
        return layout_page(
            request, state, opened, chosen=chosen, adding=adding, typed=typed,
            errors=fields.errors, status=422,
        )  # fmt: skip
    if adding:
        read = read.model_copy(update={"id": fresh_id(read.name, ids_of(opened.plan, kind))})

    def change(plan: Plan) -> Plan:
        if kind == "house":
            return plan.model_copy(update={"house": read})
        if kind == "board":
            return with_board(plan, read)[0]
        several = SEVERAL.get(typed.get("several", "")) if adding and kind == "probe" else None
        after = with_all_of_part(plan, read, several) if several else put_part(plan, kind, read)
        return with_controls(plan, after) if kind == "control" else after

    verb = "put in" if adding else "changed"
    loose = with_board(opened.plan, read)[1] if kind == "board" else ()
    if loose:
        verb = f"changed; {len(loose)} lines came loose: {_as_fits(loose)}"
    try:
        what = f"{read.name} {verb}"
        edit_draft(state, access, version_of(typed), change, what, begun_at(typed))
    except DraftMovedError as exc:
        current = replace(opened, draft=exc.current)
        rows = rows_over(state, access, exc, change)
        return layout_page(
            request, state, current, chosen=chosen, adding=adding, typed=typed, moved=exc,
            moved_rows=rows, status=409,
        )  # fmt: skip
    return back_to(access, "house" if kind == "house" else f"{kind}:{read.id}")


@router.post("/layout/form")
def form_anew(request: Request, state: State, access: MemberAccess, form: Sent) -> Response:
    """The fields of a part that is being typed, with those of the kind that was chosen."""
    typed = typed_of(form)
    kind, part_id = typed.get("part_kind", ""), typed.get("part_id", "")
    opened = open_house_of(state, access)
    adding = kind if not part_id and kind in ADDED else ""
    _, part = _chosen(opened.plan, f"{kind}:{part_id}", adding, typed)
    if part is None:
        raise InputError("part", got=repr(kind)[:80], allowed="one of " + ", ".join(ADDED))
    groups = groups_of(opened.plan, kind, as_typed(opened.plan, kind, part, typed))
    typed = _still_meant(typed, groups, request.headers.get("HX-Trigger-Name", ""))
    return render(
        request,
        "layout/fields.html",
        groups=groups,
        form_of=form_of(groups),
        typed=_still_offered(typed, groups),
        errors={},
        here=f"{opened.base}/layout",
        may_build=access.may_build,
    )


def _still_meant(typed: dict[str, str], groups: tuple[Group, ...], changed: str) -> dict[str, str]:
    """What was typed, without the figures that another choice brings of its own."""
    if changed == "quantity":
        return {field.name: typed.get(field.name, field.value) for field in groups[0].fields}
    gone = set(OF_A_KIND) if changed == "kind" else set()
    if changed in ("kind", "sensor_kind"):
        figures = [group for group in groups[1:] if group.inside not in ("", "range")]
        gone |= {field.name for group in figures for field in group.fields}
    return {key: value for key, value in typed.items() if key not in gone}


def _still_offered(typed: dict[str, str], groups: tuple[Group, ...]) -> dict[str, str]:
    """What was typed, without choices that the other kind does not have."""
    gone = {
        field.name
        for group in groups
        for field in group.fields
        if field.kind == "choice" and typed.get(field.name) not in dict(field.options)
    }
    return {key: value for key, value in typed.items() if key not in gone}


@router.get("/draft")
def draft_page(access: MemberAccess) -> Response:
    """Where a refused undo is told, when its address is loaded again."""
    return back_to(access)


@router.post("/draft/{direction}")
def step(
    request: Request,
    state: State,
    access: BuilderAccess,
    direction: Literal["undo", "redo"],
    form: Sent,
) -> Response:
    """Take the last edit back, or do it again, from whatever bench asked."""
    typed = typed_of(form)
    back = typed.get("back", "")
    home = f"/h/{access.house.slug}"
    if not back.startswith(f"{home}/") or "//" in back or "\\" in back:
        back = f"{home}/layout"
    try:
        with state.database.begin() as connection:
            step_draft(
                connection,
                access.house.id,
                -1 if direction == "undo" else 1,
                version_read=version_of(typed),
                by=access.account,
                at_ms=access.now_ms,
            )
    except (InputError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return layout_page(request, state, opened, refusal=exc.sentence, status=status)
    return RedirectResponse(back, status_code=303)
