"""Long work on a real server: whatever goes wrong ends in words, and nothing is half done."""

import stat
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import pytest
from sqlalchemy import func, select, text

from aldea.core.base.errors import ConflictError, InputError
from aldea.core.base.instants import MS_PER_DAY
from aldea.demo.mill import DRYING_RH
from aldea.demo.recorded import END_MS
from aldea.formats.log_options import LogOptions
from aldea.jobs import import_log
from aldea.jobs.import_log import check_import, store_import, take_back_import
from aldea.jobs.queue import CHECK_LOG, defer, forget, waits
from aldea.jobs.sweeping import UNUSED_DAYS, sweep
from aldea.jobs.uploads import parsed_path, upload_path, written
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.houses import log_entries
from aldea.store.imports import ImportRun, State, begin_import, find_import, move_import
from aldea.store.reading_cache import series_of
from aldea.store.reading_changes import changes_of, remove_span
from aldea.store.reading_undo import undo_change
from aldea.store.run_locks import lock_run

ROWS = b"t,rh\n1700000000,50\n1700000010,51\n1700000020,52\n"
OPTIONS = LogOptions(time_kind="epoch_s")


def begun(
    database, uploads: Path, state: State, content: bytes = ROWS, options: LogOptions = OPTIONS
) -> int:
    """A run that is in a state, with its upload."""
    with database.begin() as connection:
        row = connection.execute(select(t.account).where(t.account.c.name == "jon")).one()
        run_id = begin_import(
            connection,
            int(connection.scalar(select(t.house.c.id))),
            by=Account(id=row.id, name=row.name),
            probe=DRYING_RH,
            file_name="log.csv",
            size_bytes=len(content),
            options=options,
            at_ms=END_MS,
        )
        move_import(connection, run_id, allowed_from=("chosen",), to=state)
    with written(upload_path(uploads, run_id)) as target:
        target.write(content)
    return run_id


def run_of(database, run_id: int) -> ImportRun:
    with database.begin() as connection:
        return find_import(connection, run_id)


def readings_of(database) -> int:
    with database.begin() as connection:
        return int(
            connection.scalar(text("SELECT count(*) FROM reading WHERE t_ms < 1700001000000"))
        )


def checked(database, uploads: Path, content: bytes = ROWS, options: LogOptions = OPTIONS) -> int:
    """A run whose readings were counted and are to be stored."""
    run_id = begun(database, uploads, "checking", content, options)
    check_import(database, uploads, run_id)
    with database.begin() as connection:
        move_import(connection, run_id, allowed_from=("checked",), to="storing")
    return run_id


@contextmanager
def held_by_another(database, run_id: int):
    with database.begin() as other:
        assert lock_run(other, "import", run_id)
        yield


def test_what_is_written_is_for_this_user_alone(database, tmp_path):
    uploads = tmp_path / "uploads"
    run_id = begun(database, uploads, "checking")
    check_import(database, uploads, run_id)
    assert stat.S_IMODE(uploads.stat().st_mode) == 0o700
    for path in (upload_path(uploads, run_id), parsed_path(uploads, run_id)):
        assert stat.S_IMODE(path.stat().st_mode) == 0o600


def test_a_stored_run_leaves_no_file_and_one_line(database, tmp_path):
    run_id = checked(database, tmp_path)
    store_import(database, tmp_path, run_id, END_MS)
    run = run_of(database, run_id)
    assert (run.state, run.stored, readings_of(database)) == ("stored", 3, 3)
    assert list(tmp_path.iterdir()) == []
    with database.begin() as connection:
        lines = log_entries(connection, run.house_id, 5)
    assert [line.what for line in lines if "log.csv" in line.what] == [
        f"Imported 3 readings of {DRYING_RH} from log.csv."
    ]


def test_a_broken_file_between_the_steps_is_refused_in_words(database, tmp_path):
    run_id = checked(database, tmp_path)
    parsed_path(tmp_path, run_id).write_bytes(b"not what was written there")
    store_import(database, tmp_path, run_id, END_MS)
    run = run_of(database, run_id)
    assert run.state == "refused"
    assert "Nothing was stored" in (run.refusal or "")
    assert readings_of(database) == 0


def test_a_file_that_is_gone_says_so(database, tmp_path):
    run_id = begun(database, tmp_path, "checking")
    upload_path(tmp_path, run_id).unlink()
    check_import(database, tmp_path, run_id)
    assert (
        run_of(database, run_id).refusal == "The upload is no longer here; choose the file again."
    )


def test_a_full_disk_is_refused_in_words(database, tmp_path):
    run_id = begun(database, tmp_path, "checking")
    parsed_path(tmp_path, run_id).symlink_to("/dev/full")
    check_import(database, tmp_path, run_id)
    run = run_of(database, run_id)
    assert run.state == "refused"
    assert "No space left" in (run.refusal or "")
    assert "free space" in (run.refusal or "")


def test_readings_state_and_log_line_are_one(database, tmp_path, monkeypatch):
    """Where the last of the three fails, nothing of the first two is there."""
    run_id = checked(database, tmp_path)

    def full(*_args, **_kept):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(import_log, "add_log_entry", full)
    store_import(database, tmp_path, run_id, END_MS)
    run = run_of(database, run_id)
    assert (run.state, run.stored, readings_of(database)) == ("refused", 0, 0)
    assert parsed_path(tmp_path, run_id).exists()


def test_stop_is_seen_before_anything_is_stored(database, tmp_path):
    run_id = checked(database, tmp_path)
    with database.begin() as connection:
        connection.execute(t.import_run.update().values(wanted_stop=True))
    store_import(database, tmp_path, run_id, END_MS)
    assert run_of(database, run_id).state == "stopped"
    assert readings_of(database) == 0


def test_work_is_queued_with_the_state_or_not_at_all(database, tmp_path):
    run_id = begun(database, tmp_path, "checked")

    def too_late() -> None:
        with database.begin() as connection:
            defer(connection, CHECK_LOG, run_id)
            move_import(connection, run_id, allowed_from=("chosen",), to="checking")

    with pytest.raises(ConflictError):
        too_late()
    with database.begin() as connection:
        assert not waits(connection, "import", run_id)
        defer(connection, CHECK_LOG, run_id)
    with database.begin() as connection:
        assert waits(connection, "import", run_id)
        forget(connection, "import", run_id)
        assert not waits(connection, "import", run_id)


def test_two_workers_never_do_one_run(database, tmp_path):
    run_id = begun(database, tmp_path, "checking")
    with held_by_another(database, run_id):
        check_import(database, tmp_path, run_id)
        assert run_of(database, run_id).state == "checking"
    check_import(database, tmp_path, run_id)
    assert run_of(database, run_id).state == "checked"


def test_sweeping_leaves_what_somebody_works_at(database, tmp_path):
    """A second server's start never resets the first one's work, nor what waits for its turn."""
    held, waiting, dead = (begun(database, tmp_path, "checking") for _ in range(3))
    with database.begin() as connection:
        defer(connection, CHECK_LOG, waiting)
    with held_by_another(database, held):
        sweep(database, tmp_path, END_MS)
    states = [run_of(database, run_id).state for run_id in (held, waiting, dead)]
    assert states == ["checking", "checking", "chosen"]
    assert "Start it again" in (run_of(database, dead).refusal or "")


def test_sweeping_throws_away_what_nobody_came_back_to(database, tmp_path):
    old, stored = begun(database, tmp_path, "checked"), checked(database, tmp_path)
    store_import(database, tmp_path, stored, END_MS)
    sweep(database, tmp_path, END_MS + (UNUSED_DAYS - 1) * MS_PER_DAY)
    assert upload_path(tmp_path, old).exists()
    orphan = upload_path(tmp_path, 10**6)
    orphan.write_bytes(b"x")
    kept = tmp_path / "README.txt"
    kept.write_bytes(b"not ours")
    sweep(database, tmp_path, END_MS + (UNUSED_DAYS + 1) * MS_PER_DAY)
    assert sorted(tmp_path.iterdir()) == [kept]
    assert "upload was deleted" in (run_of(database, old).refusal or "")
    assert run_of(database, stored).state == "stored"


def test_sweeping_clears_what_dead_workers_left_in_the_queue(database, tmp_path):
    with database.begin() as connection:
        for run_id in (1, 2):
            defer(connection, CHECK_LOG, run_id)
        connection.execute(
            text(
                "UPDATE procrastinate_jobs SET status = 'doing', worker_id = NULL "
                "WHERE args ->> 'run_id' = '1'"
            )
        )
    sweep(database, tmp_path, END_MS)
    with database.begin() as connection:
        left = connection.scalars(text("SELECT args ->> 'run_id' FROM procrastinate_jobs")).all()
        assert list(left) == ["2"]


def test_four_servers_sweep_at_once(database, tmp_path):
    runs = [begun(database, tmp_path, "storing") for _ in range(3)]
    with ThreadPoolExecutor(4) as pool:
        for done in [pool.submit(sweep, database, tmp_path, END_MS) for _ in range(4)]:
            done.result(30)
    assert {run_of(database, run_id).state for run_id in runs} == {"checked"}
    with database.begin() as connection:
        assert connection.scalar(select(func.count()).select_from(t.import_run)) == len(runs)
    assert {path.suffix for path in tmp_path.iterdir()} == {".csv"}


def early(database) -> list[tuple[int, float]]:
    """The readings of the first seconds, in order."""
    query = "SELECT t_ms, value FROM reading WHERE t_ms < 1700001000000 ORDER BY t_ms"
    with database.begin() as connection:
        return [
            ((t_ms - 1_700_000_000_000) // 1000, v) for t_ms, v in connection.execute(text(query))
        ]


def taken_back(database, run_id: int) -> None:
    with database.begin() as connection:
        move_import(connection, run_id, allowed_from=("stored",), to="withdrawing")
    take_back_import(database, run_id, END_MS)


def series_row(database) -> tuple[int, int]:
    with database.begin() as connection:
        row = series_of(connection, int(connection.scalar(select(t.house.c.id))))[DRYING_RH]
        held = connection.scalar(
            text("SELECT count(*) FROM reading WHERE series_id = :s"), {"s": row.id}
        )
    assert row.count == held, "what pages are told is what there is"
    return row.count, row.first_ms


def test_an_import_is_taken_back_and_leaves_what_was_there_before(demo_database, tmp_path):
    """Two logs that overlap: taking the second back leaves the first, whole."""
    before = series_row(demo_database)
    store_import(demo_database, tmp_path, first := checked(demo_database, tmp_path), END_MS)
    more = b"t,rh\n1700000010,99\n1700000030,60\n1700000040,61\n"
    store_import(demo_database, tmp_path, second := checked(demo_database, tmp_path, more), END_MS)
    assert early(demo_database) == [(0, 50.0), (10, 51.0), (20, 52.0), (30, 60.0), (40, 61.0)]
    taken_back(demo_database, second)
    assert run_of(demo_database, second).state == "withdrawn"
    assert early(demo_database) == [(0, 50.0), (10, 51.0), (20, 52.0)]
    taken_back(demo_database, first)
    assert early(demo_database) == []
    assert series_row(demo_database) == before
    with demo_database.begin() as connection:
        lines = log_entries(connection, run_of(demo_database, first).house_id, 2)
        moved = changes_of(connection, run_of(demo_database, first).house_id)
    assert "Undid the import of log.csv: 3 readings" in lines[0].what
    assert [(row.added, row.undone_ms is not None) for row in moved] == [(2, True), (3, True)]


def test_a_log_that_replaces_gives_back_what_it_replaced(database, tmp_path):
    store_import(database, tmp_path, checked(database, tmp_path), END_MS)
    other = b"t,rh\n1700000005,70\n1700000015,71\n"
    instead = checked(database, tmp_path, other, replace(OPTIONS, replaces=True))
    store_import(database, tmp_path, instead, END_MS)
    assert early(database) == [(0, 50.0), (5, 70.0), (15, 71.0), (20, 52.0)]
    taken_back(database, instead)
    assert early(database) == [(0, 50.0), (10, 51.0), (20, 52.0)]
    series_row(database)


def test_taking_back_that_is_stopped_changes_nothing(database, tmp_path):
    store_import(database, tmp_path, run_id := checked(database, tmp_path), END_MS)
    with database.begin() as connection:
        move_import(
            connection, run_id, allowed_from=("stored",), to="withdrawing", wanted_stop=True
        )
    take_back_import(database, run_id, END_MS)
    assert (run_of(database, run_id).state, len(early(database))) == ("stored", 3)


def test_a_span_is_removed_with_a_reason_and_put_back(database, tmp_path):
    store_import(database, tmp_path, run_id := checked(database, tmp_path), END_MS)
    house = run_of(database, run_id).house_id
    with database.begin() as connection:
        by = Account(id=run_of(database, run_id).account_id, name="jon")
        start = 1_700_000_005_000
        span = {"from_ms": start, "to_ms": start + 20_000}
        gone = remove_span(
            connection, house, probe=DRYING_RH, by=by, at_ms=END_MS, reason="soldering", **span
        )
        change = changes_of(connection, house)[0]
    assert (gone, change.removed, change.reason, change.by) == (2, 2, "soldering", "jon")
    assert early(database) == [(0, 50.0)]
    series_row(database)
    with database.begin() as connection:
        assert undo_change(connection, house, change.id, END_MS) == (0, 2)
    assert early(database) == [(0, 50.0), (10, 51.0), (20, 52.0)]
    with database.begin() as connection, pytest.raises(ConflictError):
        undo_change(connection, house, change.id, END_MS)
    with database.begin() as connection, pytest.raises(InputError, match="no reading"):
        remove_span(
            connection, house, probe=DRYING_RH, by=by, at_ms=END_MS, reason="x", from_ms=1, to_ms=2
        )
