"""Readings read back in one query, read on where only the end grew, within bounds."""

import numpy as np
import pytest
from sqlalchemy import event
from tests.store.test_store import demo_house

from aldea.core.readings.trace import Trace
from aldea.store.reading_cache import ReadingCache, first_since, series_of
from aldea.store.readings import known_instants, series_id, store_readings

START = 1_600_000_000_000
STEP = 10_000


def stored(database, probe: str, steps: range, value: float = 1.0) -> int:
    """Store a reading at each step; returns how many were new."""
    t_ms = START + STEP * np.array(list(steps), dtype=np.int64)
    with database.begin() as connection:
        series = series_id(connection, demo_house(connection), probe)
        raw = connection.connection.driver_connection
        trace = Trace(t_ms=t_ms, raw=np.full(len(t_ms), value))
        return len(store_readings(raw, series, trace))


def got(
    database, cache: ReadingCache, probes: list[str], start: int, end: int
) -> dict[str, list[int]]:
    """Steps of the readings of probes in a span of steps."""
    with database.begin() as connection:
        series = series_of(connection, demo_house(connection))
        found = cache.traces(
            connection,
            [series[probe] for probe in probes],
            START + STEP * start,
            START + STEP * end,
        )
    return {p: ((trace.t_ms - START) // STEP).tolist() for p, trace in found.items()}


@pytest.fixture
def asked(database):
    """Counts the statements that read readings."""
    seen: list[str] = []

    def note(_connection, _cursor, statement, *_rest):
        seen.append(statement)

    event.listen(database.engine, "before_cursor_execute", note)
    yield seen
    event.remove(database.engine, "before_cursor_execute", note)


def test_several_series_come_back_each_with_its_own(database):
    stored(database, "a", range(10), 1.0)
    stored(database, "b", range(5, 8), 2.0)
    stored(database, "c", range(100, 101))
    cache = ReadingCache()
    found = got(database, cache, ["a", "b", "c"], 2, 7)
    assert found == {"a": [2, 3, 4, 5, 6], "b": [5, 6], "c": []}
    assert got(database, cache, ["c", "a"], 2, 101) == {"a": list(range(2, 10)), "c": [100]}


def test_what_is_added_at_the_end_is_read_on_and_what_comes_before_it_is_seen_too(database):
    cache = ReadingCache()
    stored(database, "a", range(10))
    assert got(database, cache, ["a"], 0, 50) == {"a": list(range(10))}
    stored(database, "a", range(10, 12))
    assert got(database, cache, ["a"], 0, 50) == {"a": list(range(12))}
    stored(database, "a", range(20, 21))
    stored(database, "a", range(15, 16))
    assert got(database, cache, ["a"], 0, 50) == {"a": [*range(12), 15, 20]}
    stored(database, "a", range(-5, 0))
    assert got(database, cache, ["a"], 0, 50) == {"a": [*range(12), 15, 20]}
    assert got(database, cache, ["a"], -5, 2) == {"a": [-5, -4, -3, -2, -1, 0, 1]}


def test_bounds_are_kept_and_never_change_what_is_read(database):
    for number in range(6):
        stored(database, f"p{number}", range(100))
    names = [f"p{number}" for number in range(6)]
    cache = ReadingCache(most_bytes=4 * 1800)  # four of the six
    for _ in range(3):
        assert got(database, cache, names, 0, 100) == {name: list(range(100)) for name in names}
        assert cache.bytes_held <= 4 * 1800
    assert cache.bytes_held == 4 * 1800, "four stay, whoever goes round all six"


def test_the_latest_is_the_last_before_an_empty_span(database):
    stored(database, "a", range(5), 7.0)
    stored(database, "b", range(20, 25))
    cache = ReadingCache()
    with database.begin() as connection:
        series = series_of(connection, demo_house(connection))
        span = (START + 10 * STEP, START + 23 * STEP)
        found = cache.latest(connection, [series["a"], series["b"]], *span)
    assert (found["a"].t_ms.tolist(), found["a"].raw.tolist()) == ([START + 4 * STEP], [7.0])
    assert ((found["b"].t_ms - START) // STEP).tolist() == [20, 21, 22]


def test_the_first_since_an_instant(database):
    stored(database, "a", range(5))
    stored(database, "a", range(40, 45))
    stored(database, "b", range(20, 25))
    with database.begin() as connection:
        series = series_of(connection, demo_house(connection))
        asked = [series["a"], series["b"]]
        steps = {
            since: {
                probe: (t_ms - START) // STEP
                for probe, t_ms in first_since(connection, asked, START + since * STEP).items()
            }
            for since in (-1, 3, 5, 30, 60)
        }
    assert steps == {
        -1: {"a": 0, "b": 20},
        3: {"a": 3, "b": 20},
        5: {"a": 40, "b": 20},
        30: {"a": 40},
        60: {},
    }


def test_known_instants_are_found_over_more_than_one_block(database, monkeypatch):
    from aldea.store import readings

    monkeypatch.setattr(readings, "ROWS_KNOWN_AT_ONCE", 7)
    monkeypatch.setattr(readings, "ROWS_A_BLOCK", 5)
    stored(database, "a", range(0, 60, 3))
    t_ms = START + STEP * np.arange(0, 50, dtype=np.int64)
    with database.begin() as connection:
        series = series_id(connection, demo_house(connection), "a")
        raw = connection.connection.driver_connection
        known = known_instants(raw, series, Trace(t_ms=t_ms, raw=np.zeros(50)))
    assert known.tolist() == [step % 3 == 0 for step in range(50)]
    assert stored(database, "a", range(50)) == 33
    assert got(database, ReadingCache(), ["a"], 0, 60) == {"a": [*range(50), 51, 54, 57]}
    with database.begin() as connection:
        series_now = series_of(connection, demo_house(connection))["a"]
    assert (series_now.count, series_now.first_ms, series_now.last_ms) == (
        53,
        START,
        START + 57 * STEP,
    )
