"""Readings on their way out: packed by the server, all series in one query, held within bounds."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from sqlalchemy import Connection, select

from aldea.core.base.bounded import BoundedCache
from aldea.core.readings.trace import Trace
from aldea.store import tables as t
from aldea.store.database import driver_of

MOST_BYTES = 96_000_000  # 12 probes of 31 days at 10 s are 52 MB
ENDLESS_MS = 2**62
# One row a series: its versions in the same snapshot as its readings, instants and values packed in
# order. `before` looks for the last reading before the span, which stands at its beginning.
PACKED = """
SELECT series.probe, series.version, series.rewritten, packed.t_ms, packed.value
FROM unnest(%s::integer[], %s::bigint[], %s::bigint[]) AS asked (id, since_ms, until_ms)
JOIN series ON series.id = asked.id
CROSS JOIN LATERAL (
  SELECT string_agg(int8send(r.t_ms), ''::bytea) AS t_ms,
         string_agg(float8send(r.value), ''::bytea) AS value
  FROM (
    SELECT t_ms, value FROM reading
    WHERE series_id = asked.id AND t_ms >= asked.since_ms AND t_ms < asked.until_ms
    ORDER BY t_ms
  ) AS r
) AS packed
"""
LAST_BEFORE = """
SELECT asked.id, found.t_ms
FROM unnest(%s::integer[]) AS asked (id)
CROSS JOIN LATERAL (
  SELECT t_ms FROM reading WHERE series_id = asked.id AND t_ms < %s ORDER BY t_ms DESC LIMIT 1
) AS found
"""
FIRST_SINCE = """
SELECT asked.id, found.t_ms
FROM unnest(%s::integer[]) AS asked (id)
CROSS JOIN LATERAL (
  SELECT t_ms FROM reading WHERE series_id = asked.id AND t_ms >= %s ORDER BY t_ms LIMIT 1
) AS found
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Series:
    """What is recorded of a probe, in short; `version` grows with each change."""

    id: int
    probe: str
    version: int
    count: int
    first_ms: int
    last_ms: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Held:
    version: int
    since_ms: int
    trace: Trace

    @property
    def size_bytes(self) -> int:
        return self.trace.t_ms.nbytes + self.trace.raw.nbytes + 200


class ReadingCache:
    """The newest span of each series as arrays, together within a bound in bytes.

    What lies before the asked span stays in the database, however much was imported there. A series
    to which readings were only added at its end is read on from there; one of which anything else
    changed since (`series.rewritten`) is read anew.
    """

    def __init__(self, *, most_bytes: int = MOST_BYTES) -> None:
        self._kept: BoundedCache[_Held] = BoundedCache(most_bytes)

    @property
    def bytes_held(self) -> int:
        """Bytes of the arrays that are held."""
        return self._kept.bytes_held

    def traces(
        self, connection: Connection, rows: Iterable[Series], start_ms: int, end_ms: int
    ) -> dict[str, Trace]:
        """The readings of several series in a span, by probe; empty traces among them."""
        wanted = {series.id: series for series in rows}
        by_probe: dict[str, Trace] = {}
        missing: list[tuple[Series, _Held | None]] = []
        for series in wanted.values():
            held = self._kept.get(series.id)
            if held is None or held.since_ms > start_ms:
                missing.append((series, None))
            elif held.version != series.version:
                missing.append((series, held))
            else:
                by_probe[series.probe] = held.trace.between(start_ms, end_ms)
        if missing:
            for series, held in self._read(connection, missing, start_ms):
                self._kept.put(series.id, held, held.size_bytes, beside=wanted.keys())
                by_probe[series.probe] = held.trace.between(start_ms, end_ms)
        return by_probe

    def trace(
        self, connection: Connection, series: Series | None, start_ms: int, end_ms: int
    ) -> Trace:
        """The readings of one series in a span; empty where there are none."""
        if series is None:
            return _empty()
        return self.traces(connection, [series], start_ms, end_ms)[series.probe]

    def latest(
        self, connection: Connection, rows: Iterable[Series], start_ms: int, end_ms: int
    ) -> dict[str, Trace]:
        """The same; where a span is empty, the last reading before it where there is one."""
        wanted = [series for series in rows if series.count]
        by_probe = self.traces(connection, wanted, start_ms, end_ms)
        empty = [s for s in wanted if not len(by_probe[s.probe]) and s.first_ms < start_ms]
        earlier = _instants(connection, LAST_BEFORE, [s.id for s in empty], start_ms)
        spans = [(series_id, t_ms, t_ms + 1) for series_id, t_ms in earlier.items()]
        for probe, (_, _, trace) in _packed(connection, spans).items():
            by_probe[probe] = trace
        return by_probe

    def _read(
        self, connection: Connection, missing: list[tuple[Series, _Held | None]], start_ms: int
    ) -> list[tuple[Series, _Held]]:
        """Read on where there is something to go on from, else from the start of the span."""
        spans = [
            (series.id, _after(held) if held else start_ms, ENDLESS_MS) for series, held in missing
        ]
        rows = _packed(connection, spans)
        done: list[tuple[Series, _Held]] = []
        again: list[tuple[Series, _Held | None]] = []
        for series, held in missing:
            version, rewritten, trace = rows[series.probe]
            if held is not None:
                if rewritten > held.version:  # something changed before its end
                    again.append((series, None))
                    continue
                trace = _joined(held.trace, trace)
            since_ms = held.since_ms if held else start_ms
            now = _Held(version=version, since_ms=since_ms, trace=trace)
            done.append((series, now))
        return done + (self._read(connection, again, start_ms) if again else [])


def series_of(connection: Connection, house_id: int) -> dict[str, Series]:
    """Every series of a house, by probe."""
    rows = connection.execute(
        select(t.series).where(t.series.c.house_id == house_id).order_by(t.series.c.probe)
    ).all()
    return {
        row.probe: Series(
            id=row.id,
            probe=row.probe,
            version=row.version,
            count=row._mapping[t.series.c.count],
            first_ms=row.first_ms or 0,
            last_ms=row.last_ms or 0,
        )
        for row in rows
    }


def first_since(connection: Connection, rows: Iterable[Series], start_ms: int) -> dict[str, int]:
    """The first reading of each series at or after an instant; those without one are left out."""
    recorded = [series for series in rows if series.count and series.last_ms >= start_ms]
    early = [series for series in recorded if series.first_ms < start_ms]
    earliest = _instants(connection, FIRST_SINCE, [series.id for series in early], start_ms)
    return {
        series.probe: earliest.get(series.id, series.first_ms)
        for series in recorded
        if series.first_ms >= start_ms or series.id in earliest
    }


def _instants(connection: Connection, query: str, ids: list[int], at_ms: int) -> dict[int, int]:
    if not ids:
        return {}
    with driver_of(connection).cursor() as cursor:
        return dict(cursor.execute(query, (ids, at_ms)).fetchall())


def _packed(
    connection: Connection, spans: list[tuple[int, int, int]]
) -> dict[str, tuple[int, int, Trace]]:
    """Version, that of the last rewriting and readings of each series (id, from, to), by probe."""
    if not spans:
        return {}
    ids, since, until = (list(column) for column in zip(*spans, strict=True))
    with driver_of(connection).cursor(binary=True) as cursor:
        rows = cursor.execute(PACKED, (ids, since, until)).fetchall()
    return {
        probe: (
            version,
            rewritten,
            Trace(
                t_ms=np.frombuffer(t_ms or b"", dtype=">i8").astype(np.int64),
                raw=np.frombuffer(value or b"", dtype=">f8").astype(np.float64),
            ),
        )
        for probe, version, rewritten, t_ms, value in rows
    }


def _after(held: _Held) -> int:
    return int(held.trace.t_ms[-1]) + 1 if len(held.trace) else held.since_ms


def _joined(first: Trace, second: Trace) -> Trace:
    if not len(second):
        return first
    return Trace(
        t_ms=np.concatenate((first.t_ms, second.t_ms)), raw=np.concatenate((first.raw, second.raw))
    )


def _empty() -> Trace:
    return Trace(t_ms=np.zeros(0, dtype=np.int64), raw=np.zeros(0))
