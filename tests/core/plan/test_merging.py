"""Two people's changes of one plan: laws of putting them together."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.plan.edits import put_part, remove_part
from aldea.core.plan.merging import merged, merged_over
from aldea.demo.mill import mill_plan

BASE = mill_plan(on=62.0, off=56.0, min_on_s=300.0, min_off_s=300.0)


def renamed(plan, part, name):
    kind, part_id = part
    old = next(p for p in getattr(plan, f"{kind}s") if p.id == part_id)
    return put_part(plan, kind, old.model_copy(update={"name": name}))


PARTS: list[tuple[str, str]] = [
         ("place", BASE.places[1].id), ("probe", BASE.probes[0].id), ("load", BASE.loads[0].id),
         ("probe", BASE.probes[2].id), ("board", BASE.boards[0].id)]  # fmt: skip


@settings(max_examples=40)
@given(st.data())
def test_changes_of_different_parts_are_both_kept_whoever_was_first(data):
    mine_part, their_part = data.draw(st.permutations(PARTS))[:2]
    mine = renamed(BASE, mine_part, "Mine")
    theirs = renamed(BASE, their_part, "Theirs")
    both = renamed(theirs, mine_part, "Mine")
    assert merged(BASE, mine, theirs) == both
    assert merged(BASE, theirs, mine) == both


@pytest.mark.parametrize("part", PARTS)
def test_the_same_part_changed_by_both_is_a_conflict_and_the_same_change_is_none(part):
    mine, theirs = renamed(BASE, part, "Mine"), renamed(BASE, part, "Theirs")
    assert merged(BASE, mine, theirs) is None
    assert merged(BASE, mine, mine) == mine


def test_nothing_of_mine_leaves_theirs():
    theirs = renamed(BASE, PARTS[0], "Theirs")
    assert merged(BASE, BASE, theirs) == theirs


def test_a_part_added_by_each_stands_beside_the_other():
    place = BASE.places[0]
    mine = put_part(BASE, "place", place.model_copy(update={"id": "mine", "name": "Mine"}))
    theirs = put_part(BASE, "place", place.model_copy(update={"id": "theirs", "name": "Theirs"}))
    made = merged(BASE, mine, theirs)
    assert made is not None
    assert {"mine", "theirs"} <= {p.id for p in made.places}


def test_a_probe_put_into_a_room_that_the_other_took_away_is_a_conflict():
    room = put_part(BASE, "place", BASE.places[0].model_copy(update={"id": "gone", "name": "Gone"}))
    probe = room.probes[0].model_copy(update={"id": "new", "name": "New", "place": "gone"})
    mine = put_part(room, "probe", probe)
    assert merged(room, mine, remove_part(room, "place", "gone")) is None


def test_a_new_order_touches_the_whole_list():
    turned = BASE.model_copy(update={"probes": BASE.probes[::-1]})
    assert merged(BASE, turned, renamed(BASE, PARTS[1], "Theirs")) is None
    made = merged(BASE, turned, renamed(BASE, PARTS[0], "Theirs"))
    assert made is not None
    assert made.probes == BASE.probes[::-1]


def changed(plan, load_id, **facts):
    load = next(load for load in plan.loads if load.id == load_id)
    return put_part(plan, "load", load.model_copy(update=facts))


def test_mine_over_theirs_is_field_by_field():
    """Their watts stay theirs where I changed the name alone; what both changed is mine."""
    load = BASE.loads[0]
    mine = changed(BASE, load.id, name="Mine", min_on_s=77.0)
    theirs = changed(BASE, load.id, power_w=26.0, min_on_s=99.0)
    over = merged_over(BASE, mine, theirs)
    assert over is not None
    made = next(one for one in over.loads if one.id == load.id)
    assert (made.name, made.power_w, made.min_on_s) == ("Mine", 26.0, 77.0)
    assert changed(over, load.id, name=load.name, min_on_s=99.0) == theirs


@settings(max_examples=40)
@given(st.data())
def test_mine_over_theirs_with_different_parts_is_both(data):
    mine_part, their_part = data.draw(st.permutations(PARTS))[:2]
    mine, theirs = renamed(BASE, mine_part, "Mine"), renamed(BASE, their_part, "Theirs")
    assert merged_over(BASE, mine, theirs) == merged(BASE, mine, theirs)


def test_another_kind_of_condition_goes_over_whole():
    """A band that I made a schedule of does not keep a threshold that the other changed."""
    first = BASE.rules[0]
    assert first.condition is not None

    def with_condition(condition):
        rows = (first.model_copy(update={"condition": condition}), *BASE.rules[1:])
        return BASE.model_copy(update={"rules": rows})

    other = next(c for c in BASE.rules if c.condition and c.condition.kind != first.condition.kind)
    mine = with_condition(other.condition)
    theirs = with_condition(first.condition.model_copy(update={"delay_on_s": 77.0}))
    over = merged_over(BASE, mine, theirs)
    assert over is not None
    assert over.rules[0].condition == other.condition
