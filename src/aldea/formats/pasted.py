"""Rows of numbers pasted from a spreadsheet or typed, one row a line."""

from aldea.core.base.errors import InputError
from aldea.core.base.figures import thousands
from aldea.core.base.numbers import number_of

MOST_LINES = 200
MOST_ROWS = 20_000


def read_pasted(text: str) -> list[tuple[float, float]]:
    """Two numbers a line; between them a tab, a semicolon, blanks, or a comma.

    A decimal comma is read as one unless the comma is all that parts the two. A first line of
    words is a heading and left out. Raises `InputError` that names the line and what it holds.
    """
    lines = _lines(text)
    if len(lines) > MOST_LINES:
        raise InputError("points", got=f"{len(lines)} lines", allowed=f"up to {MOST_LINES}")
    pairs: list[tuple[float, float]] = []
    for number, line in lines:
        try:
            first, second = map(number_of, _pair(line))
        except ValueError as exc:
            raise InputError(
                f"line {number}",
                got=repr(line[:60]),
                allowed="two numbers",
                fix="Write one pair a line, such as 21.5 and 11650 with a blank between.",
            ) from exc
        pairs.append((first, second))
    return pairs


def read_rows(text: str) -> list[list[float]]:
    """Rows of numbers, as many in each: a table pasted from a spreadsheet, or a log.

    A first line of words is a heading and left out. Raises `InputError` that names the line.
    """
    rows: list[list[float]] = []
    lines = _lines(text)
    if len(lines) > MOST_ROWS:
        raise InputError(
            "rows", got=f"{thousands(len(lines))} rows", allowed=f"up to {thousands(MOST_ROWS)}"
        )
    for number, line in lines:
        try:
            row = [number_of(cell) for cell in _cells(line)]
        except ValueError as exc:
            raise InputError(
                f"line {number}",
                got=repr(line[:60]),
                allowed="numbers only",
                fix="A first line is a heading only where it has no digit.",
            ) from exc
        if rows and len(row) != len(rows[0]):
            raise InputError(
                f"line {number}", got=f"{len(row)} values", allowed=f"{len(rows[0])}, as before"
            )
        rows.append(row)
    return rows


def _lines(text: str) -> list[tuple[int, str]]:
    """What is written, each line with its number; a first line without a digit is a heading."""
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    has_heading = bool(lines) and not any(letter.isdigit() for letter in lines[0][1])
    return lines[1:] if has_heading else lines


def _pair(line: str) -> list[str]:
    blanks = line.split()
    if len(blanks) == 2 and ";" not in line:
        return [cell.rstrip(",") for cell in blanks]
    return _cells(line)


def _cells(line: str) -> list[str]:
    for sign in ("\t", ";"):
        if sign in line:
            return [cell.strip() for cell in line.split(sign)]
    return line.split() if " " in line else line.split(",")
