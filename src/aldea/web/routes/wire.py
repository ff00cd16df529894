"""The Wire bench: drawing and schedule, pins by the solver or by hand, mends, sheets and lists."""

from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.errors import InputError, NotFoundError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import part_of, put_part, with_relays
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import Assignment, Board
from aldea.core.wire.assign import assign_pins
from aldea.core.wire.circuits import circuits
from aldea.core.wire.conductors import conductors
from aldea.core.wire.findings import findings
from aldea.core.words.times import stamp
from aldea.formats.tables_csv import schedule_csv
from aldea.store.plans import DraftMovedError
from aldea.web.editing import Change, edit_draft, version_of
from aldea.web.forms import Fields, typed_of
from aldea.web.pages import (
    Bench,
    asked_window,
    open_bench,
    rail_of,
    render,
    render_bench,
    running_replay,
    templates,
)
from aldea.web.part_fields import groups_of
from aldea.web.part_forms import read_part
from aldea.web.routes.wire_pages import PAGES, csv_file, opened, wire_sub_page
from aldea.web.security import AnyDoor, BuilderDoor, Door, Sent, State
from aldea.web.state import AppState
from aldea.web.views.circuit_drawing import circuit_svg
from aldea.web.views.panel_drawing import draw_panel
from aldea.web.views.place_drawing import places_svg
from aldea.web.views.sheets import PAPER, SCREEN, make_sheet, pdf_answer
from aldea.web.views.wire import lines_at, make_wire_view, warning_tags

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def _board(plan: Plan, asked: str) -> Board | None:
    types = board_types(plan)
    shown = [b for b in plan.boards if types[b.board_type].role != "multiplexer"]
    found = next((b for b in plan.boards if b.id == asked), None)
    return found or (shown[0] if shown else None)


def wire_page(
    request: Request,
    state: AppState,
    bench: Bench,
    *,
    board_id: str = "",
    chosen: str = "",
    refusal: str = "",
    conflict: tuple[str, ...] = (),
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    """The bench with one board drawn, or everything by place."""
    plan, query = bench.plan, request.query_params
    by_place = query.get("by") == "place"
    with state.database.begin() as connection:
        replayed, mode, shown = running_replay(state, connection, bench)
    window = asked_window(request, bench.door.now_ms, replayed)
    board_id = board_id or query.get("board", "")
    if chosen.startswith("board:") and not board_id:
        board_id = chosen.removeprefix("board:")
    board = None if by_place else _board(plan, board_id or _board_of(plan, chosen))
    view = make_wire_view(
        plan,
        board=board,
        chosen=chosen,
        replayed=replayed,
        window=window,
        only=query.get("rows", ""),
        draft_version=bench.draft.version,
    )
    if query.get("drawing") and view.drawing is not None:
        this = f"{bench.base}/wire?board={view.drawing.board.id}"
        return render(request, "_wire_drawing.html", view=view, c=SCREEN, this=this)
    relay = next((r for r in plan.relays if f"relay:{r.id}" == chosen), None)
    return render_bench(
        request,
        "wire.html",
        bench,
        current="wire",
        rail=rail_of(shown, replayed, window, mode),
        status=status,
        view=view,
        places=places_svg(plan) if by_place else None,
        by_place=by_place,
        board=board,
        chosen=chosen,
        c=SCREEN,
        pages=PAGES,
        page_now="panel",
        refusal=refusal,
        conflict=conflict,
        relay_groups=groups_of(plan, "relay", relay) if relay is not None else (),
        relay=relay,
        typed=typed or {},
        errors=errors or {},
        version=bench.draft.version,
        rows_shown=query.get("rows", ""),
    )


def _board_of(plan: Plan, chosen: str) -> str:
    row = next((a for a in plan.assignments if a.signal.startswith(f"{chosen}.")), None)
    return row.board if row and chosen else ""


@router.get("/wire")
def wire(request: Request, state: State, door: AnyDoor) -> Response:
    """The panel of the draft at the scrubber's instant."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return wire_page(request, state, bench, chosen=request.query_params.get("part", ""))


def _change(
    request: Request, state: AppState, door: Door, typed: dict[str, str], change: Change, what: str
) -> Response:
    """A change from this bench: kept and back, or refused as a sentence above it."""
    chosen = typed.get("part", "")
    try:
        edit_draft(state, door, version_of(typed), change, what)
    except (InputError, NotFoundError, DraftMovedError) as exc:
        with state.database.begin() as connection:
            bench = open_bench(connection, door)
        status = 409 if isinstance(exc, DraftMovedError) else 422
        return wire_page(
            request, state, bench, chosen=chosen, refusal=exc.sentence, status=status,
            board_id=typed.get("board", ""),
        )  # fmt: skip
    return _back(door, typed)


def _back(door: Door, typed: dict[str, str]) -> Response:
    home = f"/h/{door.house.slug}"
    back = typed.get("back", "")
    if back.startswith(("/wire", "/layout", "/record")) and "\\" not in back:
        return RedirectResponse(f"{home}{back}", status_code=303)
    part, board = typed.get("part", ""), typed.get("board", "")
    query = "&".join(f"{k}={v}" for k, v in (("board", board), ("part", part)) if v)
    return RedirectResponse(f"{home}/wire{f'?{query}' if query else ''}", status_code=303)


@router.post("/wire/assign")
def assign(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Give every line a pin; what a hand chose stays. Or say which wishes exclude each other."""
    typed = typed_of(form)
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    try:
        done = assign_pins(bench.plan)
    except InputError as exc:
        return wire_page(request, state, bench, refusal=exc.sentence, status=422)
    if done.conflict:
        return wire_page(
            request, state, bench, conflict=tuple(w.words for w in done.conflict), status=422
        )

    def change(plan: Plan) -> Plan:
        return plan.model_copy(update={"assignments": done.assignments})

    return _change(request, state, door, typed, change, "pins assigned")


@router.post("/wire/pin")
def choose_pin(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """A hand chooses the pins of a part; empty gives a line back to the solver."""
    typed = typed_of(form)
    wishes = {key[4:]: value for key, value in typed.items() if key.startswith("pin-")}

    def change(plan: Plan) -> Plan:
        rows = {row.signal: row for row in plan.assignments}
        for signal, wish in wishes.items():
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

    return _change(request, state, door, typed, change, f"pins of {typed.get('part', '')} chosen")


@router.post("/wire/mend")
def mend(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Do the mend of a finding."""
    typed = typed_of(form)
    said: list[str] = []

    def change(plan: Plan) -> Plan:
        found = next((f for f in findings(plan) if f.key == typed.get("finding")), None)
        if found is None or found.apply is None:
            raise NotFoundError(
                "finding", got=repr(typed.get("finding")), allowed="one that still stands"
            )
        said.append(f"{found.head} {found.press}")
        return found.apply(plan)

    return _change(request, state, door, typed, change, f"mended {typed.get('finding', '')}")


@router.post("/wire/relays")
def propose(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Propose the relays of a load."""
    typed = typed_of(form)
    load_id = typed.get("load", "")
    return _change(
        request, state, door, typed, lambda plan: with_relays(plan, load_id),
        f"relays of {load_id} proposed",
    )  # fmt: skip


@router.post("/wire/relay")
def keep_relay(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Keep the form of a relay; with `alike`, the same for all relays of its board."""
    typed = typed_of(form)
    relay_id = typed.get("part", "").removeprefix("relay:")
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    relay = part_of(bench.plan, "relay", relay_id)
    fields = Fields(typed)
    try:
        made = read_part(fields, bench.plan, "relay", relay)
    except InputError:
        return wire_page(
            request, state, bench, chosen=f"relay:{relay_id}", typed=typed, errors=fields.errors,
            status=422,
        )  # fmt: skip

    def change(plan: Plan) -> Plan:
        plan = put_part(plan, "relay", made)
        if typed.get("alike"):
            own = _board_of(plan, f"relay:{relay_id}")
            facts = {
                key: getattr(made, key)
                for key in ("active", "coil_v", "coil_ma", "driver", "rated_a")
            }
            for other in plan.relays:
                if _board_of(plan, f"relay:{other.id}") == own:
                    plan = put_part(plan, "relay", other.model_copy(update=facts))
        return plan

    return _change(request, state, door, typed, change, f"{relay_id.upper()} changed")


@router.get("/wire/circuits")
def special(request: Request, state: State, door: AnyDoor) -> Response:
    """Every special circuit, drawn and computed."""
    bench = opened(state, door)
    made = circuits(bench.plan)
    return wire_sub_page(
        request,
        state,
        bench,
        "circuits.html",
        "circuits",
        circuits=[(circuit, circuit_svg(circuit.draws, circuit.values)) for circuit in made],
    )


@router.get("/wire/schedule.csv")
def schedule_file(state: State, door: AnyDoor) -> Response:
    """The wiring schedule as CSV."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return csv_file(schedule_csv(conductors(bench.plan)), f"{door.house.slug}-schedule.csv")


@router.get("/wire/{sheet}.pdf")
def printed(request: Request, state: State, door: AnyDoor, sheet: str) -> Response:
    """The door sheet, or the electrician's part alone, as A4."""
    if sheet not in ("door-sheet", "electrician"):
        raise NotFoundError("sheet", got=repr(sheet), allowed="door-sheet or electrician")
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    plan = bench.plan
    found = findings(plan)
    tags = warning_tags(found)
    lines, _, note = lines_at(plan, None, door.now_ms)
    at_rest = {r.id: bool(lines.unpowered[i]) for i, r in enumerate(lines.relays)} if lines else {}
    wires = conductors(plan)
    drawings = [
        draw_panel(
            plan,
            board,
            found=found,
            tags=tags,
            lines=lines,
            conducting=at_rest,
            ranks={},
            readings={},
            numbers={wire.signal: wire.number for wire in wires if wire.signal},
        )
        for board in plan.boards
        if any(row.board == board.id for row in plan.assignments)
    ]
    values: dict[str, Any] = {
        "plan": plan,
        "sheet": make_sheet(plan, tuple((tags[f.key], f) for f in found if f.key in tags)),
        "drawings": drawings,
        "wires": wires,
        "c": PAPER,
        "draft": bench.draft.version,
        "program": bench.program.number if bench.program else None,
        "same": bench.program is not None and bench.program.text == bench.draft.text,
        "when": stamp(door.now_ms, plan.house.time_zone),
        "note": note,
    }
    html = templates.env.get_template(f"{sheet.replace('-', '_')}.html").render(values)
    return pdf_answer(html, f"{door.house.slug}-{sheet}.pdf")
