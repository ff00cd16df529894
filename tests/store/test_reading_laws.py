"""What was recorded is what is read: any order of imports, replacements, removals and undoing."""

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.store.test_store import demo_house, jon

from aldea.core.readings.trace import Trace
from aldea.store import tables as t
from aldea.store.reading_cache import ReadingCache, series_of
from aldea.store.reading_changes import changes_of, keep_change, take_span
from aldea.store.reading_undo import undo_change
from aldea.store.readings import series_id, store_readings

START, STEP = 1_600_000_000_000, 10_000
PROBE = "law"
ACTS = st.lists(
    st.one_of(
        st.tuples(st.just("store"), st.integers(0, 12), st.integers(1, 8)),
        st.tuples(st.just("replace"), st.integers(0, 12), st.integers(1, 8)),
        st.tuples(st.just("remove"), st.integers(0, 12), st.integers(1, 8)),
        st.tuples(st.just("undo"), st.integers(0, 3), st.just(0)),
        st.tuples(st.just("read"), st.just(0), st.just(0)),
    ),
    min_size=2,
    max_size=7,
)


Done = dict[int, dict[int, float | None]]  # by change: what it left at each instant it touched


def _standing(connection, house: int) -> list[int]:
    """The changes of the probe that are not undone, newest first."""
    changes = changes_of(connection, house, most=1000)
    return [c.id for c in changes if c.undone_ms is None and c.probe == PROBE]


def _act(connection, act: tuple[str, int, int], value: float, done: Done) -> None:
    kind, first, count = act
    house = demo_house(connection)
    series, raw = series_id(connection, house, PROBE), connection.connection.driver_connection
    standing = _standing(connection, house)
    if kind == "undo":
        if first < len(standing):
            undo_change(connection, house, standing[first], 2)
            del done[standing[first]]
        return
    t_ms = START + STEP * np.arange(first, first + count, dtype=np.int64)
    removed, added = Trace(t_ms=t_ms[:0], raw=np.zeros(0)), t_ms[:0]
    if kind != "store":
        removed = take_span(raw, series, int(t_ms[0]), int(t_ms[-1]) + 1)
    if kind != "remove":
        added = store_readings(raw, series, Trace(t_ms=t_ms, raw=np.full(count, value)))
    keep_change(
        connection, house, probe=PROBE, by=jon(connection), at_ms=1, added=added, removed=removed
    )
    newest = next((c for c in _standing(connection, house) if c not in standing), None)
    if newest is not None:
        left: dict[int, float | None] = dict.fromkeys(removed.t_ms.tolist())
        done[newest] = left | dict.fromkeys(added.tolist(), value)


def _owned(done: Done) -> list[tuple[int, float]]:
    """What stands by the law: at each instant, what the last standing change over it left."""
    rows: dict[int, float | None] = {}
    for _, left in sorted(done.items()):
        rows |= left
    return sorted(((t - START) // STEP, v) for t, v in rows.items() if v is not None)


def _read(database, cache: ReadingCache) -> list[tuple[int, float]]:
    with database.begin() as connection:
        series = series_of(connection, demo_house(connection)).get(PROBE)
        trace = cache.trace(connection, series, START - STEP, START + 100 * STEP)
    return list(zip(((trace.t_ms - START) // STEP).tolist(), trace.raw.tolist(), strict=True))


@given(acts=ACTS)
@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_a_cache_gives_what_a_fresh_process_reads_after_any_sequence(database, acts):
    with database.begin() as connection:
        series = series_id(connection, demo_house(connection), PROBE)
        connection.execute(t.reading.delete().where(t.reading.c.series_id == series))
        connection.execute(t.reading_change.delete().where(t.reading_change.c.probe == PROBE))
    cache, done = ReadingCache(), Done()
    with database.begin() as connection:
        _act(connection, ("store", 0, 3), 0.5, done)
    _read(database, cache)
    for number, act in enumerate(acts, 1):
        if act[0] == "read":
            assert _read(database, cache) == _read(database, ReadingCache())
            continue
        with database.begin() as connection:
            _act(connection, act, float(number), done)
    assert _read(database, cache) == _read(database, ReadingCache()) == _owned(done)
    for _ in range(len(done)):
        with database.begin() as connection:
            _act(connection, ("undo", len(done) // 2, 0), 0.0, done)
        assert _read(database, ReadingCache()) == _owned(done), "each reading has one owner"
    assert not done
