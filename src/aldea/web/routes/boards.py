"""Boards of one's own (table editor, CSV in and out), parts to buy, and what hands work."""

import re
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from starlette.datastructures import UploadFile

from aldea.core.errors import ConflictError, InputError, NotFoundError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import fresh_id, part_of, put_part, remove_part
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import BoardType, RemoteCode, SelectorPosition, Stock
from aldea.core.wire.names import alike_names, spoken_names
from aldea.core.wire.parts import TOOLS, part_lines, total_price
from aldea.core.wire.receiver import presses, stand_in, stand_in_pattern
from aldea.formats.board_csv import (
    COLUMNS,
    MOST_BYTES,
    board_csv,
    pin_cells,
    pins_from_rows,
    read_board_csv,
)
from aldea.formats.tables_csv import parts_csv
from aldea.web.editing import Change, edit_draft, version_of
from aldea.web.forms import Fields, number_of
from aldea.web.pages import Bench, open_bench, render_bench
from aldea.web.routes.record import rail_now
from aldea.web.routes.wire import PAGES, csv_file
from aldea.web.security import AnyDoor, BuilderDoor, Door, Sent, State
from aldea.web.state import AppState

router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)
BLANK_ROWS = 3
REMOTE_BUTTONS = 6
SELECTOR_DETENTS = 8


def _typed(form: Any) -> dict[str, str]:
    return {key: str(value) for key, value in form.items() if not isinstance(value, UploadFile)}


def _open(state: AppState, door: Door) -> Bench:
    with state.database.begin() as connection:
        return open_bench(connection, door)


def _page(
    request: Request, state: AppState, bench: Bench, template: str, now: str, **values: Any
) -> Response:
    return render_bench(
        request,
        template,
        bench,
        current="wire",
        rail=rail_now(request, state, bench),
        pages=PAGES,
        page_now=now,
        version=bench.draft.version,
        **values,
    )


def _keep(
    state: AppState, door: Door, typed: dict[str, str], change: Change, what: str, back: str
) -> Response:
    edit_draft(state, door, version_of(typed), change, what)
    return RedirectResponse(f"/h/{door.house.slug}/wire/{back}", status_code=303)


# --- boards


def boards_page(
    request: Request,
    state: AppState,
    bench: Bench,
    type_id: str,
    *,
    typed: dict[str, str] | None = None,
    rows: list[dict[str, str]] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """The pin table of a type: the generic ones to look at, one's own to edit."""
    types = board_types(bench.plan)
    kind = types.get(type_id) or next(iter(types.values()))
    own = any(t.id == kind.id for t in bench.plan.board_types)
    shown = rows if rows is not None else [pin_cells(pin) for pin in kind.pins]
    return _page(
        request,
        state,
        bench,
        "boards.html",
        "boards",
        status=status,
        types=[(t, t.id in {o.id for o in bench.plan.board_types}) for t in types.values()],
        kind=kind,
        own=own,
        columns=COLUMNS,
        rows=shown,
        blanks=BLANK_ROWS if own else 0,
        typed=typed or {},
        refusal=refusal,
    )


@router.get("/boards")
def boards(request: Request, state: State, door: AnyDoor) -> Response:
    """Every kind of board that the plan knows."""
    return boards_page(request, state, _open(state, door), request.query_params.get("type", ""))


@router.get("/boards/{type_id}.csv")
def board_file(state: State, door: AnyDoor, type_id: str) -> Response:
    """The pin table of a type as CSV."""
    kind = board_types(_open(state, door).plan).get(type_id)
    if kind is None:
        raise NotFoundError("board", got=repr(type_id), allowed="a kind of board of this plan")
    return csv_file(board_csv(kind), f"{type_id}.csv")


@router.post("/boards/copy")
def copy_board(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Begin a board of one's own from a kind that is there, or from a CSV file."""
    typed = _typed(form)
    bench = _open(state, door)
    upload = form.get("table")
    name = typed.get("name", "").strip()
    try:
        made = _copied(bench.plan, typed.get("type", ""), name)
        if isinstance(upload, UploadFile) and upload.filename:
            made = made.model_copy(
                update={"pins": read_board_csv(upload.file.read(MOST_BYTES + 1))}
            )
        what = f"board {made.name} made"
        return _keep(
            state, door, typed, lambda plan: put_part(plan, "board_type", made), what,
            f"boards?type={made.id}",
        )  # fmt: skip
    except (InputError, ConflictError) as exc:
        return boards_page(
            request, state, bench, typed.get("type", ""), typed=typed, refusal=exc.sentence,
            status=422,
        )  # fmt: skip


def _copied(plan: Plan, type_id: str, name: str) -> BoardType:
    base = board_types(plan).get(type_id)
    if base is None:
        raise InputError("type", got=repr(type_id), allowed="one of the list")
    if not name:
        raise InputError("name", got="nothing", allowed="a name for the board")
    return base.model_copy(update={"id": fresh_id(name, board_types(plan)), "name": name[:80]})


@router.post("/boards/keep")
def keep_board(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Keep the table of one's own board: all rows, or none."""
    typed = _typed(form)
    bench = _open(state, door)
    type_id = typed.get("type", "")
    rows = _sent_rows(typed)
    fields = Fields(typed)
    try:
        kind = part_of(bench.plan, "board_type", type_id)
        facts = {
            "name": fields.text("name", most=80) or kind.name,
            "logic_v": fields.number("logic_v", low=1, high=60, unit="V"),
            "supply_v": fields.number("supply_v", low=1, high=60, unit="V"),
            "supply_ma": fields.number("supply_ma", low=0, high=100_000, unit="mA"),
            "converter_bits": int(fields.number("converter_bits", low=0, high=24)),
            "converter_v": fields.number("converter_v", low=0, high=60, unit="V"),
            "has_radio": typed.get("has_radio") == "1",
            "rails_v": _rails(fields),
        }
        fields.check()
        pins = pins_from_rows((i + 1, row) for i, row in enumerate(rows))
        made = BoardType.model_validate({**dict(kind), **facts, "pins": pins})
        return _keep(
            state, door, typed, lambda plan: put_part(plan, "board_type", made),
            f"board {made.name} changed", f"boards?type={made.id}",
        )  # fmt: skip
    except (InputError, ConflictError, NotFoundError, ValueError) as exc:
        said = exc.sentence if hasattr(exc, "sentence") else "A figure is no number."
        return boards_page(
            request, state, bench, type_id, typed=typed, rows=rows, refusal=said, status=422
        )


def _rails(fields: Fields) -> tuple[float, ...]:
    """Volts that the board gives to sensors, typed with spaces between: `3.3 5`."""
    line = fields.text("rails_v", most=40)
    try:
        return tuple(number_of(part) for part in line.split())
    except ValueError:
        fields.refuse("rails_v", repr(line), "volts with spaces between, such as 3.3 5")
        return ()


def _sent_rows(typed: dict[str, str]) -> list[dict[str, str]]:
    found: dict[int, dict[str, str]] = {}
    for key, value in typed.items():
        named = re.fullmatch(r"r(\d{1,3})-(\w+)", key)
        if named and named[2] in COLUMNS:
            found.setdefault(int(named[1]), {})[named[2]] = value
    return [
        {key: found[i].get(key, "") for key in COLUMNS}
        for i in sorted(found)
        if any(value.strip() for value in found[i].values())
    ]


@router.post("/boards/remove")
def remove_board(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Take one's own kind of board away, where no board is of it."""
    typed = _typed(form)
    try:
        return _keep(
            state, door, typed,
            lambda plan: remove_part(plan, "board_type", typed.get("type", "")),
            "a kind of board taken away", "boards",
        )  # fmt: skip
    except (InputError, NotFoundError, ConflictError) as exc:
        bench = _open(state, door)
        return boards_page(
            request, state, bench, typed.get("type", ""), refusal=exc.sentence, status=422
        )


# --- parts


def parts_page(
    request: Request,
    state: AppState,
    bench: Bench,
    *,
    errors: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """What the plan needs, less the drawer, in packs."""
    lines = part_lines(bench.plan)
    return _page(
        request,
        state,
        bench,
        "shopping.html",
        "parts",
        status=status,
        lines=lines,
        total=total_price(lines),
        tools=TOOLS,
        currency=bench.plan.house.currency,
        errors=errors or {},
        typed=typed or {},
        refusal=refusal,
    )


@router.get("/parts")
def parts(request: Request, state: State, door: AnyDoor) -> Response:
    """Parts and tools."""
    return parts_page(request, state, _open(state, door))


@router.get("/parts.csv")
def parts_file(state: State, door: AnyDoor) -> Response:
    """The parts list as CSV."""
    text = parts_csv(part_lines(_open(state, door).plan))
    return csv_file(text, f"{door.house.slug}-parts.csv")


@router.post("/parts")
def keep_stock(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Keep packs, prices, drawer and spares of every part."""
    typed = _typed(form)
    bench = _open(state, door)
    fields = Fields(typed)
    lines = part_lines(bench.plan)
    stock = []
    for index, line in enumerate(lines):
        old = line.stock
        pack = fields.number(f"pack-{index}", low=1, high=10_000)
        price = fields.number(f"price-{index}", low=0, high=100_000)
        drawer = fields.number(f"drawer-{index}", low=0, high=100_000)
        spares = fields.number(f"spares-{index}", low=0, high=1000)
        if any(
            f"{name}-{index}" in fields.errors for name in ("pack", "price", "drawer", "spares")
        ):
            continue
        made = replace_stock(old, pack, price, drawer, spares)
        if made != Stock(part=old.part):
            stock.append(made)
    if fields.errors:
        return parts_page(request, state, bench, errors=fields.errors, typed=typed, status=422)
    named = {line.part for line in lines}

    def change(plan: Plan) -> Plan:
        kept = tuple(s for s in plan.stock if s.part not in named)
        return plan.model_copy(update={"stock": (*kept, *stock)})

    try:
        return _keep(state, door, typed, change, "drawer and prices kept", "parts")
    except (InputError, ConflictError) as exc:
        return parts_page(request, state, bench, typed=typed, refusal=exc.sentence, status=409)


def replace_stock(old: Stock, pack: float, price: float, drawer: float, spares: float) -> Stock:
    """What was typed of a part's stock."""
    return old.model_copy(
        update={
            "pack": int(pack),
            "pack_price": price,
            "in_drawer": drawer,
            "spares": int(spares),
        }
    )


# --- hands: remotes, selectors, names


def hands_page(
    request: Request,
    state: AppState,
    bench: Bench,
    *,
    heard: dict[str, Any] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """Remote codes, selector positions, names."""
    plan = bench.plan
    loads = [("", "nothing yet"), *((load.id, load.name) for load in plan.loads)]
    return _page(
        request,
        state,
        bench,
        "hands.html",
        "hands",
        status=status,
        remotes=[c for c in plan.controls if c.kind == "remote"],
        selectors=[c for c in plan.controls if c.kind == "selector"],
        buttons=range(1, REMOTE_BUTTONS + 1),
        detents=range(SELECTOR_DETENTS),
        loads=loads,
        alike=alike_names(spoken_names(plan)),
        names=spoken_names(plan),
        heard=heard,
        refusal=refusal,
    )


@router.get("/hands")
def hands(request: Request, state: State, door: AnyDoor) -> Response:
    """What hands work."""
    bench = _open(state, door)
    query = request.query_params
    heard = None
    control = bench.plan.control(query.get("control", ""))
    pressed = query.get("press", "")
    if control is not None and control.kind == "remote" and pressed.isdigit():
        row = presses(stand_in(int(pressed), control.id), control.lockout_ms)
        known = next((c for c in control.codes if c.code == row[0].code), None)
        heard = {"control": control, "presses": row, "known": known, "button": pressed}
    elif control is not None and control.kind == "selector" and pressed.isdigit():
        pattern = stand_in_pattern(int(pressed), control.contacts)
        match = next((p for p in control.positions if p.pattern == pattern), None)
        heard = {"control": control, "pattern": pattern, "known": match, "button": pressed}
    return hands_page(request, state, bench, heard=heard)


@router.post("/hands/learn")
def learn(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Write a captured code, or a selector's position, down under a name."""
    typed = _typed(form)
    name = typed.get("name", "").strip()

    def change(plan: Plan) -> Plan:
        control = part_of(plan, "control", typed.get("control", ""))
        if not name:
            raise InputError("name", got="nothing", allowed="what is printed on it")
        if control.kind == "remote":
            code = _checked_code(typed, name)
            if any(c.code == code.code for c in control.codes):
                raise InputError(
                    "code", got=f"{code.code} again", allowed="a code that is not there",
                    mend="Take the old one away, or press another button.",
                )  # fmt: skip
            made = control.model_copy(update={"codes": (*control.codes, code)})
        else:
            pattern = typed.get("pattern", "")
            if not re.fullmatch(r"[01]{1,8}", pattern):
                raise InputError("pattern", got=repr(pattern), allowed="0s and 1s")
            if any(p.pattern == pattern for p in control.positions):
                raise InputError(
                    "position", got=f"{pattern} again", allowed="a pattern that is not there",
                    mend="Two positions with one pattern cannot be told apart.",
                )  # fmt: skip
            position = SelectorPosition(name=name, pattern=pattern)
            made = control.model_copy(update={"positions": (*control.positions, position)})
        return put_part(plan, "control", made)

    return _hands_change(request, state, door, typed, change, f"{name} learnt")


def _checked_code(typed: dict[str, str], name: str) -> RemoteCode:
    code, does = typed.get("code", ""), typed.get("does", "toggle")
    if not re.fullmatch(r"[0-9a-f]{2,32}", code):
        raise InputError("code", got=repr(code), allowed="2 to 32 digits 0–9, a–f")
    if does not in ("on", "off", "toggle", "up", "down"):
        raise InputError("does", got=repr(does), allowed="on, off, toggle, up or down")
    return RemoteCode.model_validate(
        {"name": name, "code": code, "load": typed.get("load") or None, "does": does}
    )


@router.post("/hands/forget")
def forget(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Take a code or a position away."""
    typed = _typed(form)
    name = typed.get("name", "")

    def change(plan: Plan) -> Plan:
        control = part_of(plan, "control", typed.get("control", ""))
        made = control.model_copy(
            update={
                "codes": tuple(c for c in control.codes if c.name != name),
                "positions": tuple(p for p in control.positions if p.name != name),
            }
        )
        return put_part(plan, "control", made)

    return _hands_change(request, state, door, typed, change, f"{name} taken away")


def _hands_change(
    request: Request, state: AppState, door: Door, typed: dict[str, str], change: Change, what: str
) -> Response:
    try:
        return _keep(state, door, typed, change, what, "hands")
    except (InputError, NotFoundError, ConflictError) as exc:
        return hands_page(request, state, _open(state, door), refusal=exc.sentence, status=422)
