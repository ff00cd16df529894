"""What a press, a key or a position does, as it is written beside it."""

import pytest

from aldea.core.plan.controls import Control, ControlAction, OnlyIn
from aldea.core.words.controls import NO_ACTION, action_words, control_words, end_words
from aldea.demo.mill import mill_plan

MILL = mill_plan()


@pytest.mark.parametrize(
    ("want", "words", "ends"),
    [
        ({"load": "extractor", "does": "step", "step": 3}, "Sets Drying extractor to step 3.",
         "Override ends after 1 h."),
        ({"load": "extractor", "does": "up"}, "Drying extractor one step up.",
         "Override ends after 1 h."),
        ({"load": "store_fan", "does": "on", "for_s": 90}, "Turns Store fan on.",
         "Override ends after 90 s."),
        ({"load": "inlet_valve", "does": "on", "ends_by": "agreement"},
         "Opens Cistern inlet valve.", "Override ends when the rules request the same state."),
        ({"load": "skylight", "does": "close", "ends_by": "position"}, "Shuts Loft skylight.",
         "Override ends when the dial leaves this position."),
        ({"group": "all_off", "does": "off"}, "Turns the group “All off” off.",
         "Override ends as set at each load."),
        ({"mode": "house_mode", "value": "away", "does": "mode"}, "Sets House to “away”.", ""),
        ({"mode": "drying_mode", "does": "mode"}, "Next value of Drying.", ""),
        ({"load": "dehumidifier", "only": OnlyIn(mode="drying_mode", value="by hand"),
          "ends_with_mode": True}, "Toggles Dehumidifier, only while Drying is “by hand”.",
         "Override ends when Drying leaves “by hand”."),
        ({"load": "extractor", "does": "reset"}, "Resets every trip of Drying extractor.", ""),
        ({"load": "extractor", "does": "automatic"}, "Returns Drying extractor to automatic.", ""),
        ({}, NO_ACTION, ""),
    ],
)  # fmt: skip
def test_a_request_is_told_with_the_end_of_its_override(want, words, ends):
    action = ControlAction(**want)
    assert action_words(MILL, action) == words
    assert end_words(MILL, action) == ends


def test_a_control_without_requests_is_told_by_its_load():
    at = {"id": "x", "name": "X", "place": MILL.places[0].id}
    told = {
        "push_button": "Toggles Store fan.",
        "wall_switch": "Each throw toggles Store fan.",
        "lamp": "Lit while Store fan is on.",
    }
    for kind, words in told.items():
        control = Control.model_validate({**at, "kind": kind, "load": "store_fan"})
        assert control_words(MILL, control) == words
    assert control_words(MILL, Control.model_validate({**at, "kind": "remote"})) == NO_ACTION
