"""Readings on their way in, partitions by month and COPY in binary; and out again as CSV."""

import struct
from collections.abc import Callable, Iterator
from datetime import UTC, datetime

import numpy as np
import psycopg
from sqlalchemy import Connection, select
from sqlalchemy.dialects.postgresql import insert

from aldea.core.base.arrays import IntArray
from aldea.core.base.instants import ms_of
from aldea.core.readings.trace import Trace
from aldea.store import tables as t
from aldea.store.database import Database

COPY_HEAD = b"PGCOPY\n\xff\r\n\x00" + struct.pack(">ii", 0, 0)
COPY_END = struct.pack(">h", -1)
ROWS_A_BLOCK = 65_536
BYTES_A_PIECE = 262_144
ROWS_KNOWN_AT_ONCE = 262_144
# Packed by the server: eight bytes an instant instead of a row.
KNOWN = (
    "SELECT string_agg(int8send(t_ms), ''::bytea ORDER BY t_ms) FROM reading "
    "WHERE series_id = %s AND t_ms BETWEEN %s AND %s"
)
WRITTEN = (
    "COPY (SELECT to_char(to_timestamp(t_ms / 1000.0) AT TIME ZONE 'UTC', "
    '\'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"\'), value FROM reading WHERE series_id = {} '
    "ORDER BY t_ms) TO STDOUT (FORMAT csv)"
)
# Before the version moves on: what comes not at the end makes caches read anew.
REWRITTEN = "UPDATE series SET rewritten = version + 1 WHERE id = %s AND last_ms >= %s"
GROWN = (
    "UPDATE series SET version = version + 1, count = count + %s, "
    "first_ms = least(first_ms, %s), last_ms = greatest(last_ms, %s) WHERE id = %s"
)
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


def series_id(connection: Connection, house_id: int, probe: str) -> int:
    """The number under which a probe's readings are kept; made where there is none."""
    connection.execute(
        insert(t.series).values(house_id=house_id, probe=probe).on_conflict_do_nothing()
    )
    number: int = connection.execute(
        select(t.series.c.id).where(t.series.c.house_id == house_id, t.series.c.probe == probe)
    ).scalar_one()
    return number


def readings_csv(database: Database, series: int, head: str) -> Iterator[bytes]:
    """All readings of a series as the database writes them, under a heading: time, value.

    Times are ISO 8601 in UTC to the millisecond, values every digit that was kept. What is read
    is one snapshot, and comes in pieces however long it is.
    """
    block = bytearray(f"{head}\n".encode())
    statement = psycopg.sql.SQL(WRITTEN).format(psycopg.sql.Literal(series))
    with database.raw() as raw, raw.cursor().copy(statement) as rows:
        for row in rows:  # they come one by one; each piece that goes out has its price
            block += row
            if len(block) >= BYTES_A_PIECE:
                yield bytes(block)
                block.clear()
    yield bytes(block)


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
    known = np.zeros(len(trace), dtype=bool)
    with connection.cursor(binary=True) as cursor:
        for start in range(0, len(trace), ROWS_KNOWN_AT_ONCE):
            instants = trace.t_ms[start : start + ROWS_KNOWN_AT_ONCE]
            cursor.execute(KNOWN, (series, int(instants[0]), int(instants[-1])))
            row = cursor.fetchone()
            if row is None or row[0] is None:
                continue
            kept = np.frombuffer(row[0], dtype=">i8").astype(np.int64)
            at = np.minimum(np.searchsorted(kept, instants), len(kept) - 1)
            known[start : start + ROWS_KNOWN_AT_ONCE] = kept[at] == instants
    return known


def store_readings(
    connection: psycopg.Connection,
    series: int,
    trace: Trace,
    tell: Callable[[float], None] = lambda _share: None,
) -> IntArray:
    """Write a trace with COPY, leaving out instants that are there; returns those that were new.

    One transaction: all or nothing. `tell` is called with the share that is done and may raise to
    stop.
    """
    if not len(trace):
        return trace.t_ms
    ensure_partitions(connection, int(trace.t_ms[0]), int(trace.t_ms[-1]))
    connection.execute("SELECT pg_advisory_xact_lock(715519, %s)", (series,))
    fresh = ~known_instants(connection, series, trace)
    new = int(fresh.sum())
    rows = np.empty(min(len(trace), ROWS_A_BLOCK), dtype=ROW_IN)
    rows["n"], rows["ls"], rows["lt"], rows["lv"], rows["series_id"] = 3, 4, 8, 8, series
    with connection.cursor().copy(
        "COPY reading (series_id, t_ms, value) FROM STDIN (FORMAT BINARY)"
    ) as copy:
        copy.write(COPY_HEAD)
        for start in range(0, len(trace), ROWS_A_BLOCK):
            part = slice(start, start + ROWS_A_BLOCK)
            block = rows[: int(fresh[part].sum())]
            block["t_ms"] = trace.t_ms[part][fresh[part]]
            block["value"] = trace.raw[part][fresh[part]]
            copy.write(block.tobytes())
            tell(min(part.stop, len(trace)) / len(trace))
        copy.write(COPY_END)
    if new:
        first = int(np.argmax(fresh))
        last = len(fresh) - 1 - int(np.argmax(fresh[::-1]))
        # What pages ask for at every visit is kept beside the series, in the same transaction.
        first_ms, last_ms = int(trace.t_ms[first]), int(trace.t_ms[last])
        connection.execute(REWRITTEN, (series, first_ms))
        connection.execute(GROWN, (new, first_ms, last_ms, series))
    added: IntArray = trace.t_ms[fresh]
    return added
