"""Reading logs as CSV: streamed by blocks, checked whole, counted before anything is stored.

Blocks go through polars; the block in which something is wrong is gone through again line by line,
so that the refusal names line and column.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import polars as pl

from aldea.core.base.errors import LogFileError
from aldea.core.plan.document import Range
from aldea.core.readings.trace import Trace
from aldea.formats.log_options import HEAD_BYTES, MOST_BYTES, LogOptions, head_rows, usual_columns
from aldea.formats.log_problems import first_problem
from aldea.formats.log_report import LogReport
from aldea.formats.log_times import EARLIEST_MS, LATEST_MS, WallClock, instants_of
from aldea.formats.log_units import Spoken

BLOCK_BYTES = 1_000_000
MOST_ROWS = 10_000_000
LONGEST_LINE_BYTES = 100_000
GAP_FACTOR = 3  # a pause of more than three usual intervals is a gap


def read_csv_log(
    path: Path,
    options: LogOptions,
    allowed: Range,
    tell: Callable[[float], None] = lambda _share: None,
    spoken: Spoken | None = None,
) -> tuple[Trace, LogReport]:
    """Read a whole log: the trace sorted by time, the first of each instant kept, and the counts.

    `spoken` turns values as written into the unit of the plan. `tell` is called with the share
    of bytes done and may raise to stop. Raises `LogFileError` with line and column at the first
    thing that is neither a time nor a number nor a missing reading.
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
            fix="Choose another sign between columns.",
        )
    options.checked(columns)
    grown = _Growing(size)
    clock = WallClock(options)
    rows = 0
    empty: list[np.ndarray] = []
    for first_line, block, done in _blocks(path, options.header_rows):
        block_ms, block_value = _read_block(block, first_line, columns, options, clock)
        keep = ~np.isnan(block_value)
        empty.append(np.flatnonzero(~keep) + rows)
        rows += len(block_ms)
        if rows > MOST_ROWS:
            raise LogFileError("file", got=f"over {MOST_ROWS} rows", allowed=f"{MOST_ROWS}")
        grown.add(block_ms[keep], block_value[keep], done)
        tell(done / size)
    t_ms, value = grown.arrays()
    repeated = _second_hours(t_ms, clock, np.concatenate(empty) if empty else t_ms[:0])
    if not len(t_ms):
        raise LogFileError(
            "file", got=f"{rows} rows without a reading", allowed="at least one reading"
        )
    speaks_for = spoken.speaks_for(value) if spoken is not None else ""
    if spoken is not None and spoken.key:
        value = spoken.converted(value)
        possible = np.isfinite(value)
        t_ms, value = t_ms[possible], value[possible]
        if not len(t_ms):
            raise LogFileError("unit", got="no reading that it could be", allowed="another unit")
    trace, report = _summed_up(t_ms, value, rows, allowed)
    counted = {"moved_by_clock_change": clock.moved, "repeated_hour": repeated}
    return trace, replace(report, **counted, speaks_for=speaks_for)


def _second_hours(t_ms: np.ndarray, clock: WallClock, empty: np.ndarray) -> int:
    """Put the readings of a repeated hour's second where they belong; returns how many."""
    later, by_ms = clock.second_hours()
    filled = ~np.isin(later, empty)
    rows = later[filled]
    t_ms[rows - np.searchsorted(empty, rows)] += by_ms[filled]
    return len(rows)


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
    block: bytes, first_line: int, columns: int, options: LogOptions, clock: WallClock
) -> tuple[np.ndarray, np.ndarray]:
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
        time = pl.col(f"c{options.time_column}").str.strip_chars()
        if options.date_column is not None:
            date = pl.col(f"c{options.date_column}").str.strip_chars()
            time = pl.concat_str([date, time], separator=" ")
        frame = frame.select(
            time=time,
            value=pl.col(f"c{options.value_column}").str.strip_chars().fill_null(""),
        ).filter(pl.col("time").is_not_null() | (pl.col("value") != ""))
        t_ms = instants_of(frame["time"], options, clock)
        values = _numbers(frame["value"], options)
        good = t_ms.is_not_null().all() and values.is_not_null().all()
        if good and t_ms.is_between(EARLIEST_MS, LATEST_MS).all():
            return t_ms.to_numpy(), values.to_numpy()
    except (pl.exceptions.PolarsError, UnicodeDecodeError):
        pass
    raise first_problem(block, first_line, columns, options)


def _numbers(text: pl.Series, options: LogOptions) -> pl.Series:
    """Values, NaN for a missing reading, null where a cell is neither."""
    plain = text.str.replace("−", "-", literal=True)
    if options.decimal == ",":
        plain = plain.str.replace(",", ".", literal=True)
    numbers = plain.cast(pl.Float64, strict=False)
    missing = text.str.to_lowercase().is_in(list(options.missing_words))
    if missing.any():
        numbers = pl.select(pl.when(missing).then(float("nan")).otherwise(numbers)).to_series()
    infinite = numbers.is_infinite() | (numbers.is_nan() & ~missing)
    if infinite.any():
        numbers = pl.select(pl.when(infinite).then(None).otherwise(numbers)).to_series()
    return numbers
