"""A number once given stays with its conductor; one that is gone is free when the sheet is new."""

import random

from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.plan.board_types import generic_types
from aldea.core.plan.check import check_plan
from aldea.core.plan.defaults import new_load, new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of, put_part, remove_part
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.numbers import issued, numbers_in_use, since_issue, with_numbers
from aldea.core.wiring.reassign import give_new_pins
from aldea.core.wiring.relays import with_relays
from aldea.core.wiring.retype import with_board
from aldea.core.wiring.signals import signals
from aldea.demo.mill import mill_plan


def edited(plan: Plan, chance: random.Random) -> Plan:
    """One thing that somebody does to a wired house."""
    what = chance.choice(("rename", "remove", "load", "probe", "pins"))
    if what == "rename":
        probe = chance.choice(plan.probes)
        return put_part(plan, "probe", probe.model_copy(update={"name": f"{probe.name}x"[-40:]}))
    if what == "remove":
        free = [load for load in plan.loads if not plan.rules_of(load.id)]
        return remove_part(plan, "load", chance.choice(free).id) if free else plan
    if what == "load":
        load_id = f"new{chance.randrange(10**6)}"
        load = new_load(load_id=load_id, name=load_id, place="loft", kind="relay")
        made = plan.model_copy(update={"loads": (load, *plan.loads)})
        made = with_relays(made, load_id)
        return give_new_pins(f"relay:{made.relays[-1].id}.coil")(made)
    if what == "probe":
        probe_id = f"p{chance.randrange(10**6)}"
        like = part_of(plan, "probe", "rack_top")
        probe = new_probe(
            probe_id=probe_id, name=probe_id, place="loft", quantity="air_temperature"
        ).model_copy(update={"sensor": like.sensor})
        made = plan.model_copy(update={"probes": (probe, *plan.probes)})
        return give_new_pins(f"probe:{probe_id}.sense")(made)
    row = chance.choice(plan.assignments)
    return give_new_pins(row.signal)(plan)


@settings(max_examples=15, deadline=None)
@given(seed=st.integers(0, 10**6))
def test_through_any_edits_a_number_stays_and_none_is_given_twice(seed):
    chance = random.Random(seed)
    plan = mill_plan()
    ever: dict[str, str] = dict(numbers_in_use(plan))
    for _ in range(6):
        plan = with_numbers(plan, edited(plan, chance))
        check_plan(plan)
        now = numbers_in_use(plan)
        for key, number in now.items():
            assert ever.get(key, number) == number
        for terminal in (True, False):
            numbers = [n for key, n in now.items() if key.startswith("x1:") == terminal]
            assert len(set(numbers)) == len(numbers)
            gone = {n for k, n in ever.items() if k not in now and k.startswith("x1:") == terminal}
            new = {n for k, n in now.items() if k not in ever and k.startswith("x1:") == terminal}
            assert not gone & new, "a number of what is gone is not given again"
        ever |= now


def test_a_sheet_that_is_issued_tells_what_changed_since_and_frees_what_is_gone():
    plan = issued(mill_plan())
    assert plan.sheet is not None
    assert (plan.sheet.number, since_issue(plan)) == (1, ())
    assert len(plan.sheet.conductors) == len(conductors(plan))
    assert read_plan(plan_text(plan)) == plan
    gone = {w.number for w in conductors(plan) if w.owner == "probe:cart_distance"}
    less = with_numbers(plan, remove_part(plan, "probe", "cart_distance"))
    assert {row.number for row in since_issue(less)} == gone
    assert all(row.words.startswith("gone:") for row in since_issue(less))
    moved = with_numbers(plan, give_new_pins("relay:k5.coil")(plan))
    if moved.assignments != plan.assignments:
        assert [row.words[:4] for row in since_issue(moved)] == ["now "]
    again = issued(less)
    assert again.sheet is not None
    assert again.sheet.number == 2
    assert not gone & {row.number for row in again.numbers if not row.id.startswith("x1:")}
    assert since_issue(again) == ()


def test_an_edit_that_changes_nothing_gives_no_numbers():
    assert with_numbers(mill_plan(), mill_plan()).numbers == ()


def test_a_board_of_another_type_keeps_the_pins_that_fit_and_names_those_that_come_loose():
    plan = mill_plan()
    board = part_of(plan, "board", "board_c").model_copy(update={"board_type": "wifi_38"})
    made, loose = with_board(plan, board)
    check_plan(made)
    assert any("Outer door motion (out, D4)" in words for words in loose)
    left = {row.signal for row in made.assignments if row.board == "board_c"}
    assert left == set()
    same = board.model_copy(update={"board_type": "small_5v", "name": "Hall"})
    kept, none = with_board(plan, same)
    assert (none, kept.assignments) == ((), plan.assignments)
    twin = part_of(plan, "board", "board_b").model_copy(update={"board_type": "twin"})
    wifi = generic_types()["wifi_38"]
    own = wifi.model_copy(update={"id": "twin", "pins": wifi.pins[:10]})
    plan = plan.model_copy(update={"board_types": (*plan.board_types, own)})
    made, loose = with_board(plan, twin)
    check_plan(made)
    stays = {r.pin for r in made.assignments if r.board == "board_b"}
    assert stays <= {pin.name for pin in own.pins}
    assert {"IO36", "IO39", "IO32"} <= stays
    assert len(loose) + len([r for r in made.assignments if r.board == "board_b"]) == len(
        [r for r in plan.assignments if r.board == "board_b"]
    )
    assert {s.id for s in signals(made)} == {s.id for s in signals(plan)}
