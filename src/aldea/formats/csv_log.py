"""Reading logs as CSV: streamed by blocks, checked whole, counted before anything is stored.

Blocks go through polars; the block in which something is wrong is gone through again line by line,
so that the refusal names line and column.
"""

import csv
import io
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import polars as pl

from aldea.core.base.errors import LogFileError
from aldea.core.base.instants import ms_of, ms_of_local
from aldea.core.plan.document import Range
from aldea.core.readings.trace import Trace
from aldea.formats.log_options import (
    HEAD_BYTES,
    MISSING_WORDS,
    MOST_BYTES,
    LogOptions,
    fits,
    head_rows,
    is_iso,
    usual_columns,
)
from aldea.formats.log_report import LogReport

BLOCK_BYTES = 1_000_000
MOST_ROWS = 10_000_000
LONGEST_LINE_BYTES = 100_000
EARLIEST_MS = ms_of(datetime(2000, 1, 1, tzinfo=UTC))
LATEST_MS = ms_of(datetime(2100, 1, 1, tzinfo=UTC))
GAP_FACTOR = 3  # a pause of more than three usual intervals is a gap
EXPECTED = {
    "iso": "a time such as 2025-11-13T18:42:00Z, with Z or an offset",
    "epoch_s": "seconds since 1970, for 2000 to 2100",
    "epoch_ms": "milliseconds since 1970, for 2000 to 2100",
}


def read_csv_log(
    path: Path,
    options: LogOptions,
    allowed: Range,
    told: Callable[[float], None] = lambda _share: None,
) -> tuple[Trace, LogReport]:
    """Read a whole log: the trace sorted by time, the first of each instant kept, and the counts.

    `told` is called with the share of bytes done and may raise to stop. Raises `LogFileError` with
    line and column at the first thing that is neither a time nor a number nor a missing reading.
    """
    size = path.stat().st_size
    if size > MOST_BYTES:
        raise LogFileError("file", got=f"{size} bytes", allowed=f"up to {MOST_BYTES}")
    with path.open("rb") as source:
        columns = usual_columns(head_rows(source.read(HEAD_BYTES), options.delimiter))
    if columns < 2:
        raise LogFileError(
            "line 1",
            got="one column" if columns else "an empty file",
            allowed="at least a time and a value",
            mend="Choose another sign between columns.",
        )
    options.checked(columns)
    grown = _Growing(size)
    rows = moved = 0
    for first_line, block, done in _blocks(path, options.header_rows):
        block_ms, block_value, block_moved = _read_block(block, first_line, columns, options)
        rows += len(block_ms)
        moved += block_moved
        if rows > MOST_ROWS:
            raise LogFileError("file", got=f"over {MOST_ROWS} rows", allowed=f"{MOST_ROWS}")
        keep = ~np.isnan(block_value)
        grown.add(block_ms[keep], block_value[keep], done)
        told(done / size)
    t_ms, value = grown.arrays()
    if not len(t_ms):
        raise LogFileError(
            "file", got=f"{rows} rows without a reading", allowed="at least one reading"
        )
    return _summed_up(t_ms, value, rows, moved, allowed)


class _Growing:
    """Two arrays that grow in place, with room by how long the lines were so far."""

    def __init__(self, size_bytes: int) -> None:
        self._size_bytes = size_bytes
        self._count = 0
        self._t_ms = np.empty(0, dtype=np.int64)
        self._value = np.empty(0)

    def add(self, t_ms: np.ndarray, value: np.ndarray, done_bytes: int) -> None:
        """Put a block at the end, after `done_bytes` of the file."""
        end = self._count + len(t_ms)
        if end > len(self._t_ms):
            whole = int(1.02 * end * self._size_bytes / max(done_bytes, 1)) + 1000
            room = min(max(whole, end), MOST_ROWS + end)
            for array in (self._t_ms, self._value):
                array.resize(room, refcheck=False)  # without a second array beside it
        self._t_ms[self._count : end] = t_ms
        self._value[self._count : end] = value
        self._count = end

    def arrays(self) -> tuple[np.ndarray, np.ndarray]:
        """What has come, and no room behind it."""
        for array in (self._t_ms, self._value):
            array.resize(self._count, refcheck=False)
        return self._t_ms, self._value


def _summed_up(
    t_ms: np.ndarray,
    value: np.ndarray,
    rows: int,
    moved: int,
    allowed: Range,
) -> tuple[Trace, LogReport]:
    count = len(t_ms)
    jumps_back = int((t_ms[1:] < t_ms[:-1]).sum())
    if jumps_back:
        order = np.argsort(t_ms, kind="stable")
        t_ms, value = t_ms[order], value[order]
    fresh = np.concatenate(([True], t_ms[1:] > t_ms[:-1]))
    if not fresh.all():  # a log in order is not copied: it may be large
        t_ms, value = t_ms[fresh], value[fresh]
    trace = Trace(t_ms=t_ms, raw=value)
    steps = np.diff(t_ms)
    interval_ms = float(np.median(steps, overwrite_input=True)) if len(steps) else 0.0
    gaps = steps[steps > GAP_FACTOR * interval_ms]
    outside = (trace.raw < allowed.low) | (trace.raw > allowed.high)
    return trace, LogReport(
        rows=rows,
        readings=len(trace),
        empty=rows - count,
        duplicates=int((~fresh).sum()),
        jumps_back=jumps_back,
        out_of_range=int(outside.sum()),
        gaps=len(gaps),
        longest_gap_s=float(gaps.max()) / 1000 if len(gaps) else 0.0,
        interval_s=interval_ms / 1000,
        first_ms=int(trace.t_ms[0]),
        last_ms=int(trace.t_ms[-1]),
        lowest=float(trace.raw.min()),
        highest=float(trace.raw.max()),
        moved_by_clock_change=moved,
    )


def _blocks(path: Path, header_rows: int) -> Iterator[tuple[int, bytes, int]]:
    """(number of its first line, whole lines, bytes done so far), the heading left out."""
    line, done = 1, 0
    with path.open("rb") as source:
        rest = b""
        while True:
            fresh = source.read(BLOCK_BYTES)
            block = rest + fresh
            if line == 1 and not done:
                block = block.removeprefix(b"\xef\xbb\xbf")
            done += len(fresh)
            cut = block.rfind(b"\n") + 1 if fresh else len(block)
            if not cut and len(block) > LONGEST_LINE_BYTES:
                raise LogFileError(
                    f"line {line}",
                    got=f"over {LONGEST_LINE_BYTES} bytes without a line end",
                    allowed="a text file of lines",
                )
            rest, block = block[cut:], block[:cut]
            while header_rows and block:
                end = block.find(b"\n") + 1 or len(block)
                block, header_rows, line = block[end:], header_rows - 1, line + 1
            if block:
                yield line, block, done
                line += block.count(b"\n")
            if not fresh:
                return


def _read_block(
    block: bytes, first_line: int, columns: int, options: LogOptions
) -> tuple[np.ndarray, np.ndarray, int]:
    try:
        frame = pl.read_csv(
            block,
            has_header=False,
            separator=options.delimiter,
            infer_schema=False,
            new_columns=[f"c{i}" for i in range(columns)],
            schema={f"c{i}": pl.String for i in range(columns)},
            truncate_ragged_lines=False,
        )
        frame = frame.select(
            time=pl.col(f"c{options.time_column}").str.strip_chars(),
            value=pl.col(f"c{options.value_column}").str.strip_chars().fill_null(""),
        ).filter(pl.col("time").is_not_null() | (pl.col("value") != ""))
        t_ms, moved = _instants(frame["time"], options)
        values = _numbers(frame["value"], options)
        good = t_ms.is_not_null().all() and values.is_not_null().all()
        if good and t_ms.is_between(EARLIEST_MS, LATEST_MS).all():
            return t_ms.to_numpy(), values.to_numpy(), moved
    except (pl.exceptions.PolarsError, UnicodeDecodeError):
        pass
    raise _first_problem(block, first_line, columns, options)


def _instants(text: pl.Series, options: LogOptions) -> tuple[pl.Series, int]:
    """UTC epoch ms, null where a cell is no time; and how many times fell into a spring gap."""
    if options.time_kind == "epoch_ms":
        return text.cast(pl.Int64, strict=False), 0
    if options.time_kind == "epoch_s":
        return (text.cast(pl.Float64, strict=False) * 1000).round().cast(pl.Int64), 0
    if options.time_kind == "iso":
        plain = (
            text.str.to_uppercase().str.replace(" ", "T", literal=True).str.replace(r"Z$", "+00:00")
        )
        moments = plain.str.to_datetime(
            "%Y-%m-%dT%H:%M:%S%.f%:z", time_unit="ms", time_zone="UTC", strict=False
        )
        return moments.dt.epoch("ms"), 0
    walls = text.str.replace("T", " ", literal=True).str.to_datetime(
        options.local_format, time_unit="ms", strict=False
    )
    moments = walls.dt.replace_time_zone(options.zone, ambiguous="earliest", non_existent="null")
    t_ms = moments.dt.epoch("ms")
    lost = (t_ms.is_null() & walls.is_not_null()).arg_true()
    if len(lost):
        # In the spring gap the offset before the gap holds (RFC 5545 §3.3.5).
        found = [ms_of_local(wall, options.zone) for wall in walls.gather(lost).to_list()]
        t_ms = t_ms.scatter(lost, found)
    return t_ms, len(lost)


def _numbers(text: pl.Series, options: LogOptions) -> pl.Series:
    """Values, NaN for a missing reading, null where a cell is neither."""
    plain = text.str.replace(",", ".", literal=True) if options.decimal == "," else text
    numbers = plain.cast(pl.Float64, strict=False)
    if numbers.null_count():
        missing = text.str.to_lowercase().is_in(list(MISSING_WORDS))
        numbers = pl.select(pl.when(missing).then(float("nan")).otherwise(numbers)).to_series()
    infinite = numbers.is_infinite()
    if infinite.any():
        numbers = pl.select(pl.when(infinite).then(None).otherwise(numbers)).to_series()
    return numbers


def _first_problem(
    block: bytes, first_line: int, columns: int, options: LogOptions
) -> LogFileError:
    """Go through a block line by line and say where it is wrong and what would be right."""
    try:
        text = block.decode("utf-8")
    except UnicodeDecodeError as exc:
        line = first_line + block[: exc.start].count(b"\n")
        return LogFileError(
            f"line {line}",
            got=f"the byte 0x{block[exc.start]:02X}",
            allowed="text in UTF-8",
            mend="Save the file again as UTF-8.",
        )
    reader = csv.reader(io.StringIO(text), delimiter=options.delimiter)
    try:
        for row in reader:
            if not any(cell.strip() for cell in row):
                continue
            where = f"line {first_line + reader.line_num - 1}"
            if len(row) > columns:
                return LogFileError(
                    where, got=f"{len(row)} columns", allowed=f"{columns}, as in the first lines"
                )
            for column, check in (
                (options.time_column, _time_problem),
                (options.value_column, _value_problem),
            ):
                cell = row[column].strip() if column < len(row) else ""
                allowed = check(cell, options)
                if allowed:
                    return LogFileError(
                        f"{where}, column {column + 1}", got=repr(cell[:60]), allowed=allowed
                    )
    except csv.Error as exc:
        line = first_line + max(reader.line_num, 1) - 1
        return LogFileError(f"line {line}", got=str(exc), allowed="plain CSV")
    return LogFileError(
        f"lines {first_line} to {first_line + block.count(bytes([10]))}",
        got="quotes or line ends that do not pair",
        allowed="plain CSV, one reading a line",
    )


def _time_problem(cell: str, options: LogOptions) -> str:
    """What would be allowed where the cell is no time; empty where it is one."""
    kind = options.time_kind
    if kind == "local":
        if fits(cell, options.local_format):
            return ""
        sample = datetime(2025, 11, 13, 19, 42, tzinfo=UTC).strftime(options.local_format)
        return f"a wall-clock time such as {sample}"
    if kind == "iso":
        return "" if is_iso(cell) else EXPECTED[kind]
    try:
        t_ms = float(cell) * (1000 if kind == "epoch_s" else 1)
    except ValueError:
        return EXPECTED[kind]
    return "" if EARLIEST_MS <= t_ms <= LATEST_MS else EXPECTED[kind]


def _value_problem(cell: str, options: LogOptions) -> str:
    """What would be allowed where the cell is no reading; empty where it is one."""
    if cell.lower() in MISSING_WORDS:
        return ""
    try:
        number = float(cell.replace(",", ".") if options.decimal == "," else cell)
    except ValueError:
        mark = "a decimal comma" if options.decimal == "," else "a decimal point"
        return f"a number with {mark}, or nothing for a missing reading"
    return "" if np.isfinite(number) else "a finite number"
