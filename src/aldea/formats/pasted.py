"""Pairs of numbers pasted from a spreadsheet or typed, one pair a line."""

from aldea.core.errors import InputError

MOST_LINES = 200


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
