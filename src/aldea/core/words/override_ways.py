"""Who may ask for a load by hand: by which press, code or position, for how long, in which mode."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.plan.controls import Control, ControlAction
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.reading import want_reaches
from aldea.core.words.reasons import state_word

PRESS_WORDS = {"short": "a short press", "long": "a long press", "double": "a double press"}
DOES_WORDS = {
    "toggle": "toggles it",
    "up": "steps it up",
    "down": "steps it down",
    "open": "opens it",
    "close": "shuts it",
    "automatic": "returns it to automatic",
    "reset": "resets its trip",
}
ENDS_WORDS = {
    "agreement": ", until the rules request the same state",
    "automatic": ", until it is returned to automatic",
    "position": ", while the dial stays there",
}


def ways_of(plan: Plan, load: Load) -> tuple[str, ...]:
    """Each way by which a hand reaches a load, as a sentence, in the order of the plan."""
    return tuple(text for control in plan.controls for text in _of_control(plan, load, control))


def _of_control(plan: Plan, load: Load, control: Control) -> Iterator[str]:
    if control.kind == "lamp":
        return
    if not control.wants and control.load == load.id:
        yield f"{control.name}: {switch_words(load, control)}."
    named: list[tuple[str, ControlAction]] = [
        (PRESS_WORDS[press.press], press) for press in control.presses
    ]
    named += [(code.name, want) for code in control.codes for want in (code, *code.also)]
    for place in control.positions:
        if place.does is not None:
            named += [(place.name, want) for want in (place, *place.also)]
    for way, want in named:
        if want_reaches(plan, want, load):
            yield f"{control.name}, {way}: {_want_words(plan, load, want)}."


def switch_words(load: Load, control: Control) -> str:
    """What a switch does to its load, as a clause: “closed On, open Off”, “toggles it”."""
    if control.kind != "wall_switch" or control.meaning == "toggle":
        return "each throw toggles it" if control.kind == "wall_switch" else "toggles it"
    first, second = ("on", "off") if control.closed_means == "on" else ("off", "on")
    words = {"on": state_word(load, 1), "off": state_word(load, 0)}
    return f"closed {words[first]}, open {words[second]}"


def _want_words(plan: Plan, load: Load, want: ControlAction) -> str:
    group = plan.group(want.group) if want.group else None
    if want.does == "step" and want.step:
        text = f"sets it to step {want.step}"
    elif want.does in DOES_WORDS:
        text = DOES_WORDS[want.does]
    else:
        text = f"turns it {state_word(load, int(want.does == 'on')).lower()}"
    if group is not None:
        text += f", with {group.name}"
    if want.ends_by == "time" or (want.ends_by is None and want.for_s is not None):
        text += f", for {span(want.for_s or load.override.for_s)}"
    if want.only is None:
        return text + ENDS_WORDS.get(want.ends_by or "", "")
    mode = next((mode.name for mode in plan.modes if mode.id == want.only.mode), want.only.mode)
    if want.ends_with_mode:
        return f"{text}, only while {mode} is “{want.only.value}”, and no longer than that"
    text += ENDS_WORDS.get(want.ends_by or "", "")
    text += f", only while {mode} is “{want.only.value}”"
    return text
