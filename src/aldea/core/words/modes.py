"""A mode in words: its values, what sets it by itself, what a power cut leaves of it."""

from aldea.core.base.listing import listed
from aldea.core.plan.conditions import InWindow
from aldea.core.plan.document import Plan
from aldea.core.plan.house_rules import Mode, ModeChange
from aldea.core.words.clauses import window_words


def mode_sentences(plan: Plan, mode: Mode) -> list[str]:
    """A mode whole, sentence by sentence."""
    start = mode.start or mode.values[0]
    kept = "Retained over a power cut" if mode.retained else f"After a power cut it is {start}"
    return [
        f"One of {listed(mode.values)}; starts as {start}. {kept}.",
        *(mode_change_words(plan, change) for change in mode.changes),
    ]


def mode_change_words(plan: Plan, change: ModeChange) -> str:
    """What a schedule or a condition does to a mode, and what it does after a power cut."""
    when = change.when
    if isinstance(when, InWindow):
        name, begins, ends = window_words(plan, when), "begins", "ends"
        again = "it is in force"
    else:
        row = next((row for row in plan.conditions if row.id == when.condition), None)
        name = f"“{row.name or row.id if row else when.condition}”"
        begins, ends, again = "becomes true", "becomes false", "it is true"
    if change.value is None:
        text = f"Set to {change.end_value} when {name} {ends}"
    else:
        text = f"Set to {change.value} when {name} {begins}"
        if change.end_value is not None:
            text += f", to {change.end_value} when it {ends}"
    if change.after_power_cut == "set" and change.value is not None:
        text += f"; set to {change.value} again where {again} after a power cut"
    return f"{text}."
