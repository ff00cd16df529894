"""Taking a change of the readings back, also one that later changes lie over.

A reading belongs to the last standing change that touched its instant. So what a change is undone
to depends on who came after it: where nobody did, its reading goes and the one before comes back;
where a later change did, that one keeps what it stored, and only what *it* would bring back when
it is undone is another. In whatever order changes are undone, what stands is what the remaining
ones make.
"""

from collections.abc import Callable

import numpy as np
from sqlalchemy import Connection, select, update

from aldea.core.base.arrays import IntArray
from aldea.core.base.errors import ConflictError, NotFoundError
from aldea.core.readings.trace import Trace
from aldea.store import tables as t
from aldea.store.database import driver_of
from aldea.store.reading_changes import SUM_UP, lock_series, packed, unpacked
from aldea.store.readings import series_id, store_readings

Tell = Callable[[float], None]
AT_ONCE = 262_144
REMOVE = (
    "DELETE FROM reading USING unnest(%s::bigint[]) AS gone (t_ms) "
    "WHERE series_id = %s AND reading.t_ms = gone.t_ms"
)


def undo_change(
    connection: Connection,
    house_id: int,
    change_id: int,
    at_ms: int,
    tell: Tell = lambda _share: None,
) -> tuple[int, int]:
    """Take a change back: what it added goes, what it removed comes; returns (removed, restored).

    What later changes stored over it stays theirs. `tell` is called with the share that is done
    and may raise to stop; then nothing was changed. Raises `ConflictError` where it was taken back
    already.
    """
    c = t.reading_change.c
    row = connection.execute(
        select(t.reading_change).where(c.id == change_id, c.house_id == house_id).with_for_update()
    ).one_or_none()
    if row is None:
        raise NotFoundError("change", got=str(change_id), allowed="a change of this house")
    if row.undone_ms is not None:
        raise ConflictError("change", text="That change was undone already.")
    series, driver = series_id(connection, house_id, row.probe), driver_of(connection)
    lock_series(driver, series)
    added, removed = unpacked(row.packed)
    free = _left_by_later(connection, house_id, row.probe, change_id, added, removed)
    goes = added[np.isin(added, free, assume_unique=True)]
    comes = _part(removed, np.isin(removed.t_ms, free, assume_unique=True))
    gone = 0
    for start in range(0, len(goes), AT_ONCE):
        some = goes[start : start + AT_ONCE].tolist()
        gone += driver.execute(REMOVE, (some, series)).rowcount
        tell(min(start + AT_ONCE, len(goes)) / (len(goes) + len(comes)))
    if gone:
        driver.execute(SUM_UP, (gone, series))
    back = len(store_readings(driver, series, comes)) if len(comes) else 0
    connection.execute(
        update(t.reading_change).where(c.id == change_id).values(undone_ms=at_ms, packed=None)
    )
    return gone, back


def _left_by_later(
    connection: Connection,
    house_id: int,
    probe: str,
    change_id: int,
    added: IntArray,
    removed: Trace,
) -> IntArray:
    """The instants of a change that no later one touched; the others go to the next that did.

    The next change over an instant brings back, once it is undone, what this one would have.
    """
    c = t.reading_change.c
    later = connection.execute(
        select(c.id, c.packed)
        .where(c.house_id == house_id, c.probe == probe, c.id > change_id, c.undone_ms.is_(None))
        .where(c.packed.is_not(None))
        .order_by(c.id)
    )
    free: IntArray = np.union1d(added, removed.t_ms)
    for later_id, kept in later.all():
        its_added, its_removed = unpacked(kept)
        over = np.intersect1d(free, np.union1d(its_added, its_removed.t_ms), assume_unique=True)
        if not len(over):
            continue
        stays = _part(its_removed, ~np.isin(its_removed.t_ms, over, assume_unique=True))
        handed = _part(removed, np.isin(removed.t_ms, over, assume_unique=True))
        brings = _joined(stays, handed)
        connection.execute(
            update(t.reading_change)
            .where(c.id == later_id)
            .values(packed=packed(its_added, brings), removed=len(brings))
        )
        free = np.setdiff1d(free, over, assume_unique=True)
    return free


def _part(trace: Trace, rows: "np.ndarray") -> Trace:
    return Trace(t_ms=trace.t_ms[rows], raw=trace.raw[rows])


def _joined(first: Trace, second: Trace) -> Trace:
    t_ms = np.concatenate((first.t_ms, second.t_ms))
    order = np.argsort(t_ms, kind="stable")
    return Trace(t_ms=t_ms[order], raw=np.concatenate((first.raw, second.raw))[order])
