"""Readings: partitions by month, COPY in and out in binary, a small cache of whole series."""

import struct
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock

import numpy as np
import psycopg
from sqlalchemy import Connection, select
from sqlalchemy.dialects.postgresql import insert

from aldea.core.base.instants import ms_of
from aldea.core.readings.trace import Trace
from aldea.store import tables as t
from aldea.store.database import Database

COPY_HEAD = b"PGCOPY\n\xff\r\n\x00" + struct.pack(">ii", 0, 0)
COPY_END = struct.pack(">h", -1)
SeriesVersions = tuple[tuple[str, int], ...]
ROWS_A_BLOCK = 65_536
ROW_OUT = np.dtype([("n", ">i2"), ("lt", ">i4"), ("t_ms", ">i8"), ("lv", ">i4"), ("value", ">f8")])
ROW_IN = np.dtype(
    [
        ("n", ">i2"),
        ("ls", ">i4"),
        ("series_id", ">i4"),
        ("lt", ">i4"),
        ("t_ms", ">i8"),
        ("lv", ">i4"),
        ("value", ">f8"),
    ]
)


@dataclass(frozen=True, slots=True, kw_only=True)
class SeriesSummary:
    """What is recorded of a probe."""

    probe: str
    count: int
    first_ms: int
    last_ms: int


def series_id(connection: Connection, house_id: int, probe: str) -> int:
    """The number under which a probe's readings are kept; made where there is none."""
    connection.execute(
        insert(t.series).values(house_id=house_id, probe=probe).on_conflict_do_nothing()
    )
    number: int = connection.execute(
        select(t.series.c.id).where(t.series.c.house_id == house_id, t.series.c.probe == probe)
    ).scalar_one()
    return number


def ensure_partitions(connection: psycopg.Connection, first_ms: int, last_ms: int) -> None:
    """Make the monthly partitions that hold a span; they are UTC months."""
    # Readers keep a light lock on the parent: attaching takes turns with other importers only.
    connection.execute("SELECT pg_advisory_xact_lock(715518)")
    month = datetime.fromtimestamp(first_ms / 1000, UTC).replace(
        day=1, hour=0, minute=0, second=0, microsecond=0
    )
    while ms_of(month) <= last_ms:
        following = month.replace(year=month.year + month.month // 12, month=month.month % 12 + 1)
        name = psycopg.sql.Identifier(f"reading_{month:%Y_%m}")
        connection.execute(
            psycopg.sql.SQL(
                "CREATE TABLE IF NOT EXISTS {} PARTITION OF reading FOR VALUES FROM ({}) TO ({})"
            ).format(name, ms_of(month), ms_of(following))
        )
        month = following


def known_instants(connection: psycopg.Connection, series: int, trace: Trace) -> np.ndarray:
    """Which instants of a trace the store already has a reading for; booleans of shape (n,)."""
    if not len(trace):
        return np.zeros(0, dtype=bool)
    kept = _copy_out(connection, series, int(trace.t_ms[0]), int(trace.t_ms[-1]) + 1)
    return np.isin(trace.t_ms, kept.t_ms, assume_unique=True)


def store_readings(
    connection: psycopg.Connection,
    series: int,
    trace: Trace,
    told: Callable[[float], None] = lambda _share: None,
) -> int:
    """Write a trace with COPY, leaving out instants that are there; returns how many were new.

    One transaction: all or nothing. `told` is called with the share that is done and may raise to
    stop.
    """
    if not len(trace):
        return 0
    ensure_partitions(connection, int(trace.t_ms[0]), int(trace.t_ms[-1]))
    connection.execute("SELECT pg_advisory_xact_lock(715519, %s)", (series,))
    fresh = ~known_instants(connection, series, trace)
    t_ms, value = trace.t_ms[fresh], trace.raw[fresh]
    rows = np.empty(min(len(t_ms), ROWS_A_BLOCK), dtype=ROW_IN)
    rows["n"], rows["ls"], rows["lt"], rows["lv"], rows["series_id"] = 3, 4, 8, 8, series
    with connection.cursor().copy(
        "COPY reading (series_id, t_ms, value) FROM STDIN (FORMAT BINARY)"
    ) as copy:
        copy.write(COPY_HEAD)
        for start in range(0, len(t_ms), ROWS_A_BLOCK):
            block = rows[: min(ROWS_A_BLOCK, len(t_ms) - start)]
            block["t_ms"] = t_ms[start : start + ROWS_A_BLOCK]
            block["value"] = value[start : start + ROWS_A_BLOCK]
            copy.write(block.tobytes())
            told((start + len(block)) / len(t_ms))
        copy.write(COPY_END)
    if len(t_ms):
        # What pages ask for at every visit is kept beside the series, in the same transaction.
        connection.execute(
            "UPDATE series SET version = version + 1, count = count + %s, "
            "first_ms = least(first_ms, %s), last_ms = greatest(last_ms, %s) WHERE id = %s",
            (len(t_ms), int(t_ms[0]), int(t_ms[-1]), series),
        )
    return len(t_ms)


def _copy_out(connection: psycopg.Connection, series: int, start_ms: int, end_ms: int) -> Trace:
    parts: list[bytes] = []
    with connection.cursor().copy(
        psycopg.sql.SQL(
            "COPY (SELECT t_ms, value FROM reading WHERE series_id = {} AND t_ms >= {} "
            "AND t_ms < {} ORDER BY t_ms) TO STDOUT (FORMAT BINARY)"
        ).format(series, start_ms, end_ms)
    ) as copy:
        parts.extend(bytes(part) for part in copy)
    body = b"".join(parts)[len(COPY_HEAD) : -len(COPY_END)]
    rows = np.frombuffer(body, dtype=ROW_OUT)
    return Trace(
        t_ms=np.ascontiguousarray(rows["t_ms"], dtype=np.int64),
        raw=np.ascontiguousarray(rows["value"], dtype=np.float64),
    )


def series_versions(connection: Connection, house_id: int) -> SeriesVersions:
    """Probe and version of every series of a house; a version grows with each change."""
    rows = connection.execute(
        select(t.series.c.probe, t.series.c.version)
        .where(t.series.c.house_id == house_id)
        .order_by(t.series.c.probe)
    ).all()
    return tuple((row.probe, row.version) for row in rows)


def summaries(connection: Connection, house_id: int) -> dict[str, SeriesSummary]:
    """What is recorded of each probe of a house."""
    rows = connection.execute(
        select(t.series).where(t.series.c.house_id == house_id, t.series.c.count > 0)
    ).all()
    return {
        row.probe: SeriesSummary(
            probe=row.probe,
            count=row._mapping[t.series.c.count],
            first_ms=row.first_ms,
            last_ms=row.last_ms,
        )
        for row in rows
    }


class ReadingCache:
    """The newest span of each series as arrays, the least used dropped; 31 days at 10 s are 4 MB.

    What lies before the asked span stays in the database, however much was imported there.
    """

    def __init__(self, database: Database, *, most_readings: int = 1_500_000) -> None:
        self._database = database
        self._most = most_readings
        self._kept: OrderedDict[tuple[int, str], _Held] = OrderedDict()
        self._lock = Lock()

    def trace(
        self, connection: Connection, house_id: int, probe: str, start_ms: int, end_ms: int
    ) -> Trace:
        """The readings of a probe in a span; empty where there are none."""
        row = connection.execute(
            select(t.series.c.id, t.series.c.version).where(
                t.series.c.house_id == house_id, t.series.c.probe == probe
            )
        ).one_or_none()
        if row is None:
            return Trace(t_ms=np.zeros(0, dtype=np.int64), raw=np.zeros(0))
        key = (house_id, probe)
        with self._lock:
            held = self._kept.get(key)
            if held is not None and held.version == row.version and held.since_ms <= start_ms:
                self._kept.move_to_end(key)
                return held.trace.between(start_ms, end_ms)
        with self._database.raw() as raw:
            newest = _copy_out(raw, row.id, start_ms, 2**62)
        with self._lock:
            self._kept[key] = _Held(version=row.version, since_ms=start_ms, trace=newest)
            self._kept.move_to_end(key)
            # The one that was just asked for stays: it will be asked for again at once.
            while len(self._kept) > 1 and self._count() > self._most:
                self._kept.popitem(last=False)
        return newest.between(start_ms, end_ms)

    def _count(self) -> int:
        return sum(len(held.trace) for held in self._kept.values())


@dataclass(frozen=True, slots=True, kw_only=True)
class _Held:
    version: int
    since_ms: int
    trace: Trace
