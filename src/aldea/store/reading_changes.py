"""Changes of what is recorded, kept so that each can be taken back: imports, spans removed."""

import io
from dataclasses import dataclass

import numpy as np
import psycopg
from sqlalchemy import Connection, insert, select

from aldea.core.base.arrays import IntArray
from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.base.figures import thousands
from aldea.core.readings.trace import Trace
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.database import driver_of
from aldea.store.readings import series_id

MOST_REMOVED = 1_000_000
REMOVE_SPAN = """
WITH gone AS (
  DELETE FROM reading WHERE series_id = %s AND t_ms >= %s AND t_ms < %s RETURNING t_ms, value
)
SELECT string_agg(int8send(t_ms), ''::bytea ORDER BY t_ms),
       string_agg(float8send(value), ''::bytea ORDER BY t_ms)
FROM gone
"""
COUNT_SPAN = "SELECT count(*) FROM reading WHERE series_id = %s AND t_ms >= %s AND t_ms < %s"
# What pages ask for at every visit is kept beside the series, in the same transaction.
SUM_UP = """
UPDATE series SET version = version + 1, rewritten = version + 1, count = count - %s,
  first_ms = (SELECT t_ms FROM reading WHERE series_id = series.id ORDER BY t_ms LIMIT 1),
  last_ms = (SELECT t_ms FROM reading WHERE series_id = series.id ORDER BY t_ms DESC LIMIT 1)
WHERE id = %s
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingChange:
    """Readings that were added, removed, or both, by whom, from which import, why."""

    id: int
    probe: str
    import_id: int | None
    file_name: str
    by: str
    at_ms: int
    reason: str
    added: int
    removed: int
    undone_ms: int | None


def keep_change(
    connection: Connection,
    house_id: int,
    *,
    probe: str,
    by: Account,
    at_ms: int,
    added: IntArray,
    removed: Trace,
    import_id: int | None = None,
    reason: str = "",
) -> None:
    """Write down what was changed; nothing where nothing was."""
    if not len(added) and not len(removed):
        return
    connection.execute(
        insert(t.reading_change).values(
            house_id=house_id,
            probe=probe,
            import_id=import_id,
            account_id=by.id,
            at_ms=at_ms,
            reason=reason,
            added=len(added),
            removed=len(removed),
            packed=packed(added, removed),
        )
    )


def changes_of(connection: Connection, house_id: int, most: int = 12) -> list[ReadingChange]:
    """The newest changes of a house."""
    c = t.reading_change.c
    rows = connection.execute(
        select(
            c.id, c.probe, c.import_id, c.at_ms, c.reason, c.added, c.removed, c.undone_ms,
            t.account.c.name.label("by"), t.import_run.c.file_name,
        )
        .join_from(t.reading_change, t.account)
        .join(t.import_run, t.import_run.c.id == c.import_id, isouter=True)
        .where(c.house_id == house_id)
        .order_by(c.id.desc())
        .limit(most)
    )  # fmt: skip
    return [
        ReadingChange(**{**row._mapping, "file_name": row.file_name or ""}) for row in rows.all()
    ]


def remove_span(
    connection: Connection,
    house_id: int,
    *,
    probe: str,
    from_ms: int,
    to_ms: int,
    by: Account,
    at_ms: int,
    reason: str,
) -> int:
    """Take the readings of a probe in [from, to) out; returns how many. They can be put back."""
    series = series_id(connection, house_id, probe)
    driver = driver_of(connection)
    lock_series(driver, series)
    count = driver.execute(COUNT_SPAN, (series, from_ms, to_ms)).fetchone()
    if count is None or not count[0]:
        raise InputError("span", text="There is no reading in that span. Choose another one.")
    if count[0] > MOST_REMOVED:
        raise InputError(
            "span",
            text=f"There are {thousands(count[0])} readings in that span; at once "
            f"{thousands(MOST_REMOVED)} can be removed. Choose a shorter one.",
        )
    removed = take_span(driver, series, from_ms, to_ms)
    keep_change(
        connection, house_id, probe=probe, by=by, at_ms=at_ms,
        added=np.zeros(0, dtype=np.int64), removed=removed, reason=reason,
    )  # fmt: skip
    return len(removed)


def take_span(driver: psycopg.Connection, series: int, from_ms: int, to_ms: int) -> Trace:
    """Take the readings of a series in [from, to) out and give them back."""
    lock_series(driver, series)
    with driver.cursor(binary=True) as cursor:
        row = cursor.execute(REMOVE_SPAN, (series, from_ms, to_ms)).fetchone()
    times, values = (part or b"" for part in row or (b"", b""))
    removed = Trace(
        t_ms=np.frombuffer(times, dtype=">i8").astype(np.int64),
        raw=np.frombuffer(values, dtype=">f8").astype(np.float64),
    )
    if len(removed):
        driver.execute(SUM_UP, (len(removed), series))
    return removed


def change_of_import(connection: Connection, import_id: int) -> int:
    """The change that an import made, as long as it stands."""
    c = t.reading_change.c
    change_id = connection.scalar(
        select(c.id).where(c.import_id == import_id, c.undone_ms.is_(None))
    )
    if change_id is None:
        raise NotFoundError(
            "import",
            text="The readings of that import can no longer be told from the rest, or it was "
            "undone already. Remove them as a span.",
        )
    return int(change_id)


def lock_series(driver: psycopg.Connection, series: int) -> None:
    """Let others who change a series wait for the transaction."""
    driver.execute("SELECT pg_advisory_xact_lock(715519, %s)", (series,))


def packed(added: IntArray, removed: Trace) -> bytes:
    """What a change did, small: instants as differences, which mostly are all the same."""
    kept = io.BytesIO()
    np.savez_compressed(
        kept,
        added=np.diff(added, prepend=np.int64(0)),
        t_ms=np.diff(removed.t_ms, prepend=np.int64(0)),
        raw=removed.raw,
    )
    return kept.getvalue()


def unpacked(kept_bytes: bytes) -> tuple[IntArray, Trace]:
    """The instants that a change added, and the readings that it removed."""
    with np.load(io.BytesIO(kept_bytes)) as kept:
        removed = Trace(t_ms=np.cumsum(kept["t_ms"]), raw=kept["raw"])
        return np.cumsum(kept["added"]), removed
