"""Boards of one's own: the pin table as an editor, CSV in and out."""

import math
import re
from dataclasses import dataclass

from fastapi import APIRouter, Request, Response
from starlette.datastructures import UploadFile

from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.core.base.figures import as_typed, short
from aldea.core.base.numbers import number_of
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import fresh_id, part_of, put_part, remove_part
from aldea.core.plan.panel import BoardType
from aldea.core.words.verdicts import Verdict
from aldea.formats.board_csv import (
    COLUMNS,
    MOST_BYTES,
    board_csv,
    pin_cells,
    pins_from_rows,
    read_board_csv,
)
from aldea.web.benches.wire.pages import keep_and_go, wire_sub_page
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.files import csv_file
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import OpenHouse, open_house_of
from aldea.web.shell.state import AppState

HEADS = {
    **{key: key.replace("_", " ") for key in COLUMNS},
    "at_boot": "at start",
    "boot_ms": "start, ms",
    "boot_pull": "start pull",
    "boot_needs": "start needs",
    "limit_ma": "limit, mA",
    "tolerates_v": "tolerates, V",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class BoardFigure:
    """A figure of a kind of board, as its form asks for it."""

    name: str
    label: str
    unit: str
    low: float
    high: float
    whole: bool = False


FIGURES = (
    BoardFigure(name="logic_v", label="Logic", unit="V logic", low=1, high=60),
    BoardFigure(name="supply_v", label="Supply", unit="V supply", low=1, high=60),
    BoardFigure(name="supply_ma", label="Takes", unit="mA", low=0, high=100_000),
    BoardFigure(name="converter_bits", label="Converter", unit="bits", low=0, high=24, whole=True),
    BoardFigure(name="converter_v", label="Converter reference", unit="V ref", low=0, high=60),
    BoardFigure(
        name="settle_us", label="Waits after switching a channel", unit="µs wait", low=0, high=1e6
    ),
)
router = APIRouter(prefix="/h/{slug}/wire", include_in_schema=False)
BLANK_ROWS = 3


def boards_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    type_id: str,
    *,
    typed: dict[str, str] | None = None,
    rows: list[dict[str, str]] | None = None,
    refusal: str = "",
    status: int = 200,
) -> Response:
    """The pin table of a type: the generic ones to look at, one's own to edit."""
    types = board_types(opened.plan)
    board_type = types.get(type_id) or next(iter(types.values()))
    mine = {own_type.id for own_type in opened.plan.board_types}
    own = board_type.id in mine
    edits = own and opened.access.may_build
    shown = rows if rows is not None else [pin_cells(pin) for pin in board_type.pins]
    blank = dict.fromkeys(COLUMNS, "")
    return wire_sub_page(
        request,
        state,
        opened,
        "wire/boards/boards.html",
        "boards",
        status=status,
        verdict_words=Verdict(
            state="holds" if own else "owed",
            sentence=f"{board_type.name}: {len(board_type.pins)} pins.",
            rest=board_type.note,
        ),
        types=[(known, known.id in mine) for known in types.values()],
        board_type=board_type,
        own=own,
        edits=edits,
        asked=FIGURES,
        figures=_shown_figures(board_type, typed),
        columns=COLUMNS,
        heads=HEADS,
        rows=[*shown, *([blank] * BLANK_ROWS if edits else [])],
        typed=typed or {},
        refusal=refusal,
    )


def _shown_figures(board_type: BoardType, typed: dict[str, str] | None) -> dict[str, str]:
    """What stands in the fields: as typed where it was refused, else as the plan has it."""
    shown = {row.name: as_typed(getattr(board_type, row.name)) for row in FIGURES}
    shown["name"] = board_type.name
    shown["rails_v"] = " ".join(as_typed(volts) for volts in board_type.rails_v)
    shown["has_radio"] = "1" if board_type.has_radio else ""
    if typed:
        shown |= {"has_radio": ""} | {key: typed[key] for key in shown if key in typed}
    return shown


@router.get("/boards")
def boards(request: Request, state: State, access: MemberAccess) -> Response:
    """Every kind of board that the plan knows."""
    return boards_page(
        request, state, open_house_of(state, access), request.query_params.get("type", "")
    )


@router.get("/boards/{type_id}.csv")
def board_file(state: State, access: MemberAccess, type_id: str) -> Response:
    """The pin table of a type as CSV."""
    board_type = board_types(open_house_of(state, access).plan).get(type_id)
    if board_type is None:
        raise NotFoundError("board", got=repr(type_id), allowed="a kind of board of this plan")
    return csv_file(board_csv(board_type), f"{type_id}.csv")


@router.post("/boards/copy")
def copy_board(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Begin a board of one's own from a kind that is there, or from a CSV file."""
    typed = typed_of(form)
    opened = open_house_of(state, access)
    upload = form.get("table")
    name = typed.get("name", "").strip()
    try:
        board_type = _copied(opened.plan, typed.get("type", ""), name)
        if isinstance(upload, UploadFile) and upload.filename:
            board_type = board_type.model_copy(
                update={"pins": read_board_csv(upload.file.read(MOST_BYTES + 1))}
            )
        what = f"board {board_type.name} made"
        return keep_and_go(
            state, access, typed, lambda plan: put_part(plan, "board_type", board_type), what,
            f"boards?type={board_type.id}",
        )  # fmt: skip
    except (InputError, ConflictError) as exc:
        return boards_page(
            request, state, opened, typed.get("type", ""), typed=typed, refusal=exc.sentence,
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
def keep_board(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Keep the table of one's own board: all rows, or none."""
    typed = typed_of(form)
    opened = open_house_of(state, access)
    type_id = typed.get("type", "")
    rows = _sent_rows(typed)
    fields = Fields(typed)
    try:
        old = part_of(opened.plan, "board_type", type_id)
        facts: dict[str, object] = {row.name: _figure(fields, row) for row in FIGURES}
        facts["name"] = fields.text("name", most=80) or old.name
        facts["has_radio"] = typed.get("has_radio") == "1"
        facts["rails_v"] = _rails(fields)
        fields.check()
        pins = pins_from_rows((i + 1, row) for i, row in enumerate(rows))
        board_type = BoardType.model_validate({**dict(old), **facts, "pins": pins})
        return keep_and_go(
            state, access, typed, lambda plan: put_part(plan, "board_type", board_type),
            f"board {board_type.name} changed", f"boards?type={board_type.id}",
        )  # fmt: skip
    except (InputError, ConflictError, NotFoundError, ValueError) as exc:
        refusal = getattr(exc, "sentence", "A figure is no number.")
        return boards_page(
            request, state, opened, type_id, typed=typed, rows=rows, refusal=refusal, status=422
        )


def _figure(fields: Fields, row: BoardFigure) -> float:
    """A figure within its limits; a whole one where only that can be."""
    value = fields.number(row.name, low=row.low, high=row.high, unit=row.unit)
    if row.whole and math.isfinite(value):
        if value != int(value):
            fields.refuse(row.name, f"{short(value)}", "a whole number")
        return int(value)
    return value


def _rails(fields: Fields) -> tuple[float, ...]:
    """Volts that the board gives to sensors, typed with spaces between: `3.3 5`."""
    line = fields.text("rails_v", most=40)
    try:
        return tuple(number_of(part) for part in line.split())
    except ValueError:
        fields.refuse("rails_v", repr(line), "volts with spaces between, such as 3.3 5")
        return ()


def _sent_rows(typed: dict[str, str]) -> list[dict[str, str]]:
    rows: dict[int, dict[str, str]] = {}
    for key, value in typed.items():
        named = re.fullmatch(r"r(\d{1,3})-(\w+)", key)
        if named and named[2] in COLUMNS:
            rows.setdefault(int(named[1]), {})[named[2]] = value
    return [
        {key: rows[i].get(key, "") for key in COLUMNS}
        for i in sorted(rows)
        if any(value.strip() for value in rows[i].values())
    ]


@router.post("/boards/remove")
def remove_board(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take one's own kind of board away, where no board is of it."""
    typed = typed_of(form)
    try:
        return keep_and_go(
            state, access, typed,
            lambda plan: remove_part(plan, "board_type", typed.get("type", "")),
            "a kind of board removed", "boards",
        )  # fmt: skip
    except (InputError, NotFoundError, ConflictError) as exc:
        opened = open_house_of(state, access)
        return boards_page(
            request, state, opened, typed.get("type", ""), refusal=exc.sentence, status=422
        )
