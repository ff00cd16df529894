"""The bounded cache against a plain list of what was used when."""

import threading

from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.bounded import BoundedCache

MOVES = st.lists(
    st.tuples(st.sampled_from(("put", "get")), st.integers(0, 8), st.integers(0, 60)), max_size=80
)


@given(MOVES)
def test_it_holds_what_was_used_last_and_never_more_than_fits(moves):
    cache: BoundedCache[int] = BoundedCache(100)
    line: list[tuple[int, int]] = []  # key and size, the longest unused first
    for move, key, size in moves:
        if move == "put":
            cache.put(key, key, size)
            line = [row for row in line if row[0] != key]
            while sum(row[1] for row in line) + size > 100:
                line.pop(0)
            line.append((key, size))
        else:
            held = next((row for row in line if row[0] == key), None)
            assert cache.get(key) == (key if held else None)
            if held:
                line.remove(held)
                line.append(held)
        assert cache.bytes_held == sum(row[1] for row in line) <= 100


def test_whoever_goes_round_more_than_fits_finds_what_fits():
    """Ten things of ten bytes in a cache of fifty, asked for in turn: half is found each time."""
    cache: BoundedCache[int] = BoundedCache(50)
    wanted, found = frozenset(range(10)), 0
    for _ in range(3):
        found = 0
        for key in range(10):
            if cache.get(key) is None:
                cache.put(key, key, 10, beside=wanted)
            else:
                found += 1
    assert found == 5


def test_what_is_larger_than_all_is_not_kept_and_throws_nothing_out():
    cache: BoundedCache[str] = BoundedCache(50)
    cache.put("a", "a", 20)
    cache.put("b", "b", 51)
    assert (cache.get("a"), cache.get("b"), cache.bytes_held) == ("a", None, 20)


def test_many_threads_never_break_its_count():
    cache: BoundedCache[int] = BoundedCache(1000)

    def work(start: int) -> None:
        for i in range(2000):
            cache.put((start * i) % 37, i, (start + i) % 90)
            cache.get(i % 37)

    threads = [threading.Thread(target=work, args=(n,)) for n in range(1, 5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    sizes = [1 for key in range(37) if cache.get(key) is not None]
    assert 0 < cache.bytes_held <= 1000
    assert sizes
