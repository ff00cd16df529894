"""Instants from the cells of a log: ISO, epochs, wall clocks through a change of the clock."""

from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import pairwise

import numpy as np
import polars as pl

from aldea.core.base.instants import ms_of, ms_of_local
from aldea.formats.log_options import SERIAL_DAYS, LogOptions, cell_of

EARLIEST_MS = ms_of(datetime(2000, 1, 1, tzinfo=UTC))
LATEST_MS = ms_of(datetime(2100, 1, 1, tzinfo=UTC))
SERIAL_OF_EPOCH = 25_569  # days from 30 December 1899 to 1 January 1970
SECONDS_A_DAY = 86_400
MS_A_MINUTE = 60_000
GAP = 2.5  # times the usual step: something is missing there


@dataclass(slots=True)
class WallClock:
    """Wall clocks of a log block after block; what comes twice is told apart when all are known.

    On the night on which the clock goes back an hour comes twice. Its second begins where that
    leaves the fewest steps that are no usual ones, with the rows before and after it: a row out of
    place is no turn, and a gap over the turn is one gap. `moved` counts times in a spring gap.
    """

    options: LogOptions
    moved: int = 0
    _rows: int = 0
    _twice: list[np.ndarray] = field(default_factory=list)
    _near_ms: dict[int, int] = field(default_factory=dict)
    _ends_ms: list[int] = field(default_factory=list)

    def instants(self, walls: pl.Series) -> pl.Series:
        """UTC epoch ms of wall clocks, of a repeated time its first; null where a cell was none."""
        zone = self.options.zone
        first = walls.dt.replace_time_zone(zone, ambiguous="earliest", non_existent="null")
        later = walls.dt.replace_time_zone(zone, ambiguous="latest", non_existent="null")
        t_ms = first.dt.epoch("ms")
        lost = (t_ms.is_null() & walls.is_not_null()).arg_true()
        if len(lost):
            # In the spring gap the offset before the gap holds (RFC 5545 §3.3.5).
            moved_ms = [ms_of_local(wall, zone) for wall in walls.gather(lost).to_list()]
            t_ms = t_ms.scatter(lost, moved_ms)
            self.moved += len(lost)
        apart = (later.dt.epoch("ms") - first.dt.epoch("ms")).fill_null(0).to_numpy()
        rows = np.flatnonzero(apart)
        wall_ms = walls.dt.epoch("ms").fill_null(0).to_numpy()
        first_ms = t_ms.fill_null(0).to_numpy()
        self._twice.append(np.stack((rows + self._rows, first_ms[rows], apart[rows]), axis=1))
        if len(wall_ms):
            self._ends_ms += [int(wall_ms[0]), int(wall_ms[-1])]
            last = len(wall_ms) - 1
            for row in {0, last, *(rows - 1).tolist(), *(rows + 1).tolist()}:
                if 0 <= row <= last and not apart[row] and t_ms[row] is not None:
                    self._near_ms[row + self._rows] = int(first_ms[row])
        self._rows += len(walls)
        return t_ms

    def second_hours(self) -> tuple[np.ndarray, np.ndarray]:
        """Rows that are of a second hour, and by how many ms they are later."""
        table = np.concatenate(self._twice) if self._twice else np.zeros((0, 3), dtype=np.int64)
        newest_first = bool(self._ends_ms) and self._ends_ms[-1] < self._ends_ms[0]
        second = np.zeros(len(table), dtype=bool)
        starts = np.flatnonzero(np.diff(table[:, 0], prepend=-2) != 1).tolist()
        for start, end in pairwise([*starts, len(table)]):
            part = table[start:end]
            ends = self._near_ms.get(int(part[0, 0]) - 1), self._near_ms.get(int(part[-1, 0]) + 1)
            if newest_first:
                part, ends = part[::-1], ends[::-1]
            later = np.arange(len(part)) >= _turn(part[:, 1], int(part[0, 2]), *ends)
            second[start:end] = later[::-1] if newest_first else later
        return table[second, 0], table[second, 2]


def _turn(first_ms: np.ndarray, apart_ms: int, before: int | None, after: int | None) -> int:
    """The row of a repeated hour with which its second begins; their number where none does.

    `first_ms` are the instants as of the first hour, oldest row first, `before` and `after` those
    of the rows beside. Tried are all rows: the fewest unusual steps count, then the least backward.
    Without fewer of them than none would leave there is no turn.
    """
    count = len(first_ms)
    steps = np.diff(first_ms)
    usual = float(np.median(np.abs(steps))) if count > 1 else MS_A_MINUTE

    def cost(step: np.ndarray) -> np.ndarray:
        """Unusual steps count whole; going back counts a little more the further it goes."""
        back = np.maximum(0, -step) / (1 << 40)
        return np.asarray(((step <= 0) | (step > GAP * usual)) + back, dtype=np.float64)

    costs = np.zeros(count + 1)
    costs[1:count] = cost(steps + apart_ms) - cost(steps)
    if before is not None:
        ahead = np.full(count + 1, int(first_ms[0]) - before)
        ahead[0] += apart_ms
        costs += cost(ahead)
    if after is not None:
        behind = np.full(count + 1, after - int(first_ms[-1]) - apart_ms)
        behind[count] += apart_ms
        costs += cost(behind)
    best = costs.min()
    return count if costs[count] < best + 0.5 else int(costs.argmin())


def as_iso(text: pl.Series) -> pl.Series:
    """Times after ISO 8601 in one form: `T`, seconds, an offset in hours and minutes."""
    return (
        text.str.to_uppercase()
        .str.replace(r"^(.{10}) ", "${1}T")
        .str.replace(r"^(.{16}) ?(Z|[+-])", "${1}:00${2}")
        .str.replace(r" ?Z$", "+00:00")
        .str.replace(r" ?([+-]\d{2})$", "${1}:00")
        .str.replace(r" ?([+-]\d{2})(\d{2})$", "${1}:${2}")
        .str.replace(r" ([+-])", "${1}")
    )


def instants_of(text: pl.Series, options: LogOptions, clock: WallClock) -> pl.Series:
    """UTC epoch ms, null where a cell is no time."""
    if options.time_kind == "epoch_ms":
        return text.cast(pl.Int64, strict=False)
    if options.time_kind == "epoch_s":
        return (text.cast(pl.Float64, strict=False) * 1000).round().cast(pl.Int64)
    if options.time_kind == "iso":
        moments = as_iso(text).str.to_datetime(
            "%Y-%m-%dT%H:%M:%S%.f%:z", time_unit="ms", time_zone="UTC", strict=False
        )
        return moments.dt.epoch("ms")
    if options.time_kind == "serial":
        return clock.instants(_serial_walls(text))
    plain = text.str.replace("T", " ", literal=True).str.to_uppercase()
    walls = plain.str.to_datetime(options.local_format, time_unit="ms", strict=False)
    return clock.instants(walls)


def _serial_walls(text: pl.Series) -> pl.Series:
    """Wall clocks of a spreadsheet's days, to the second: five decimals tell no more than 0.9 s."""
    days = text.str.replace(",", ".", literal=True).cast(pl.Float64, strict=False)
    low, high = SERIAL_DAYS
    good = days.is_between(low, high, closed="left").fill_null(value=False)
    whole_s = ((days - SERIAL_OF_EPOCH) * SECONDS_A_DAY).round().set(~good, None)
    return (whole_s.cast(pl.Int64) * 1000).cast(pl.Datetime("ms"))


def interval_s(rows: list[list[str]], options: LogOptions) -> float:
    """The usual time between the first rows of a log, s; 0 where they do not tell."""
    body = rows[options.header_rows :]
    text = pl.Series([cell_of(row, options.time_column, options.date_column) for row in body])
    try:
        t_ms = instants_of(text, options, WallClock(options)).drop_nulls().to_numpy()
    except (pl.exceptions.PolarsError, OverflowError, ValueError):
        return 0.0
    steps = np.abs(np.diff(t_ms))
    return float(np.median(steps)) / 1000 if len(steps) and np.median(steps) > 0 else 0.0
