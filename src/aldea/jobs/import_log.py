"""The two steps of an import: check the whole log, then store it; both told, both stoppable."""

import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from aldea.core.errors import AldeaError, LogFileError
from aldea.core.plan.document import Range
from aldea.core.rehearse.trace import Trace
from aldea.formats.csv_log import read_log
from aldea.jobs.uploads import parsed_path, upload_path
from aldea.store.accounts import Account
from aldea.store.database import Database
from aldea.store.houses import write_log
from aldea.store.imports import (
    ImportRun,
    State,
    find_import,
    move_import,
    report_text,
    tell_share,
)
from aldea.store.plans import read_draft
from aldea.store.readings import known_instants, series_id, store_readings

SECONDS_BETWEEN_TELLING = 0.25


class StoppedError(AldeaError):
    """Somebody pressed Stop."""


def check_import(database: Database, uploads: Path, run_id: int) -> None:
    """Read the whole upload and count what is in it; stores no reading."""
    with database.begin() as connection:
        run = find_import(connection, run_id)
        if run.state != "checking":  # released after a crash, or stopped, before its turn came
            return
        allowed = _range_of(database, run)
        series = series_id(connection, run.house_id, run.probe)
    try:
        trace, report = read_log(
            upload_path(uploads, run_id), run.options, allowed, _teller(database, run_id)
        )
        with database.raw() as raw:
            known = int(known_instants(raw, series, trace).sum())
        np.savez(parsed_path(uploads, run_id), t_ms=trace.t_ms, raw=trace.raw)
    except StoppedError:
        _finish(database, run_id, "checking", "stopped")
    except (LogFileError, OSError) as exc:
        _finish(database, run_id, "checking", "refused", refusal=_words(exc))
    else:
        text = report_text(report, known_before=known)
        _finish(database, run_id, "checking", "checked", report=text, refusal=None)


def store_import(database: Database, uploads: Path, run_id: int, now_ms: int) -> None:
    """Write the checked readings in one transaction; what is there already is left as it is."""
    with database.begin() as connection:
        run = find_import(connection, run_id)
        if run.state != "storing":
            return
        series = series_id(connection, run.house_id, run.probe)
    try:
        with np.load(parsed_path(uploads, run_id)) as kept:
            trace = Trace(t_ms=kept["t_ms"], raw=kept["raw"])
        with database.raw() as raw:
            stored = store_readings(raw, series, trace, _teller(database, run_id))
    except StoppedError:
        _finish(database, run_id, "storing", "stopped")
        return
    except OSError as exc:
        _finish(database, run_id, "storing", "refused", refusal=_words(exc))
        return
    if run.report is None:  # cannot be: storing follows checking
        raise AssertionError
    text = report_text(run.report, known_before=run.known_before, stored=stored)
    _finish(database, run_id, "storing", "stored", report=text, refusal=None)
    with database.begin() as connection:
        write_log(
            connection,
            run.house_id,
            account=Account(id=run.account_id, name=""),
            at_ms=now_ms,
            what=f"Imported {stored} readings of {run.probe} from {run.file_name}.",
        )
    upload_path(uploads, run_id).unlink(missing_ok=True)
    parsed_path(uploads, run_id).unlink(missing_ok=True)


def _range_of(database: Database, run: ImportRun) -> Range:
    with database.begin() as connection:
        probe = read_draft(connection, run.house_id).plan.probe(run.probe)
    return probe.range if probe else Range(low=float("-inf"), high=float("inf"))


def _teller(database: Database, run_id: int) -> Callable[[float], None]:
    last = [0.0]

    def told(share: float) -> None:
        if time.monotonic() - last[0] < SECONDS_BETWEEN_TELLING:
            return
        last[0] = time.monotonic()
        with database.begin() as connection:
            if tell_share(connection, run_id, share):
                raise StoppedError("import", got="a wish to stop", allowed="going on")

    return told


def _finish(database: Database, run_id: int, was: State, to: State, **facts: object) -> None:
    with database.begin() as connection:
        move_import(
            connection,
            run_id,
            allowed_from=(was,),
            to=to,
            done_share=1.0,
            wanted_stop=False,
            **facts,
        )


def _words(exc: Exception) -> str:
    if isinstance(exc, AldeaError):
        return exc.sentence
    if isinstance(exc, FileNotFoundError):
        return "The upload is no longer here; choose the file again."
    return f"The disk said: {exc}. Free space and start again."
