"""A board's pin table as rows of text and as CSV: what a table editor sends and a file holds."""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, get_args

from pydantic import ValidationError

from aldea.core.base.errors import InputError
from aldea.core.base.numbers import number_of
from aldea.core.base.unfit import unfit
from aldea.core.plan.panel import BoardType, Capability, Pin
from aldea.formats.cells import safe_cell

COLUMNS = (
    "name",
    "number",
    "can",
    "at_boot",
    "boot_ms",
    "boot_pull",
    "boot_needs",
    "programming",
    "analog_dies_with_radio",
    "limit_ma",
    "tolerates_v",
    "port",
    "note",
)
YES = {"yes", "true", "1", "x"}
MOST_PINS = 400
MOST_BYTES = 200_000


def pin_cells(pin: Pin) -> dict[str, str]:
    """A pin as the cells of its row."""
    facts = pin.model_dump()
    facts["can"] = " ".join(pin.can)
    for key in ("programming", "analog_dies_with_radio"):
        facts[key] = "yes" if facts[key] else ""
    for key in ("boot_ms", "limit_ma", "tolerates_v"):
        facts[key] = f"{facts[key]:g}"
    return {key: str(facts[key]) for key in COLUMNS}


def pins_from_rows(rows: Iterable[tuple[int, Mapping[str, str]]]) -> tuple[Pin, ...]:
    """Pins from (row number, cells); rows without a name are left out.

    Raises `InputError` that names row and column, what stood there and what may.
    """
    pins: list[Pin] = []
    seen: dict[str, int] = {}
    for number, cells in rows:
        name = cells.get("name", "").strip()
        if not name:
            continue
        pin = _pin(number, {key: cells.get(key, "").strip() for key in COLUMNS})
        for value in (pin.name, f"number {pin.number}"):
            if value in seen:
                raise InputError(
                    f"row {number}",
                    got=f"{value} again",
                    allowed=f"what row {seen[value]} does not have",
                )
            seen[value] = number
        pins.append(pin)
        if len(pins) > MOST_PINS:
            raise InputError("pins", got=f"over {MOST_PINS}", allowed=f"up to {MOST_PINS}")
    if not pins:
        raise InputError("pins", got="none", allowed="at least one pin with a name")
    return tuple(pins)


def _pin(number: int, cells: dict[str, str]) -> Pin:
    facts: dict[str, Any] = {key: value for key, value in cells.items() if value}
    facts["can"] = tuple(cells["can"].replace(",", " ").split())
    for word in facts["can"]:
        if word not in get_args(Capability):
            raise InputError(
                f"row {number}, can",
                got=repr(word),
                allowed=" ".join(get_args(Capability)),
                fix="Write what the pin can do with spaces between.",
            )
    for key in ("programming", "analog_dies_with_radio"):
        facts[key] = cells[key].lower() in YES
    for key in ("number", "boot_ms", "limit_ma", "tolerates_v"):
        if key in facts:
            try:
                figure = number_of(facts[key])
            except ValueError as exc:
                raise InputError(
                    f"row {number}, {key}", got=repr(cells[key]), allowed="a number"
                ) from exc
            facts[key] = int(figure) if key == "number" and figure == int(figure) else figure
    try:
        return Pin.model_validate(facts)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        key = first.steps[0] if first.steps else "name"
        raise InputError(
            f"row {number}, {key}", got=repr(cells.get(key, "")), allowed=first.allowed
        ) from exc


def board_csv(kind: BoardType) -> str:
    """The pin table as CSV, with a heading."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for pin in kind.pins:
        cells = pin_cells(pin)
        writer.writerow([safe_cell(cells[key]) for key in COLUMNS])
    return out.getvalue()


def read_board_csv(raw: bytes) -> tuple[Pin, ...]:
    """Pins from a CSV file with the heading of `board_csv`; columns in any order.

    Raises `InputError` for another heading, too many bytes, and at the first wrong cell.
    """
    if len(raw) > MOST_BYTES:
        raise InputError("board file", got=f"{len(raw)} bytes", allowed=f"up to {MOST_BYTES}")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise InputError(
            "board file", got=f"a byte that is not UTF-8 at {exc.start}", allowed="UTF-8 text"
        ) from exc
    delimiter = (
        ";" if text.split("\n", 1)[0].count(";") > text.split("\n", 1)[0].count(",") else ","
    )
    # Line ends as any system writes them; inside a cell they are blanks anyway.
    plain = text.replace("\r\n", "\n").replace("\r", "\n")
    try:
        table = list(csv.reader(io.StringIO(plain), delimiter=delimiter))
    except csv.Error as exc:
        raise InputError("board file", got=str(exc), allowed="plain CSV") from exc
    head = [cell.strip().lower() for cell in table[0]] if table else []
    unknown = [cell for cell in head if cell not in COLUMNS]
    missing = [key for key in ("name", "number", "can") if key not in head]
    if unknown or missing:
        got = f"the columns {', '.join(head) or 'none'}"
        fix = f"Missing: {', '.join(missing)}." if missing else f"Unknown: {', '.join(unknown)}."
        raise InputError("line 1", got=got, allowed=", ".join(COLUMNS), fix=fix)
    return pins_from_rows(
        (index + 2, dict(zip(head, _plain(row), strict=False)))
        for index, row in enumerate(table[1:])
    )


def _plain(row: Sequence[str]) -> list[str]:
    return [cell.removeprefix("'") for cell in row]
