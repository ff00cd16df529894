"""What a press, a code, a position or a plain switch does, each as a sentence by itself."""

from aldea.core.base.instants import duration
from aldea.core.plan.controls import Control, ControlAction
from aldea.core.plan.document import Load, Plan
from aldea.core.words.override_ways import switch_words
from aldea.core.words.reasons import state_word

NO_OVERRIDE = ("mode", "automatic", "reset")
NO_ACTION = "No action yet."
ENDS = {
    "agreement": "Override ends when the rules request the same state.",
    "automatic": "Override ends when it is returned to automatic.",
    "position": "Override ends when the dial leaves this position.",
}


def action_words(plan: Plan, want: ControlAction) -> str:
    """What one request does: “Drying extractor one step up.”; one for nothing has no action yet."""
    name = _target_name(plan, want)
    if not name:
        return NO_ACTION
    words = {
        "mode": f"Sets {name} to “{want.value}”" if want.value else f"Next value of {name}",
        "toggle": f"Toggles {name}",
        "step": f"Sets {name} to step {want.step}",
        "up": f"{name} one step up" if want.by == 1 else f"{name} {want.by} steps up",
        "down": f"{name} one step down" if want.by == 1 else f"{name} {want.by} steps down",
        "open": f"Opens {name}",
        "close": f"Shuts {name}",
        "automatic": f"Returns {name} to automatic",
        "reset": f"Resets {name}",
    }
    load = plan.load(want.load or "")
    text = words.get(want.does) or _switched(name, load, int(want.does == "on"))
    if want.only is not None:
        text += f", only while {_mode_name(plan, want.only.mode)} is “{want.only.value}”"
    return f"{text}."


def end_words(plan: Plan, want: ControlAction) -> str:
    """When the override ends that a request makes; empty where it makes none."""
    if want.does in NO_OVERRIDE or not _target_name(plan, want):
        return ""
    if want.ends_with_mode and want.only is not None:
        mode = _mode_name(plan, want.only.mode)
        return f"Override ends when {mode} leaves “{want.only.value}”."
    load = plan.load(want.load or "")
    if load is None and want.ends_by is None and want.for_s is None:
        return "Override ends as set at each load."
    by = want.ends_by or ("time" if want.for_s is not None or load is None else None)
    by = by or (load.override.ends_by if load else "time")
    if by in ENDS:
        return ENDS[by]
    for_s = want.for_s or (load.override.for_s if load else 0.0)
    return f"Override ends after {duration(for_s)}."


def control_words(plan: Plan, control: Control) -> str:
    """What a control does that has no press, code or position of its own."""
    load = plan.load(control.load or "")
    if load is None:
        return NO_ACTION
    if control.kind == "lamp":
        return f"Lit while {load.name} is {state_word(load, 1).lower()}."
    words = switch_words(load, control).replace("toggles it", f"toggles {load.name}")
    return f"{words[:1].upper()}{words[1:]}."


def _switched(name: str, load: Load | None, state: int) -> str:
    word = state_word(load, state).lower() if load else ("off", "on")[state]
    verb = {"open": "Opens", "shut": "Shuts"}.get(word)
    return f"{verb} {name}" if verb else f"Turns {name} {word}"


def _mode_name(plan: Plan, mode_id: str) -> str:
    return next((mode.name for mode in plan.modes if mode.id == mode_id), mode_id)


def _target_name(plan: Plan, want: ControlAction) -> str:
    if want.mode:
        return _mode_name(plan, want.mode)
    if want.group:
        group = plan.group(want.group)
        return f"the group “{group.name}”" if group else ""
    load = plan.load(want.load or "")
    if load is None:
        return ""
    rule = next((rule for rule in plan.rules if rule.id == want.trip), None)
    if want.does == "reset":
        which = f"the trip “{rule.name or rule.id}”" if rule else "every trip"
        return f"{which} of {load.name}"
    return load.name
