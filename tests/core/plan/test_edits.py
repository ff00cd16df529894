"""Edits of a plan: what hangs together is changed together, or refused with its path."""

import re

import pytest

from aldea.core.base.errors import InputError, PlanError
from aldea.core.plan.check import check_plan
from aldea.core.plan.defaults import empty_house, place_figures
from aldea.core.plan.document import House, Plan
from aldea.core.plan.edits import as_copy, fresh_id, move_part, remove_part
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.relays import roles_wanted
from aldea.demo.mill import mill_plan


def test_taking_a_part_away_takes_what_hangs_on_it_and_nothing_else():
    plan = mill_plan()
    less = remove_part(plan, "load", "bench_outlet")
    check_plan(less)
    assert not less.relays_of("bench_outlet")
    assert not [r for r in less.assignments if r.signal == "relay:k13.coil"]
    assert not [i for i in less.invariants if "bench_outlet" in i.loads]
    assert not less.rules_of("bench_outlet")
    assert len(less.probes) == len(plan.probes)
    for kind, part, word in (
        ("place", "loft", "Loft skylight"),
        ("probe", "drying_rh", "Dehumidifier"),
        ("load", "booster_pump", "Studio panel heater"),
    ):
        with pytest.raises(InputError, match=word):
            remove_part(plan, kind, part)
    check_plan(remove_part(plan, "probe", "skylight_open"))
    check_plan(remove_part(plan, "board", "board_b"))
    check_plan(remove_part(plan, "supply", "supply_5"))


def test_a_copy_rules_no_certificate_of_the_other_house():
    plan = as_copy(mill_plan(), House(name="Other", time_zone="UTC"))
    check_plan(plan)
    assert plan.house.name == "Other"
    assert {p.calibration.basis for p in plan.probes} == {"entered"}
    empty = Plan.model_validate(empty_house(House(name="Empty", time_zone="UTC")))
    check_plan(empty)
    assert conductors(empty) == ()
    assert findings(empty) == ()


def test_moving_and_naming():
    plan = move_part(mill_plan(), "load", "skylight", "stair_hall")
    assert plan.load("skylight").place == "stair_hall"  # type: ignore[union-attr]
    with pytest.raises(InputError):
        move_part(plan, "place", "loft", "stair_hall")
    assert fresh_id("Würde s lamp 2", {"wurde_s_lamp_2"}) == "wurde_s_lamp_2_2"
    assert re.fullmatch(r"[a-z][a-z0-9_]*", fresh_id("7 – ½", set()))
    valve = mill_plan().load("inlet_valve")
    assert valve is not None
    assert roles_wanted(valve) == ("on", "series")


def test_a_places_sizes_are_marked_where_they_are_only_usual():
    place = mill_plan().places[1]
    assert place_figures(place)["depth_m"] == (5.0, True)
    own = place.model_copy(update={"depth_m": 7.5})
    assert place_figures(own)["depth_m"] == (7.5, False)


@pytest.mark.parametrize(
    ("where", "update"),
    [
        ("/places/10/within", {"places": "loop"}),
        ("/boards/0/board_type", {"boards": {"board_type": "nothing"}}),
        ("/boards/0/supply", {"boards": {"supply": "nothing"}}),
        ("/relays/0/load", {"relays": {"load": "nothing"}}),
        ("/assignments/0/pin", {"assignments": {"pin": "XX"}}),
        ("/controls/0/place", {"controls": {"place": "nothing"}}),
        ("/controls/0/load", {"controls": {"load": "nothing"}}),
        ("/loads/1/stepped", {"loads": "stepped"}),
    ],
)
def test_wiring_that_leads_nowhere_is_refused_with_its_path(where, update):
    plan = mill_plan()
    (key, change), *_ = update.items()
    parts = list(getattr(plan, key))
    if change == "loop":
        parts[7] = parts[7].model_copy(update={"within": "panel"})
        where = "/places/7/within"
    elif change == "stepped":
        parts[1] = parts[1].model_copy(update={"stepped": parts[0].stepped})
    else:
        parts[0] = parts[0].model_copy(update=change)
    with pytest.raises(PlanError) as refused:
        check_plan(plan.model_copy(update={key: tuple(parts)}))
    assert refused.value.where == where
    assert refused.value.allowed
