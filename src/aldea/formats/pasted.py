"""Pairs of numbers pasted from a spreadsheet or typed, one pair a line."""

from aldea.core.base.errors import InputError
from aldea.core.base.figures import thousands

MOST_LINES = 200
MOST_ROWS = 20_000


def read_pasted(text: str) -> list[tuple[float, float]]:
    """Two numbers a line; between them a tab, a semicolon, blanks, or a comma.

    A decimal comma is read as one unless the comma is all that parts the two. A first line of
    words is a heading and left out. Raises `InputError` that names the line and what it holds.
    """
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MOST_LINES:
        raise InputError("points", got=f"{len(lines)} lines", allowed=f"up to {MOST_LINES}")
    pairs: list[tuple[float, float]] = []
    for place, (number, line) in enumerate(lines):
        cells = _cells(line)
        try:
            first, second = (float(cell.replace("−", "-").replace(",", ".")) for cell in cells)
        except ValueError as exc:
            heading = place == 0 and not any(letter.isdigit() for letter in line)
            if heading:
                continue
            raise InputError(
                f"line {number}",
                got=repr(line[:60]),
                allowed="two numbers",
                mend="Write one pair a line, such as 21.5 and 11650 with a blank between.",
            ) from exc
        pairs.append((first, second))
    return pairs


def _cells(line: str) -> list[str]:
    for mark in ("\t", ";"):
        if mark in line:
            return [cell.strip() for cell in line.split(mark)]
    blanks = line.split()
    if len(blanks) == 2:
        return [cell.rstrip(",") for cell in blanks]
    return [cell.strip() for cell in line.split(",")]


def read_rows(text: str) -> list[list[float]]:
    """Rows of numbers, as many in each: a table pasted from a spreadsheet, or a log.

    A first row of words is a heading. Raises `InputError` that names the row.
    """
    rows: list[list[float]] = []
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MOST_ROWS:
        raise InputError(
            "rows", got=f"{thousands(len(lines))} rows", allowed=f"up to {thousands(MOST_ROWS)}"
        )
    for place, (number, line) in enumerate(lines):
        try:
            row = [float(cell.replace(",", ".")) for cell in _row(line)]
        except ValueError as exc:
            if place == 0:
                continue
            raise InputError(f"row {number}", got=repr(line[:60]), allowed="numbers only") from exc
        if rows and len(row) != len(rows[0]):
            raise InputError(
                f"row {number}", got=f"{len(row)} values", allowed=f"{len(rows[0])}, as before"
            )
        rows.append(row)
    return rows


def _row(line: str) -> list[str]:
    for mark in ("\t", ";"):
        if mark in line:
            return [cell.strip() for cell in line.split(mark)]
    return line.split() if " " in line else line.split(",")
