"""What is wanted of a load, from the words of a rule or a command to a code of the scan."""

from aldea.core.devices.loads.registry import load_device
from aldea.core.engine.layout import WANT_LEVEL, WANT_OFF, WANT_ON, WANT_OPEN, WANT_SHUT
from aldea.core.plan.document import Load
from aldea.core.plan.levels import levels_of, steps_of

SIMPLE = {
    "off": WANT_OFF,
    "on": WANT_ON,
    "pulse": WANT_ON,
    "open": WANT_OPEN,
    "shut": WANT_SHUT,
    "close": WANT_SHUT,
}


def want_code(
    load: Load, want: str, *, level: int | None = None, percent: float | None = None
) -> int:
    """The code of what is wanted; of a step or pattern that the load has not, of the next lower.

    A finding says that a rule wants what its load cannot take (`core.rules.checks.unread`).
    """
    if want in SIMPLE:
        return SIMPLE[want]
    if want == "percent":
        steps = len(load_device(load).states(load)) - 1
        nearest = round((percent or 0.0) / 100 * steps)
        return WANT_LEVEL + max(1, nearest) if percent else WANT_OFF
    there = max((number for number in levels_of(load, want) if number <= (level or 0)), default=0)
    if there == 0:
        return WANT_OFF
    return WANT_LEVEL + (there + 1 if want == "pattern" else steps_of(load)[there - 1])
