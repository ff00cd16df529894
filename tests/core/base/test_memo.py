"""What is remembered by the objects themselves: never of an equal one, never more than so many."""

from functools import partial

from aldea.core.base.memo import ByIdentity


def test_it_is_found_by_the_very_objects_and_what_stands_beside_them():
    kept: ByIdentity[int] = ByIdentity(4)
    one, equal = (object(), [1]), [1]
    made: list[int] = []

    def make() -> int:
        made.append(len(made))
        return made[-1]

    assert kept.get(one, "a", make) == kept.get(one, "a", make) == 0
    assert kept.get((one[0], equal), "a", make) == 1, "an equal list is another"
    assert kept.get(one, "b", make) == 2, "so is another value beside it"
    assert kept.get(one, "a", make) == 0


def test_the_one_that_was_used_longest_ago_goes():
    kept: ByIdentity[int] = ByIdentity(2)
    first, second, third = [0], [1], [2]
    for row in (first, second, first, third):
        kept.get((row,), None, row.__len__)
    assert kept.get((first,), None, lambda: 7) == 1
    assert kept.get((second,), None, lambda: 7) == 7


def test_an_object_is_kept_with_what_was_made_of_it():
    """Else another object could take its place in memory, and be answered for it."""
    kept: ByIdentity[int] = ByIdentity(100)
    for number in range(50):
        assert kept.get(([number],), None, partial(int, number)) == number
