"""The store on a real server: versions, records, readings, sign-in."""

import threading
from typing import Any

import numpy as np
import pytest
from sqlalchemy import select, text
from sqlalchemy.exc import DBAPIError

from aldea.core.base.errors import ConflictError, InputError, NotAllowedError, NotFoundError
from aldea.core.plan.edits import put_part
from aldea.core.plan.text import plan_sha256
from aldea.core.readings.trace import Trace
from aldea.core.wiring.findings import severe
from aldea.demo.mill import DRYING_RH, mill_plan
from aldea.demo.recorded import END_MS, recorded_days
from aldea.formats.log_options import LogOptions
from aldea.store import tables as t
from aldea.store.accounts import Account, create_account
from aldea.store.calibrations import next_number
from aldea.store.database import Database, ensure_database
from aldea.store.drafts import DraftMovedError, keep_draft, read_draft
from aldea.store.houses import check_may_begin, create_house, house_for, log_entries
from aldea.store.imports import (
    begin_import,
    find_import,
    imports_of,
    move_import,
    release_interrupted,
)
from aldea.store.reading_cache import ReadingCache, series_of
from aldea.store.readings import series_id, store_readings
from aldea.store.revisions import (
    Revision,
    publish,
    publish_refusals,
    revision,
    revision_notes,
)


def jon(connection) -> Account:
    row = connection.execute(select(t.account).where(t.account.c.name == "jon")).one()
    return Account(id=row.id, name=row.name)


def demo_house(connection) -> int:
    return int(connection.scalar(select(t.house.c.id)))


def test_the_migrations_make_what_the_tables_say(database):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    ours = set(t.metadata.tables)
    with database.begin() as connection:
        context = MigrationContext.configure(
            connection,
            opts={
                "include_name": lambda name, kind, _p: kind != "table" or name in ours,
                "include_object": lambda _o, name, kind, reflected, _c: (
                    not (kind == "index" and reflected)
                ),
                "compare_type": True,
            },
        )
        assert compare_metadata(context, t.metadata) == []


def test_two_drafts_read_at_one_version_cannot_both_be_kept(database):
    with database.begin() as connection:
        house, by = demo_house(connection), jon(connection)
        draft = read_draft(connection, house)
        keep_draft(
            connection, house, mill_plan(on=63.0), version_read=draft.version, by=by, at_ms=1
        )
    with database.begin() as connection, pytest.raises(DraftMovedError) as refused:
        keep_draft(
            connection, house, mill_plan(on=64.0), version_read=draft.version, by=by, at_ms=2
        )
    assert refused.value.current.plan.rules[0].band.on_threshold == 63.0
    with database.begin() as connection:
        assert read_draft(connection, house).version == draft.version + 1


def test_two_at_once_one_is_kept(database):
    """The check holds under a race, not only one after the other."""
    with database.begin() as connection:
        house, by = demo_house(connection), jon(connection)
        version = read_draft(connection, house).version
    outcomes: list[str] = []
    start = threading.Barrier(2)

    def keep(mark: float) -> None:
        start.wait()
        try:
            with database.begin() as connection:
                plan = mill_plan(on=mark)
                keep_draft(connection, house, plan, version_read=version, by=by, at_ms=1)
            outcomes.append("kept")
        except DraftMovedError:
            outcomes.append("moved")

    threads = [threading.Thread(target=keep, args=(mark,)) for mark in (63.0, 64.0)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["kept", "moved"]


def test_a_revision_is_immutable_and_its_sum_is_its_text(database):
    with database.begin() as connection:
        house, by = demo_house(connection), jon(connection)
        version = read_draft(connection, house).version
        done = publish(
            connection,
            house,
            version_read=version,
            reason="wider band",
            despite="both are only planned",
            by=by,
            at_ms=END_MS,
        )
        assert done.number == 2
        assert done.sha256 == plan_sha256(done.text)
    for statement in (
        "UPDATE plan_revision SET reason = 'x'",
        "DELETE FROM plan_revision",
    ):
        with pytest.raises(DBAPIError, match="is a record"), database.begin() as connection:
            connection.execute(text(statement))
    with database.begin() as connection:
        with pytest.raises(InputError, match="same plan"):
            publish(
                connection,
                house,
                version_read=version,
                reason="again",
                despite="as before",
                by=by,
                at_ms=1,
            )
        with pytest.raises(InputError, match="sentence"):
            publish(connection, house, version_read=version, reason="  ", by=by, at_ms=1)
        with pytest.raises(NotFoundError, match="1 to 2"):
            revision(connection, house, 7)


def test_a_draft_with_a_severe_finding_is_published_with_a_reason_or_not_at_all(database):
    with database.begin() as connection:
        house, by = demo_house(connection), jon(connection)
        draft = read_draft(connection, house)
        names = [finding.head.rstrip(".") for finding in severe(draft.plan)]
        assert names, "the mill has something unresolved"

        def published(despite: str) -> Revision:
            return publish(
                connection,
                house,
                version_read=draft.version,
                reason="wider band",
                despite=despite,
                by=by,
                at_ms=END_MS,
            )

        for despite in ("", "   "):
            with pytest.raises(InputError) as refused:
                published(despite)
            assert refused.value.where == "despite"
            assert refused.value.sentence.startswith(f"{len(names)} findings are open at Wire")
        assert [made.number for made in revision_notes(connection, house)] == [1]
        done = published("only planned")
        assert done.reason.startswith("wider band Published despite ")
        assert all(name in done.reason for name in names)
        assert done.reason.endswith(": only planned")
        logged = log_entries(connection, house)[0]
        assert (logged.what, logged.who) == (f"Revision 2 published: {done.reason}", "jon")


def read(cache, connection, house: int, probe: str, start_ms: int, end_ms: int) -> Trace:
    """The readings of a probe in a span, by a cache."""
    series = series_of(connection, house).get(probe)
    got: Trace = cache.trace(connection, series, start_ms, end_ms)
    return got


def test_readings_come_back_as_they_went_in(demo_database):
    recorded = recorded_days()[0].trace
    with demo_database.begin() as connection:
        house = demo_house(connection)
        kept = read(ReadingCache(), connection, house, DRYING_RH, 0, 2**61)
    assert np.array_equal(kept.t_ms, recorded.t_ms)
    assert np.array_equal(kept.raw, recorded.raw)


def test_known_instants_are_left_and_new_ones_are_seen_by_the_cache(demo_database):
    cache = ReadingCache()
    with demo_database.begin() as connection:
        house = demo_house(connection)
        series = series_id(connection, house, DRYING_RH)
        before = len(read(cache, connection, house, DRYING_RH, 0, 2**61))
    times = np.array([END_MS, END_MS + 10_000, END_MS + 60 * 86_400_000])
    more = Trace(t_ms=times, raw=np.array([1.0, 2.0, 3.0]))
    with demo_database.raw() as raw:
        assert store_readings(raw, series, more).tolist() == times[1:].tolist()
    with demo_database.begin() as connection:
        after = read(cache, connection, house, DRYING_RH, 0, 2**61)
    assert len(after) == before + 2
    assert after.at(END_MS) != (END_MS, 1.0), "the reading that was there stays"


@pytest.mark.parametrize("most_bytes", [10, 100_000_000])
def test_a_span_is_whole_whatever_was_asked_before(demo_database, most_bytes):
    cache = ReadingCache(most_bytes=most_bytes)
    old = Trace(t_ms=np.arange(10**12, 10**12 + 5), raw=np.zeros(5))
    with demo_database.begin() as connection:
        house = demo_house(connection)
        series = series_id(connection, house, DRYING_RH)
    with demo_database.raw() as raw:
        store_readings(raw, series, old)
    everything = np.concatenate([old.t_ms, recorded_days()[0].trace.t_ms])
    day = 86_400_000
    newest, before = (END_MS - day, END_MS), (END_MS - 3 * day, END_MS - day)
    spans = (newest, before, newest, (0, 2**61), before)
    with demo_database.begin() as connection:
        for start, end in spans:
            got = read(cache, connection, house, DRYING_RH, start, end)
            assert np.array_equal(got.t_ms, everything[(everything >= start) & (everything < end)])
            read(cache, connection, house, "courtyard_rh", start, end)


def test_an_import_that_is_stopped_stores_nothing(database):
    with database.begin() as connection:
        series = series_id(connection, demo_house(connection), "drying_temp")
    trace = Trace(t_ms=np.arange(0, 10**9, 5000), raw=np.zeros(200_000))

    def stop(share: float) -> None:
        if share > 0.5:
            raise ConflictError("import", got="a wish to stop", allowed="going on")

    with database.raw() as raw, pytest.raises(ConflictError):
        store_readings(raw, series, trace, stop)
    with database.begin() as connection:
        count = connection.scalar(
            text("SELECT count(*) FROM reading WHERE series_id = :s AND t_ms < 1000000000"),
            {"s": series},
        )
    assert count == 0


def test_an_import_goes_only_from_states_that_may(database):
    with database.begin() as connection:
        house = demo_house(connection)
        run = begin_import(
            connection,
            house,
            by=jon(connection),
            probe=DRYING_RH,
            file_name="x.csv",
            size_bytes=3,
            options=LogOptions(),
            at_ms=1,
        )
        with pytest.raises(ConflictError, match="gone on"):
            move_import(connection, run, allowed_from=("checked",), to="storing")
        move_import(connection, run, allowed_from=("chosen",), to="checking")
        release_interrupted(connection, run)
        assert find_import(connection, run).state == "chosen"
        with pytest.raises(NotFoundError):
            find_import(connection, run, house_id=house + 1)


def test_a_house_does_not_exist_for_strangers(database):
    with database.begin() as connection:
        stranger = create_account(connection, name="s", password_hash="x", now_ms=1)
        with pytest.raises(NotFoundError):
            house_for(connection, "molino-alto", stranger)


def test_a_certificate_never_has_a_number_that_the_plan_cites(database):
    """A plan file of another house may cite certificate 41: the next one here is 42."""
    with database.begin() as connection:
        house, by = demo_house(connection), jon(connection)
        plan = read_draft(connection, house).plan
        probe = plan.probes[0]
        cited = probe.calibration.model_copy(update={"certificate": 41, "basis": "certificate"})
        keep_draft(
            connection,
            house,
            put_part(plan, "probe", probe.model_copy(update={"calibration": cited})),
            version_read=read_draft(connection, house).version,
            by=by,
            at_ms=1,
        )
        after = read_draft(connection, house).plan
        assert next_number(connection, house, after) == 42


def test_a_house_lists_its_own_imports_and_the_first_house_may_be_begun_by_anybody(
    database, cluster
):
    with database.begin() as connection:
        house, by = demo_house(connection), jon(connection)
        facts: dict[str, Any] = {
            "by": by,
            "probe": DRYING_RH,
            "size_bytes": 1,
            "options": LogOptions(),
            "at_ms": 1,
        }
        other = create_house(connection, name="Molino Bajo", owner=by, created_ms=1).id
        mine = begin_import(connection, house, file_name="mine.csv", **facts)
        theirs = begin_import(connection, other, file_name="theirs.csv", **facts)
        assert [run.id for run in imports_of(connection, house)] == [mine]
        assert [run.id for run in imports_of(connection, other)] == [theirs]
        stranger = create_account(connection, name="s", password_hash="x", now_ms=1)
        with pytest.raises(NotAllowedError, match="builder"):
            check_may_begin(connection, stranger)
    ensure_database(cluster.url("nothing_yet"))
    empty = Database(cluster.url("nothing_yet"))
    empty.migrate()
    with empty.begin() as connection:
        first = create_account(connection, name="first", password_hash="x", now_ms=1)
        check_may_begin(connection, first)
        create_house(connection, name="Molino", owner=first, created_ms=1)
        second = create_account(connection, name="second", password_hash="x", now_ms=1)
        with pytest.raises(NotAllowedError):
            check_may_begin(connection, second)
    empty.close()


def test_one_finding_is_said_as_one(database):
    """All but one fixed: the sentence counts, and speaks, in the singular."""
    with database.begin() as connection:
        plan = read_draft(connection, demo_house(connection)).plan
    for finding in severe(plan)[1:]:
        assert finding.apply is not None
        plan = finding.apply(plan)
    assert len(severe(plan)) == 1
    refusals = [refusal.sentence for refusal in publish_refusals(plan, "a reason", "")]
    assert refusals == [
        "1 finding is open at Wire or Rule. Fix it there, or enter the reason to publish anyway."
    ]
