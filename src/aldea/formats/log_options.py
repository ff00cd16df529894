"""How a reading log is written, guessed from its first lines and corrected by a person."""

import csv
import io
import re
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, get_args
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from aldea.core.base.errors import LogFileError

TimeKind = Literal["iso", "epoch_s", "epoch_ms", "local"]
MOST_BYTES = 400_000_000
HEAD_BYTES = 65_536
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab"}
LOCAL_FORMATS = (
    "%Y-%m-%d %H:%M:%S",
    "%Y-%m-%d %H:%M",
    "%d.%m.%Y %H:%M:%S",
    "%d.%m.%Y %H:%M",
    "%d/%m/%Y %H:%M:%S",
    "%d/%m/%Y %H:%M",
    "%m/%d/%Y %H:%M:%S",
    "%m/%d/%Y %H:%M",
)
MISSING_WORDS = frozenset({"", "nan", "null", "none", "na", "n/a", "-", "unavailable", "unknown"})
ISO = re.compile(
    r"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}:\d{2}(\.\d{1,9})?(Z|[+-]\d{2}:\d{2})$", re.IGNORECASE
)


@dataclass(frozen=True, slots=True, kw_only=True)
class LogOptions:
    """Everything needed to read a log; columns count from 0."""

    delimiter: str = ","
    decimal: str = "."
    header_rows: int = 1
    time_column: int = 0
    value_column: int = 1
    time_kind: TimeKind = "iso"
    local_format: str = LOCAL_FORMATS[0]
    zone: str = "UTC"

    def checked(self, columns: int) -> "LogOptions":
        """The same, or `LogFileError` naming the option that cannot be."""
        problems: list[tuple[str, bool, object, str]] = [
            ("delimiter", self.delimiter in DELIMITERS, self.delimiter, "comma, semicolon or tab"),
            ("decimal", self.decimal in (".", ","), self.decimal, "point or comma"),
            (
                "decimal",
                self.decimal != self.delimiter,
                "comma for decimals and between columns",
                "two different signs",
            ),
            ("rows of heading", 0 <= self.header_rows <= 100, self.header_rows, "0 to 100"),
            (
                "time column",
                0 <= self.time_column < columns,
                self.time_column + 1,
                f"1 to {columns}",
            ),
            (
                "value column",
                0 <= self.value_column < columns,
                self.value_column + 1,
                f"1 to {columns}",
            ),
            (
                "value column",
                self.value_column != self.time_column,
                "the time column",
                "another column",
            ),
            ("time", self.time_kind in get_args(TimeKind), self.time_kind, "one of the list"),
            ("time", self.local_format in LOCAL_FORMATS, self.local_format, "one of the list"),
        ]
        for where, good, got, allowed in problems:
            if not good:
                raise LogFileError(where, got=str(got), allowed=allowed)
        try:
            ZoneInfo(self.zone)
        except (ZoneInfoNotFoundError, ValueError, OSError) as exc:
            raise LogFileError(
                "zone", got=repr(self.zone), allowed="a name such as Europe/Madrid"
            ) from exc
        return self


def head_rows(head: bytes, delimiter: str, most: int = 40) -> list[list[str]]:
    """The first rows of a log as text; a cut last line is left out."""
    text = head.removeprefix(b"\xef\xbb\xbf").decode("utf-8", errors="replace")
    if len(head) >= HEAD_BYTES and "\n" in text:
        text = text[: text.rindex("\n") + 1]
    reader = csv.reader(io.StringIO(text.replace("\x00", "�")), delimiter=delimiter)
    rows: list[list[str]] = []
    try:
        for row in reader:
            rows.append(row)
            if len(rows) == most:
                break
    except csv.Error:
        pass  # what was read until there is enough for a look
    return rows


def usual_columns(rows: list[list[str]]) -> int:
    """The width that most of the rows have; 0 where there are none."""
    widths = [len(row) for row in rows if any(cell.strip() for cell in row)]
    return max(set(widths), key=lambda width: (widths.count(width), width)) if widths else 0


def guess_options(head: bytes, zone: str) -> LogOptions:
    """The likeliest reading of the first lines; never raises for odd content."""
    delimiter = max(DELIMITERS, key=lambda sign: _consistency(head, sign))
    rows = head_rows(head, delimiter)
    columns = usual_columns(rows)
    header_rows = next(
        (i for i, row in enumerate(rows[:10]) if any(_kind_of(cell) for cell in row)), 0
    )
    body = rows[header_rows : header_rows + 20]
    options = LogOptions(delimiter=delimiter, header_rows=header_rows, zone=zone)
    for column in range(columns):
        cells = [row[column].strip() for row in body if column < len(row)]
        kinds = [_kind_of(cell) for cell in cells]
        kind = max(set(kinds), key=kinds.count, default=None)
        if kind is not None:
            options = replace(options, time_column=column, time_kind=kind)
            if kind == "local":
                options = replace(options, local_format=_common_format(cells))
            break
    decimal = "."
    for column in range(columns):
        cells = [row[column].strip() for row in body if column < len(row)]
        if column == options.time_column or not any(cells):
            continue
        filled = [cell for cell in cells if cell.lower() not in MISSING_WORDS]
        if filled and all(re.fullmatch(r"[+-]?\d+([.,]\d+)?", cell) for cell in filled):
            if delimiter != "," and any("," in cell for cell in filled):
                decimal = ","
            return replace(options, value_column=column, decimal=decimal)
    return replace(options, value_column=1 if options.time_column == 0 else 0)


def _consistency(head: bytes, delimiter: str) -> tuple[int, int]:
    rows = head_rows(head, delimiter)[:20]
    common = usual_columns(rows)
    widths = [len(row) for row in rows]
    # A decimal comma in every row also splits evenly: fewer, steadier columns win over more.
    return (widths.count(common) if common > 1 else 0, 1 if delimiter != "," else 0)


def _kind_of(cell: str) -> TimeKind | None:
    cell = cell.strip()
    if is_iso(cell):
        return "iso"
    if re.fullmatch(r"\d{13}", cell):
        return "epoch_ms"
    if re.fullmatch(r"\d{10}(\.\d+)?", cell):
        return "epoch_s"
    return "local" if _format_of(cell) else None


def _format_of(cell: str) -> str | None:
    for pattern in LOCAL_FORMATS:
        if fits(cell, pattern):
            return pattern
    return None


def _common_format(cells: list[str]) -> str:
    for pattern in LOCAL_FORMATS:
        if all(fits(cell, pattern) for cell in cells if _kind_of(cell) == "local"):
            return pattern
    return LOCAL_FORMATS[0]


def is_iso(cell: str) -> bool:
    """Whether a time is written after ISO 8601 with seconds and an offset."""
    if not ISO.match(cell):
        return False
    try:
        datetime.fromisoformat(cell.upper().replace("Z", "+00:00"))
    except ValueError:
        return False
    return True


def fits(cell: str, pattern: str) -> bool:
    """Whether a wall-clock time is written after a pattern; `T` may stand for the space."""
    try:
        datetime.strptime(cell.replace("T", " "), pattern)  # noqa: DTZ007  a wall-clock time
    except ValueError:
        return False
    return True
