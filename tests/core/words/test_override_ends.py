"""How an override ends is told of the act that made it, not of the load."""

from tests.core.plans import one_band

from aldea.core.plan.controls import ButtonPress, Control, OnlyIn
from aldea.core.words.override_ends import override_ends


def told(*presses: ButtonPress) -> str:
    plan = one_band()
    button = Control(id="b", name="Hall button", place="room", kind="push_button", presses=presses)
    plan = plan.model_copy(update={"controls": (button,)})
    return override_ends(plan, plan.loads[0], "Hall button")


def test_the_press_says_how_its_override_ends():
    usual = ButtonPress(press="short", load="fan", does="toggle")
    stays = usual.model_copy(update={"ends_by": "automatic"})
    in_mode = stays.model_copy(
        update={"only": OnlyIn(mode="house", value="away"), "ends_with_mode": True}
    )
    assert told(usual) == "it ends after its time", "as the load says"
    assert told(stays) == "it stays until it is returned to automatic"
    assert told(in_mode) == "it ends when the mode changes"
    long = usual.model_copy(update={"press": "long"})
    assert told(stays, long) == "it ends as set at the control"


def test_a_person_at_a_page_has_the_loads_own():
    plan = one_band()
    assert override_ends(plan, plan.loads[0], "jon") == "it ends after its time"
