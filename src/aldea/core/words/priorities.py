"""The priorities of rules as people call them, highest first."""

from aldea.core.engine.layout import PRIORITY_NAMES

PRIORITY_WORDS = {
    "no power": "no power",
    "trip": "trip",
    "interlock": "interlock",
    "fault": "sensor fault",
    "override": "override",
    "schedule": "schedule",
    "demand": "demand",
    "default_state": "default state",
    "limits": "limits",  # what stands beside the rules of a load
    "return": "after a power cut",
}


def priority_words(priority: int | str) -> str:
    """A priority, by its code or its name in the plan, as a sentence carries it."""
    name = priority if isinstance(priority, str) else PRIORITY_NAMES[priority]
    return PRIORITY_WORDS[name]
