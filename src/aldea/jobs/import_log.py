"""The steps of an import: check the whole log, store it, take it back; all told, all stoppable."""

import logging
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from sqlalchemy import Connection

from aldea.core.base.errors import AldeaError
from aldea.core.plan.document import Range
from aldea.core.readings.trace import Trace
from aldea.formats.csv_log import read_csv_log
from aldea.formats.log_units import Spoken
from aldea.jobs.running import SECONDS_BETWEEN_TELLING, StoppedError, held, words_of
from aldea.jobs.uploads import parsed_path, throw_away, upload_path, written
from aldea.store.accounts import Account
from aldea.store.database import Database, driver_of
from aldea.store.drafts import read_draft
from aldea.store.houses import add_log_entry
from aldea.store.imports import (
    ImportRun,
    State,
    find_import,
    move_import,
    report_text,
    tell_share,
)
from aldea.store.reading_changes import change_of_import, keep_change, take_span
from aldea.store.reading_undo import undo_change
from aldea.store.readings import known_instants, series_id, store_readings

NO_READINGS = Trace(t_ms=np.zeros(0, dtype=np.int64), raw=np.zeros(0))
log = logging.getLogger("aldea.jobs")


def check_import(database: Database, uploads: Path, run_id: int) -> None:
    """Read the whole upload and count what is in it; stores no reading."""
    _at_it(database, run_id, "checking", partial(_check, database, uploads))


def store_import(database: Database, uploads: Path, run_id: int, now_ms: int) -> None:
    """Write the checked readings in one transaction; what is there already is left as it is."""
    _at_it(database, run_id, "storing", partial(_store, database, uploads, now_ms))
    with database.begin() as connection:
        done = find_import(connection, run_id).state == "stored"
    if done:
        throw_away(uploads, run_id)


def take_back_import(database: Database, run_id: int, now_ms: int) -> None:
    """Take the readings that an import stored out again, and put back what it replaced."""
    _at_it(database, run_id, "withdrawing", partial(_take_back, database, now_ms))


def _at_it(
    database: Database, run_id: int, state: State, work: Callable[[ImportRun], None]
) -> None:
    """Do one step of a run, whatever comes of it: done, stopped, or refused with the reason.

    The lock tells other servers that somebody is at it; it ends with the process, in any case.
    """
    with database.begin() as holding:
        if not held(holding, "import", run_id):
            return
        with database.begin() as connection:
            run = find_import(connection, run_id)
        if run.state != state:  # released after a crash, or stopped, before its turn came
            return
        try:
            _teller(database, run_id)(0.0)  # Stop may have been pressed before its turn came
            work(run)
        except StoppedError:
            _finish(database, run_id, state, "stored" if state == "withdrawing" else "stopped")
        except Exception as exc:
            if not isinstance(exc, (AldeaError, OSError)):
                log.exception("import %s", run_id)
            left: State = "stored" if state == "withdrawing" else "refused"
            _finish(database, run_id, state, left, refusal=words_of(exc))


def _check(database: Database, uploads: Path, run: ImportRun) -> None:
    with database.begin() as connection:
        plan = read_draft(connection, run.house_id).plan
        series = series_id(connection, run.house_id, run.probe)
    probe, tell = plan.probe(run.probe), _teller(database, run.id)
    allowed = probe.range if probe else Range(low=float("-inf"), high=float("inf"))
    spoken = Spoken(plan, probe, run.options.unit) if probe else None
    trace, report = read_csv_log(upload_path(uploads, run.id), run.options, allowed, tell, spoken)
    with database.raw() as raw:
        known = int(known_instants(raw, series, trace).sum())
    with written(parsed_path(uploads, run.id)) as kept:
        np.savez(kept, t_ms=trace.t_ms, raw=trace.raw)
    text = report_text(report, known_before=known)
    _finish(database, run.id, "checking", "checked", report=text, refusal=None)


def _store(database: Database, uploads: Path, now_ms: int, run: ImportRun) -> None:
    """Readings, the state of the run and the line in the history: all of it or nothing."""
    if run.report is None:  # cannot be: storing follows checking
        raise AssertionError
    with database.begin() as connection:
        series = series_id(connection, run.house_id, run.probe)
    with np.load(parsed_path(uploads, run.id)) as kept:
        trace = Trace(t_ms=kept["t_ms"], raw=kept["raw"])
    with database.begin() as connection:
        driver, by = driver_of(connection), Account(id=run.account_id, name="")
        removed = NO_READINGS
        if run.options.replaces and len(trace):
            removed = take_span(driver, series, int(trace.t_ms[0]), int(trace.t_ms[-1]) + 1)
        added = store_readings(driver, series, trace, _teller(database, run.id))
        keep_change(
            connection, run.house_id, probe=run.probe, by=by, at_ms=now_ms, added=added,
            removed=removed, import_id=run.id,
        )  # fmt: skip
        text = report_text(run.report, known_before=run.known_before, stored=len(added))
        _moved(connection, run.id, "storing", "stored", report=text, refusal=None)
        instead = f" in place of {len(removed)}" if len(removed) else ""
        what = f"Imported {len(added)} readings of {run.probe} from {run.file_name}{instead}."
        add_log_entry(connection, run.house_id, account=by, at_ms=now_ms, what=what)


def _take_back(database: Database, now_ms: int, run: ImportRun) -> None:
    with database.begin() as connection:
        change = change_of_import(connection, run.id)
        tell = _teller(database, run.id)
        gone, back = undo_change(connection, run.house_id, change, now_ms, tell)
        _moved(connection, run.id, "withdrawing", "withdrawn", refusal=None)
        put_back = f", {back} put back" if back else ""
        add_log_entry(
            connection,
            run.house_id,
            account=Account(id=run.account_id, name=""),
            at_ms=now_ms,
            what=f"Undid the import of {run.file_name}: {gone} readings of {run.probe} "
            f"removed{put_back}.",
        )


def _teller(database: Database, run_id: int) -> Callable[[float], None]:
    last = [0.0]

    def report_progress(share: float) -> None:
        if time.monotonic() - last[0] < SECONDS_BETWEEN_TELLING:
            return
        last[0] = time.monotonic()
        with database.begin() as connection:
            if tell_share(connection, run_id, share):
                raise StoppedError("import", got="a wish to stop", allowed="going on")

    return report_progress


def _finish(database: Database, run_id: int, was: State, to: State, **facts: object) -> None:
    with database.begin() as connection:
        _moved(connection, run_id, was, to, **facts)


def _moved(connection: Connection, run_id: int, was: State, to: State, **facts: object) -> None:
    facts = {"done_share": 1.0, "wanted_stop": False, **facts}
    move_import(connection, run_id, allowed_from=(was,), to=to, **facts)
