"""What was left behind: runs whose worker died, uploads nobody came back to, old rows.

Any number of servers may do it at any time: a run that somebody works at holds its lock.
"""

import time
from pathlib import Path

from sqlalchemy import Connection

from aldea.core.base.instants import MS_PER_DAY
from aldea.jobs.queue import forget, forget_old, waits
from aldea.jobs.uploads import throw_away
from aldea.store.assign_runs import assigning_under_way, end_assigning
from aldea.store.database import Database
from aldea.store.imports import (
    INTERRUPTED,
    release_interrupted,
    under_way,
    unused_since,
    with_an_upload,
)
from aldea.store.run_locks import Work, lock_run, lock_sweeping
from aldea.store.sessions import forget_ended

UNUSED_DAYS = 14
SECOND_LOOK_S = 1.0  # between taking work from the queue and taking its lock: far less


def sweep(database: Database, uploads: Path, now_ms: int) -> None:
    """Release interrupted runs, throw unused uploads away, forget what is over.

    One sweeps at a time: looking whether a run is held means to hold it for a moment.
    """
    with database.begin() as sweeping:
        if lock_sweeping(sweeping):
            _sweep(database, uploads, now_ms)


def _sweep(database: Database, uploads: Path, now_ms: int) -> None:
    _release(database)
    with database.begin() as connection:
        forget_ended(connection, now_ms)
        forget_old(connection)
        for run_id in unused_since(connection, now_ms - UNUSED_DAYS * MS_PER_DAY):
            throw_away(uploads, run_id)
        # What lies there is listed first: an upload that comes in now is none of these.
        present = {int(p.stem) for p in uploads.glob("[0-9]*.*") if p.stem.isdecimal()}
        for run_id in present - with_an_upload(connection):
            throw_away(uploads, run_id)


def _release(database: Database) -> None:
    suspects = _unheld(database)
    if not suspects:
        return
    time.sleep(SECOND_LOOK_S)
    for work, run_id in suspects & _unheld(database):
        with database.begin() as connection:
            if lock_run(connection, work, run_id):
                forget(connection, work, run_id)
                _released(connection, work, run_id)


def _released(connection: Connection, work: Work, run_id: int) -> None:
    if work == "import":
        release_interrupted(connection, run_id)
    else:
        end_assigning(connection, run_id, "refused", refusal=INTERRUPTED)


def _unheld(database: Database) -> set[tuple[Work, int]]:
    with database.begin() as connection:
        begun: list[tuple[Work, int]] = [
            *(("import", run_id) for run_id in under_way(connection)),
            *(("assign", run_id) for run_id in assigning_under_way(connection)),
        ]
        return {
            (work, run_id)
            for work, run_id in begun
            if not waits(connection, work, run_id) and lock_run(connection, work, run_id)
        }
