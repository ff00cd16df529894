"""The Wire bench: drawing and schedule, pins by the solver or by hand, fixes, sheets and lists."""

from dataclasses import replace

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.base.instants import MS_PER_HOUR
from aldea.core.base.numbers import whole_of
from aldea.core.plan.board_types import board_types
from aldea.core.plan.changes import PlanChange
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of, put_part
from aldea.core.plan.panel import Assignment, Board
from aldea.core.wiring.findings import could_not_avoid, offered
from aldea.core.wiring.relays import with_relays
from aldea.core.wiring.signals import signals
from aldea.store.assign_runs import find_assigning, working_run
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.wire.pages import PAGES
from aldea.web.benches.wire.panel.places import places_svg
from aldea.web.benches.wire.panel.schedule import Shown
from aldea.web.benches.wire.panel.view import make_wire_view
from aldea.web.benches.wire.sheets.view import SCREEN
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import Change, begun_at, edit_draft, rows_over, version_of
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    open_house,
    render,
    render_bench,
    running_replay,
    timeline_of,
)
from aldea.web.shell.part_form.parts import groups_of
from aldea.web.shell.part_form.reading import read_part
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def _board(plan: Plan, board_id: str) -> Board | None:
    types = board_types(plan)
    shown = [b for b in plan.boards if types[b.board_type].role != "multiplexer"]
    board = next((b for b in plan.boards if b.id == board_id), None)
    return board or (shown[0] if shown else None)


def wire_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    *,
    board_id: str = "",
    chosen: str = "",
    refusal: str = "",
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    moved: DraftMovedError | None = None,
    moved_rows: tuple[PlanChange, ...] = (),
    status: int = 200,
) -> Response:
    """The bench with one board drawn, or everything by place."""
    plan, query = opened.plan, request.query_params
    state.printer.prepare()
    by_place = query.get("by") == "place"
    with state.database.begin() as connection:
        replayed, mode, shown = running_replay(state, connection, opened)
        window = asked_window(request, opened.access.now_ms, replayed)
        working = [probe.id for probe in plan.probes if probe.stage == "working"]
        house = opened.access.house.id
        since_ms = window.at_ms - MS_PER_HOUR
        traces = state.replays.latest(connection, house, working, since_ms, window.at_ms)
        run = working_run(connection, house)
        if run is None and (run_id := whole_of(query.get("assigning", ""))) is not None:
            run = find_assigning(connection, run_id, house)
    board_id = board_id or query.get("board", "")
    if chosen.startswith("board:") and not board_id:
        board_id = chosen.removeprefix("board:")
    board = None if by_place else _board(plan, board_id or _board_of(plan, chosen))
    view = make_wire_view(
        plan,
        shown=Shown(only=query.get("rows", ""), board=board, part=chosen),
        replayed=replayed,
        traces=traces,
        window=window,
        draft_version=opened.draft.version,
    )
    this = f"{opened.base}/wire?board={board.id if board else ''}"
    if query.get("drawing") and view.drawing is not None:
        return render(request, "wire/panel/drawing.html", view=view, c=SCREEN, this=this)
    relay = next((r for r in plan.relays if f"relay:{r.id}" == chosen), None)
    return render_bench(
        request,
        "wire/panel/panel.html",
        opened,
        current="wire",
        timeline=timeline_of(shown, replayed, window, mode),
        status=status,
        view=view,
        places=places_svg(plan) if by_place else None,
        by_place=by_place,
        board=board,
        chosen=chosen,
        c=SCREEN,
        pages=PAGES,
        page_now="panel",
        refusal=refusal or (run.refusal if run else ""),
        run=run,
        unavoidable=could_not_avoid(plan) if run and run.state == "done" else None,
        moved=moved,
        moved_rows=moved_rows,
        relay=relay,
        relay_groups=groups_of(plan, "relay", relay) if relay is not None else (),
        here=f"{opened.base}/wire",
        this=this,
        undo_back=f"{this}&part={chosen}" if chosen else this,
        back=f"/wire?board={board.id if board else ''}",
        sent_along={"part": chosen, "board": board.id if board else ""},
        typed=typed or {},
        errors=errors or {},
        version=opened.draft.version,
    )


def _board_of(plan: Plan, chosen: str) -> str:
    row = next((a for a in plan.assignments if a.signal.startswith(f"{chosen}.")), None)
    return row.board if row and chosen else ""


@router.get("/wire")
def wire(request: Request, state: State, access: MemberAccess) -> Response:
    """The panel of the draft at the scrubber's instant."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    return wire_page(request, state, opened, chosen=request.query_params.get("part", ""))


def _change(
    request: Request,
    state: AppState,
    access: HouseAccess,
    typed: dict[str, str],
    change: Change,
    what: str,
) -> Response:
    """A change from this bench: kept and back, or refused as a sentence above it."""
    chosen = typed.get("part", "")
    try:
        edit_draft(state, access, version_of(typed), change, what)
    except (InputError, NotFoundError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return wire_page(
            request, state, opened, chosen=chosen, refusal=exc.sentence, status=status,
            board_id=typed.get("board", ""),
        )  # fmt: skip
    return _back(access, typed)


def _back(access: HouseAccess, typed: dict[str, str]) -> Response:
    home = f"/h/{access.house.slug}"
    back = typed.get("back", "")
    if back.startswith(("/wire", "/layout", "/record")) and "\\" not in back:
        return RedirectResponse(f"{home}{back}", status_code=303)
    part, board = typed.get("part", ""), typed.get("board", "")
    query = "&".join(f"{k}={v}" for k, v in (("board", board), ("part", part)) if v)
    return RedirectResponse(f"{home}/wire{f'?{query}' if query else ''}", status_code=303)


@router.post("/wire/pin")
def choose_pin(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """A hand chooses the pins of a part; empty gives a line back to the solver."""
    typed = typed_of(form)
    wishes = {key[4:]: value for key, value in typed.items() if key.startswith("pin-")}

    def change(plan: Plan) -> Plan:
        rows = {row.signal: row for row in plan.assignments}
        known = {signal.id for signal in signals(plan)}
        for signal, wish in wishes.items():
            if signal not in known:
                raise NotFoundError("line", got=repr(signal)[:80], allowed="a line of this plan")
            if not wish:
                rows.pop(signal, None)
                continue
            board_id, _, pin = wish.partition("/")
            old = rows.get(signal)
            if old is not None and (old.board, old.pin) == (board_id, pin):
                continue
            board = part_of(plan, "board", board_id)
            if board_types(plan)[board.board_type].pin(pin) is None:
                raise InputError("pin", got=repr(pin), allowed=f"a pin of {board.name}")
            rows[signal] = Assignment(
                signal=signal, board=board_id, pin=pin, by="hand", reason="chosen by hand"
            )
        return plan.model_copy(update={"assignments": tuple(rows.values())})

    return _change(request, state, access, typed, change, f"pins of {typed.get('part', '')} chosen")


@router.post("/wire/fix")
def fix(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Do the fix of a finding."""
    typed = typed_of(form)

    def change(plan: Plan) -> Plan:
        fix = next((f for f in offered(plan) if f.key == typed.get("finding")), None)
        if fix is None or fix.apply is None:
            raise NotFoundError(
                "finding", got=repr(typed.get("finding")), allowed="one that still stands"
            )
        return fix.apply(plan)

    return _change(request, state, access, typed, change, f"fixed {typed.get('finding', '')}")


@router.post("/wire/relays")
def propose(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Propose the relays of a load."""
    typed = typed_of(form)
    load_id = typed.get("load", "")
    return _change(
        request, state, access, typed, lambda plan: with_relays(plan, load_id),
        f"relays of {load_id} proposed",
    )  # fmt: skip


@router.post("/wire/relay")
def keep_relay(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep the form of a relay; with `alike`, the same for all relays of its board."""
    typed = typed_of(form)
    relay_id = typed.get("part", "").removeprefix("relay:")
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    relay = part_of(opened.plan, "relay", relay_id)
    fields = Fields(typed)
    try:
        output = read_part(fields, opened.plan, "relay", relay)
    except InputError:
        return wire_page(
            request, state, opened, chosen=f"relay:{relay_id}", typed=typed, errors=fields.errors,
            status=422,
        )  # fmt: skip

    def change(plan: Plan) -> Plan:
        plan = put_part(plan, "relay", output)
        if typed.get("alike"):
            own = _board_of(plan, f"relay:{relay_id}")
            facts = {
                key: getattr(output, key)
                for key in ("active", "coil_v", "coil_ma", "driver", "rated_a")
            }
            for other in plan.relays:
                if _board_of(plan, f"relay:{other.id}") == own:
                    plan = put_part(plan, "relay", other.model_copy(update=facts))
        return plan

    try:
        what = f"{relay_id.upper()} changed"
        edit_draft(state, access, version_of(typed), change, what, begun_at(typed))
    except DraftMovedError as exc:
        current = replace(opened, draft=exc.current)
        return wire_page(
            request, state, current, chosen=f"relay:{relay_id}", typed=typed, moved=exc,
            moved_rows=rows_over(state, access, exc, change), status=409,
        )  # fmt: skip
    return _back(access, typed)
