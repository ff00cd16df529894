"""Who may ask by hand, in words."""

from typing import Any

from tests.core.plans import one_band

from aldea.core.plan.conditions import InWindow
from aldea.core.plan.controls import Control, LoadGroup
from aldea.core.plan.document import Rule
from aldea.core.plan.house_rules import Mode
from aldea.core.words.override_ways import ways_of
from aldea.core.words.rules import over_an_override


def ways(*controls: dict[str, Any]) -> tuple[str, ...]:
    base = one_band()
    plan = base.model_copy(
        update={
            "controls": tuple(
                Control.model_validate({"id": "c", "name": "Hall", "place": "room", **row})
                for row in controls
            ),
            "groups": (LoadGroup(id="all", name="All off", members=("fan",)),),
            "modes": (Mode(id="away", name="Away"),),
        }
    )
    return ways_of(plan, plan.loads[0])


def test_each_press_code_and_position_is_told_with_its_end_and_its_mode():
    found = ways(
        {
            "kind": "push_button",
            "presses": (
                {"load": "fan", "press": "short", "does": "on", "for_s": 600},
                {"load": "fan", "press": "long", "does": "off", "ends_by": "automatic"},
                {"group": "all", "press": "double", "does": "off",
                 "only": {"mode": "away", "value": "on"}},
            ),
        },
        {"kind": "remote",
         "codes": ({"name": "more", "code": "0a1b", "load": "fan", "does": "up"},)},
        {"kind": "selector", "positions": (
            {"name": "II", "pattern": "10", "load": "fan", "does": "step", "step": 2,
             "ends_by": "position",
             "also": ({"load": "fan", "does": "automatic",
                       "only": {"mode": "away", "value": "on"}, "ends_with_mode": True},)},
            {"name": "spare", "pattern": "01"},
        )},
    )  # fmt: skip
    assert found == (
        "Hall, a short press: turns it on, for 10 min.",
        "Hall, a long press: turns it off, until it is returned to automatic.",
        "Hall, a double press: turns it off, with All off, only while Away is “on”.",
        "Hall, more: steps it up.",
        "Hall, II: sets it to step 2, while the dial stays there.",
        "Hall, II: returns it to automatic, only while Away is “on”, and no longer than that.",
    )


def test_a_switch_says_what_its_positions_are():
    assert ways({"kind": "push_button", "load": "fan"}) == ("Hall: toggles it.",)
    assert ways({"kind": "wall_switch", "load": "fan"}) == ("Hall: each throw toggles it.",)
    placed = {"kind": "wall_switch", "load": "fan", "means": "position", "closed_means": "off"}
    assert ways(placed) == ("Hall: closed Off, open On.",)
    assert ways({"kind": "lamp", "load": "fan"}) == ()
    sets = {"press": "short", "does": "mode", "mode": "away", "load": None}
    assert ways({"kind": "push_button", "presses": (sets,)}) == ()


def test_what_is_over_a_hand_leaves_out_what_is_under_it_and_switched_off():
    base = one_band()
    rows = [("interlock", False), ("schedule", False), ("trip", True)]
    rules = tuple(
        Rule.model_validate(
            {"id": priority, "load": "fan", "priority": priority, "want": "off", "disabled": off,
             "condition": InWindow(schedule="night")}
        )
        for priority, off in rows
    )  # fmt: skip
    plan = base.model_copy(update={"rules": (*base.rules, *rules)})
    assert len(over_an_override(plan, plan.loads[0])) == 1
