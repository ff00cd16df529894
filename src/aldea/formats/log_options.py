"""How a reading log is written, guessed from its first lines and corrected by a person."""

import csv
import io
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import pairwise
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
    "%m/%d/%Y %I:%M:%S %p",
    "%m/%d/%Y %I:%M %p",
    "%d/%m/%Y %I:%M:%S %p",
    "%d/%m/%Y %I:%M %p",
    "%Y-%m-%d %I:%M:%S %p",
    "%Y-%m-%d %I:%M %p",
)
USUAL_MISSING = "nan, null, none, na, n/a, -"
MOST_MISSING = 200  # letters of what stands for a missing reading
ISO = re.compile(
    r"^(\d{4}-\d{2}-\d{2})[T ](\d{2}:\d{2})(:\d{2}(?:\.\d{1,9})?)? ?(Z|[+-]\d{2}(?::?\d{2})?)$",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class LogOptions:
    """Everything needed to read a log; columns count from 0.

    With `date_column` the date stands in a column of its own, before the time of day. `unit` is a
    key of `log_units`, empty for the unit of the plan. `missing` are the words for no reading.
    With `replaces` what is on record in the log's span gives way; else it stays as it is.
    """

    delimiter: str = ","
    decimal: str = "."
    header_rows: int = 1
    time_column: int = 0
    value_column: int = 1
    time_kind: TimeKind = "iso"
    local_format: str = LOCAL_FORMATS[0]
    zone: str = "UTC"
    date_column: int | None = None
    unit: str = ""
    missing: str = USUAL_MISSING
    replaces: bool = False

    @property
    def missing_words(self) -> frozenset[str]:
        """What stands for a missing reading, in small letters; nothing at all among it."""
        return frozenset(word.strip().lower() for word in self.missing.split(",")) | {""}

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
            (
                "date column",
                self.date_column is None or 0 <= self.date_column < columns,
                (self.date_column or 0) + 1,
                f"1 to {columns}, or none",
            ),
            (
                "date column",
                self.date_column not in (self.time_column, self.value_column),
                "a column that is read already",
                "another column",
            ),
            (
                "missing",
                len(self.missing) <= MOST_MISSING,
                f"{len(self.missing)} letters",
                f"up to {MOST_MISSING}",
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


def shared(own: LogOptions, of: LogOptions) -> LogOptions:
    """Options of another column of a file: rows and times as `of` reads them, the rest its own.

    Words for no reading are those of both; a number that stands for none may be a value there.
    """
    words = [word.strip() for word in own.missing.split(",")]
    words += [word for word in map(str.strip, of.missing.split(",")) if not _is_number(word)]
    return replace(
        of,
        value_column=own.value_column,
        unit=own.unit,
        missing=", ".join(dict.fromkeys(words)),
        replaces=own.replaces,
    )


def _is_number(word: str) -> bool:
    try:
        float(word.replace(",", "."))
    except ValueError:
        return False
    return word.lower() != "nan"


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


def _all_alike(_heading: str, _value: float) -> float:
    return 0.0


def guess_options(
    head: bytes, zone: str, wanted: Callable[[str, float], float] = _all_alike
) -> LogOptions:
    """The likeliest reading of the first lines; never raises for odd content.

    `wanted` says how much a column is wanted, by its heading and its middle value; the first of
    those that are wanted most is read.
    """
    delimiter = max(DELIMITERS, key=lambda sign: _consistency(head, sign))
    rows = head_rows(head, delimiter)
    columns = usual_columns(rows)
    header_rows = next(
        (
            i
            for i, row in enumerate(rows[:10])
            if any(_kind_of(cell) for cell in (*row, *_joined(row)))
        ),
        0,
    )
    body = rows[header_rows : header_rows + 20]
    options = LogOptions(delimiter=delimiter, header_rows=header_rows, zone=zone)
    options = _with_time(options, body, columns)
    read = {options.time_column, options.date_column}
    numbers = number_columns(rows, options)
    for mark in (".", ","):
        found = {c: v for c, (m, v) in numbers.items() if m == mark and c not in read}
        if found:
            heading = rows[header_rows - 1] if header_rows else []
            named = {c: heading[c] if c < len(heading) else "" for c in found}
            best = max(found, key=lambda c: (wanted(named[c], found[c]), -c))
            return replace(options, value_column=best, decimal=mark)
    return replace(options, value_column=1 if options.time_column == 0 else 0)


def number_columns(rows: list[list[str]], options: LogOptions) -> dict[int, tuple[str, float]]:
    """The columns that hold numbers, each with its decimal sign and its middle value."""
    body = rows[options.header_rows : options.header_rows + 20]
    found: dict[int, tuple[str, float]] = {}
    for column in range(usual_columns(rows)):
        cells = [row[column].strip() for row in body if column < len(row)]
        filled = [cell for cell in cells if cell.lower() not in options.missing_words]
        if column in (options.time_column, options.date_column) or not filled:
            continue
        if all(re.fullmatch(r"[+-]?\d+([.,]\d+)?", cell) for cell in filled):
            comma = options.delimiter != "," and any("," in cell for cell in filled)
            values = sorted(float(cell.replace(",", ".")) for cell in filled)
            found[column] = ("," if comma else ".", values[len(values) // 2])
    return found


def column_values(rows: list[list[str]], options: LogOptions) -> list[float]:
    """The numbers of the value column in some rows; what is none is passed over."""
    found: list[float] = []
    for row in rows[options.header_rows :]:
        cell = cell_of(row, options.value_column, None)
        if options.decimal == ",":
            cell = cell.replace(",", ".")
        if re.fullmatch(r"[+-]?\d+(\.\d+)?", cell):
            found.append(float(cell))
    return found


def _with_time(options: LogOptions, body: list[list[str]], columns: int) -> LogOptions:
    """The first column that holds times; or two beside each other, of a date and a time of day."""
    for parts in (*((c, None) for c in range(columns)), *((c + 1, c) for c in range(columns - 1))):
        time, date = parts
        cells = [cell_of(row, time, date) for row in body]
        kinds = [_kind_of(cell) for cell in cells]
        told = [kind for kind in kinds if kind is not None]
        kind = max(told, key=told.count, default=None)  # of a tie the first, in any process
        if kind is not None and 2 * told.count(kind) >= len(kinds):
            found = replace(options, time_column=time, date_column=date, time_kind=kind)
            return replace(found, local_format=_common_format(cells)) if kind == "local" else found
    return options


def cell_of(row: list[str], time: int, date: int | None) -> str:
    """The time of a row, with its date before it where that has a column of its own."""
    cells = [row[c].strip() if c < len(row) else "" for c in (date, time) if c is not None]
    return " ".join(cells).strip()


def _joined(row: list[str]) -> list[str]:
    return [f"{a.strip()} {b.strip()}" for a, b in pairwise(row)]


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
    """Whether a time is written after ISO 8601 with an offset; seconds may be left out."""
    found = ISO.match(cell)
    if not found:
        return False
    day, clock, seconds, offset = found.groups()
    try:
        datetime.fromisoformat(f"{day}T{clock}{(seconds or ':00')[:3]}+00:00")
    except ValueError:
        return False
    return offset.upper() == "Z" or int(offset[1:3]) < 24


def fits(cell: str, pattern: str) -> bool:
    """Whether a wall-clock time is written after a pattern; `T` may stand for the space."""
    try:
        datetime.strptime(cell.replace("T", " ", 1).upper(), pattern)  # noqa: DTZ007  a wall-clock time
    except ValueError:
        return False
    return True
