"""Boards of one's own: the pin table as an editor, CSV in and out."""

import re

from fastapi import APIRouter, Request, Response
from starlette.datastructures import UploadFile

from aldea.core.errors import ConflictError, InputError, NotFoundError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import fresh_id, part_of, put_part, remove_part
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import BoardType
from aldea.formats.board_csv import (
    COLUMNS,
    MOST_BYTES,
    board_csv,
    pin_cells,
    pins_from_rows,
    read_board_csv,
)
from aldea.web.forms import Fields, number_of, typed_of
from aldea.web.pages import Bench
from aldea.web.routes.wire_pages import csv_file, keep_and_go, opened, wire_sub_page
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState

HEADS = {
    **{key: key.replace("_", " ") for key in COLUMNS},
    "at_boot": "at start",
    "boot_ms": "start, ms",
    "boot_pull": "start pull",
    "boot_needs": "start needs",
    "limit_ma": "limit, mA",
    "tolerates_v": "tolerates, V",
}
router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)
BLANK_ROWS = 3


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
    return wire_sub_page(
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
        heads=HEADS,
        rows=shown,
        blanks=BLANK_ROWS if own else 0,
        typed=typed or {},
        refusal=refusal,
    )


@router.get("/boards")
def boards(request: Request, state: State, door: AnyDoor) -> Response:
    """Every kind of board that the plan knows."""
    return boards_page(request, state, opened(state, door), request.query_params.get("type", ""))


@router.get("/boards/{type_id}.csv")
def board_file(state: State, door: AnyDoor, type_id: str) -> Response:
    """The pin table of a type as CSV."""
    kind = board_types(opened(state, door).plan).get(type_id)
    if kind is None:
        raise NotFoundError("board", got=repr(type_id), allowed="a kind of board of this plan")
    return csv_file(board_csv(kind), f"{type_id}.csv")


@router.post("/boards/copy")
def copy_board(request: Request, state: State, door: BuilderDoor, form: Sent) -> Response:
    """Begin a board of one's own from a kind that is there, or from a CSV file."""
    typed = typed_of(form)
    bench = opened(state, door)
    upload = form.get("table")
    name = typed.get("name", "").strip()
    try:
        made = _copied(bench.plan, typed.get("type", ""), name)
        if isinstance(upload, UploadFile) and upload.filename:
            made = made.model_copy(
                update={"pins": read_board_csv(upload.file.read(MOST_BYTES + 1))}
            )
        what = f"board {made.name} made"
        return keep_and_go(
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
    typed = typed_of(form)
    bench = opened(state, door)
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
            "settle_us": fields.number("settle_us", low=0, high=1e6, unit="µs"),
            "has_radio": typed.get("has_radio") == "1",
            "rails_v": _rails(fields),
        }
        fields.check()
        pins = pins_from_rows((i + 1, row) for i, row in enumerate(rows))
        made = BoardType.model_validate({**dict(kind), **facts, "pins": pins})
        return keep_and_go(
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
    typed = typed_of(form)
    try:
        return keep_and_go(
            state, door, typed,
            lambda plan: remove_part(plan, "board_type", typed.get("type", "")),
            "a kind of board taken away", "boards",
        )  # fmt: skip
    except (InputError, NotFoundError, ConflictError) as exc:
        bench = opened(state, door)
        return boards_page(
            request, state, bench, typed.get("type", ""), refusal=exc.sentence, status=422
        )
