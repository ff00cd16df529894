"""Who may ask for a load by hand: by which press, code or position, for how long, in which mode."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.hands import Control, HandWant
from aldea.core.plan.reading import want_reaches
from aldea.core.words.reasons import state_word

PRESS_WORDS = {"short": "a short press", "long": "a long press", "double": "a double press"}
DOES_WORDS = {
    "toggle": "toggles it",
    "up": "takes it a step up",
    "down": "takes it a step down",
    "open": "opens it",
    "close": "shuts it",
    "give_back": "gives it back to its rules",
    "reset": "resets its trip",
}
ENDS_WORDS = {
    "agreement": ", until the rules come to want the same",
    "given_back": ", until it is given back",
    "position": ", while it stands there",
}


def ways_of(plan: Plan, load: Load) -> tuple[str, ...]:
    """Each way by which a hand reaches a load, as a sentence, in the order of the plan."""
    return tuple(text for control in plan.controls for text in _of_control(plan, load, control))


def _of_control(plan: Plan, load: Load, control: Control) -> Iterator[str]:
    if control.kind == "lamp":
        return
    if not control.wants and control.load == load.id:
        yield f"{control.name}: {_switch_words(load, control)}."
    named: list[tuple[str, HandWant]] = [
        (PRESS_WORDS[press.press], press) for press in control.presses
    ]
    named += [(code.name, want) for code in control.codes for want in (code, *code.also)]
    for place in control.positions:
        if place.does is not None:
            named += [(place.name, want) for want in (place, *place.also)]
    for way, want in named:
        if want_reaches(plan, want, load):
            yield f"{control.name}, {way}: {_want_words(plan, load, want)}."


def _switch_words(load: Load, control: Control) -> str:
    if control.kind != "wall_switch" or control.meaning == "toggle":
        return "each flip toggles it" if control.kind == "wall_switch" else "toggles it"
    first, second = ("on", "off") if control.closed_means == "on" else ("off", "on")
    words = {"on": state_word(load, 1), "off": state_word(load, 0)}
    return f"closed {words[first]}, open {words[second]}"


def _want_words(plan: Plan, load: Load, want: HandWant) -> str:
    group = plan.group(want.group) if want.group else None
    if want.does == "step" and want.step:
        text = f"sets it to step {want.step}"
    elif want.does in DOES_WORDS:
        text = DOES_WORDS[want.does]
    else:
        text = f"turns it {state_word(load, int(want.does == 'on')).lower()}"
    if group is not None:
        text += f", with {group.name}"
    if want.school == "time" or (want.school is None and want.for_s is not None):
        text += f", for {span(want.for_s or load.hand.for_s)}"
    if want.only is None:
        return text + ENDS_WORDS.get(want.school or "", "")
    mode = next((mode.name for mode in plan.modes if mode.id == want.only.mode), want.only.mode)
    if want.ends_with_mode:
        return f"{text}, only while {mode} is {want.only.value}, and no longer than that"
    text += ENDS_WORDS.get(want.school or "", "")
    text += f", only while {mode} is {want.only.value}"
    return text
