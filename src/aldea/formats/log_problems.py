"""What is wrong in a block of a log, found line by line, and what would be right there."""

import csv
import io
from datetime import UTC, datetime

import polars as pl

from aldea.core.base.errors import LogFileError
from aldea.core.base.numbers import number_of
from aldea.formats.log_options import LogOptions, cell_of, fits, is_iso
from aldea.formats.log_times import EARLIEST_MS, LATEST_MS, WallClock, instants_of

EXPECTED = {
    "iso": "a time such as 2025-11-13T18:42:00Z, with Z or an offset, for 2000 to 2100",
    "epoch_s": "seconds since 1970, for 2000 to 2100",
    "epoch_ms": "milliseconds since 1970, for 2000 to 2100",
    "serial": "a spreadsheet’s day number such as 45974.8208, for 2000 to 2100",
}


def first_problem(block: bytes, first_line: int, columns: int, options: LogOptions) -> LogFileError:
    """The first thing in a block that is neither a time nor a number nor a missing reading."""
    try:
        text = block.decode("utf-8")
    except UnicodeDecodeError as exc:
        line = first_line + block[: exc.start].count(b"\n")
        return LogFileError(
            f"line {line}",
            got=f"the byte 0x{block[exc.start]:02X}",
            allowed="text in UTF-8",
            fix="Save the file again as UTF-8.",
        )
    reader = csv.reader(io.StringIO(text), delimiter=options.delimiter)
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                where = f"line {first_line + reader.line_num - 1}"
                problem = _of_row(row, where, columns, options)
                if problem is not None:
                    return problem
    except csv.Error as exc:
        line = first_line + max(reader.line_num, 1) - 1
        return LogFileError(f"line {line}", got=str(exc), allowed="plain CSV")
    return LogFileError(
        f"lines {first_line} to {first_line + block.count(bytes([10]))}",
        got="quotes or line ends that do not pair",
        allowed="plain CSV, one reading a line",
    )


def _of_row(row: list[str], where: str, columns: int, options: LogOptions) -> LogFileError | None:
    if len(row) > columns:
        return LogFileError(
            where, got=f"{len(row)} columns", allowed=f"{columns}, as in the first lines"
        )
    time = cell_of(row, options.time_column, options.date_column)
    value = cell_of(row, options.value_column, None)
    for column, cell, allowed in (
        (options.time_column, time, _time_problem(time, options)),
        (options.value_column, value, _value_problem(value, options)),
    ):
        if allowed:
            at = f"{where}, column {column + 1}"
            return LogFileError(at, got=repr(cell[:60]), allowed=allowed)
    return None


def _time_problem(cell: str, options: LogOptions) -> str:
    """What would be allowed where the cell is no time of our century; empty where it is one."""
    kind = options.time_kind
    allowed = EXPECTED.get(kind, "")
    if kind == "local":
        sample = datetime(2025, 11, 13, 19, 42, tzinfo=UTC).strftime(options.local_format)
        allowed = f"a wall-clock time such as {sample}, for 2000 to 2100"
    written = fits(cell, options.local_format) if kind == "local" else is_iso(cell)
    if kind in ("local", "iso") and not written:
        return allowed
    try:
        t_ms = instants_of(pl.Series([cell]), options, WallClock(options))[0]
    except (pl.exceptions.PolarsError, OverflowError, ValueError):
        return allowed
    return "" if t_ms is not None and EARLIEST_MS <= t_ms <= LATEST_MS else allowed


def _value_problem(cell: str, options: LogOptions) -> str:
    """What would be allowed where the cell is no reading; empty where it is one."""
    if cell.lower() in options.missing_words:
        return ""
    try:
        number_of(cell)
    except ValueError:
        is_number = False
    else:
        is_number = options.decimal == "," or "," not in cell
    if is_number:
        return ""
    sign = "a decimal comma" if options.decimal == "," else "a decimal point"
    words = options.missing.strip()
    return f"a number with {sign}" + (
        f", or a word for a missing reading: {words}" if words else ""
    )
