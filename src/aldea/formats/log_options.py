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
from aldea.core.base.numbers import number_of

TimeKind = Literal["iso", "epoch_s", "epoch_ms", "local", "serial"]
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
# Days since 30 December 1899, as spreadsheets write a date that has lost its format: 2000 to 2100.
SERIAL_DAYS = (36_526.0, 73_051.0)
USUAL_MISSING = "nan, null, none, na, n/a, -"
MOST_ASKED = 3000  # rows that are looked at for the order of day and month
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
    `day_order_known` is False while day and month of every date could be taken either way round.
    """

    delimiter: str = ","
    decimal: str = "."
    header_rows: int = 1
    time_column: int = 0
    value_column: int = 1
    time_kind: TimeKind = "iso"
    local_format: str = LOCAL_FORMATS[0]
    day_order_known: bool = True
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
            (
                "date order",
                self.day_order_known or self.time_kind != "local",
                "dates whose day and month could be either way round",
                "dates such as 2025-11-13, or a format chosen for them",
            ),
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
        number_of(word)
    except ValueError:
        return False
    return True


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


def _times(rows: list[list[str]], options: LogOptions) -> list[str]:
    body = rows[options.header_rows :]
    return [cell_of(row, options.time_column, options.date_column) for row in body]


def date_question(rows: list[list[str]], options: LogOptions) -> tuple[str, tuple[str, ...]]:
    """A date that could be read two ways, and its two formats; empty where it is known."""
    if options.time_kind != "local" or options.day_order_known:
        return "", ()
    cells = [cell for cell in _times(rows, options) if _kind_of(cell) == "local"]
    both = day_orders(cells)
    return (cells[0], both) if len(both) > 1 else ("", ())


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
    if not options.day_order_known:
        options = _with_format(options, _times(head_rows(head, delimiter, MOST_ASKED), options))
    read = {options.time_column, options.date_column}
    numbers = number_columns(rows, options)
    choices = {c: number for c, number in numbers.items() if c not in read}
    if choices:
        heading = rows[header_rows - 1] if header_rows else []
        named = {c: heading[c] if c < len(heading) else "" for c in choices}
        best = max(choices, key=lambda c: (wanted(named[c], choices[c][1]), -c))
        return replace(options, value_column=best, decimal=choices[best][0])
    return replace(options, value_column=1 if options.time_column == 0 else 0)


def number_columns(rows: list[list[str]], options: LogOptions) -> dict[int, tuple[str, float]]:
    """The columns that hold numbers, each with its decimal sign and its middle value."""
    body = rows[options.header_rows : options.header_rows + 20]
    columns: dict[int, tuple[str, float]] = {}
    for column in range(usual_columns(rows)):
        cells = [row[column].strip() for row in body if column < len(row)]
        filled = [cell for cell in cells if cell.lower() not in options.missing_words]
        if column in (options.time_column, options.date_column) or not filled:
            continue
        if all(map(_is_number, filled)):
            comma = options.delimiter != "," and any("," in cell for cell in filled)
            values = sorted(map(number_of, filled))
            columns[column] = ("," if comma else ".", values[len(values) // 2])
    return columns


def column_values(rows: list[list[str]], options: LogOptions) -> list[float]:
    """The numbers of the value column in some rows; what is none is passed over."""
    values: list[float] = []
    for row in rows[options.header_rows :]:
        cell = cell_of(row, options.value_column, None)
        if _is_number(cell) and (options.decimal == "," or "," not in cell):
            values.append(number_of(cell))
    return values


def _with_time(options: LogOptions, body: list[list[str]], columns: int) -> LogOptions:
    """The first column that holds times; or two beside each other, of a date and a time of day."""
    for parts in (*((c, None) for c in range(columns)), *((c + 1, c) for c in range(columns - 1))):
        time, date = parts
        cells = [cell_of(row, time, date) for row in body]
        kinds = [_kind_of(cell) for cell in cells]
        kinds_there = [kind for kind in kinds if kind is not None]
        kind = max(
            kinds_there, key=kinds_there.count, default=None
        )  # of a tie the first, in any process
        if kind is not None and 2 * kinds_there.count(kind) >= len(kinds):
            with_time = replace(options, time_column=time, date_column=date, time_kind=kind)
            return _with_format(with_time, cells) if kind == "local" else with_time
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
    if re.fullmatch(r"\d{5}[.,]\d{2,}", cell) and in_serial_days(cell):
        return "serial"
    return "local" if _format_of(cell) else None


def _format_of(cell: str) -> str | None:
    for pattern in LOCAL_FORMATS:
        if fits(cell, pattern):
            return pattern
    return None


def _with_format(options: LogOptions, cells: list[str]) -> LogOptions:
    """The first format that fits every wall-clock time; open where two orders of a date do."""
    written = [cell for cell in cells if _kind_of(cell) == "local"]
    fitting = [p for p in LOCAL_FORMATS if all(fits(cell, p) for cell in written)]
    local_format = fitting[0] if fitting else LOCAL_FORMATS[0]
    return replace(options, local_format=local_format, day_order_known=len(day_orders(written)) < 2)


def day_orders(cells: list[str]) -> tuple[str, ...]:
    """The formats with slashes that fit every time of some; two where the day could be the month.

    Where day and month are the same in every one of them the order does not matter, unless it does
    in the rows that are not looked at: it is asked then, too.
    """
    slashes = [pattern for pattern in LOCAL_FORMATS if "/" in pattern]
    return tuple(p for p in slashes if cells and all(fits(cell, p) for cell in cells))


def in_serial_days(cell: str) -> bool:
    """Whether a number could be a spreadsheet's day of our century."""
    low, high = SERIAL_DAYS
    return low <= number_of(cell) < high


def is_iso(cell: str) -> bool:
    """Whether a time is written after ISO 8601 with an offset; seconds may be left out."""
    parts = ISO.match(cell)
    if not parts:
        return False
    day, clock, seconds, offset = parts.groups()
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
