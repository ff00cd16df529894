"""What is wanted of a load, from the words of a claim or a command to a code of the scan."""

from aldea.core.base.errors import PlanError
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine.layout import WANT_LEVEL, WANT_OFF, WANT_ON, WANT_OPEN, WANT_SHUT
from aldea.core.plan.document import Load

SIMPLE = {
    "off": WANT_OFF,
    "on": WANT_ON,
    "pulse": WANT_ON,
    "open": WANT_OPEN,
    "shut": WANT_SHUT,
    "close": WANT_SHUT,
}


def steps_of(load: Load) -> tuple[int, ...]:
    """By step of a fan as it is written down, from 1: the state it is; 0 where none reaches it."""
    if load.stepped is None:
        return (1,)
    found: list[int] = []
    for step in load.stepped.steps:
        reached = load.stepped.reachable(step)
        found.append(max(found, default=0) + 1 if reached else 0)
    return tuple(found)


def want_code(
    load: Load, want: str, *, level: int | None = None, percent: float | None = None
) -> int:
    """The code of what is wanted; `PlanError` for a step or pattern that the load does not have."""
    if want in SIMPLE:
        return SIMPLE[want]
    if want == "percent":
        steps = len(load_device(load).states(load)) - 1
        nearest = round((percent or 0.0) / 100 * steps)
        return WANT_LEVEL + max(1, nearest) if percent else WANT_OFF
    if want == "pattern":
        patterns = len(load.pattern.all_parts_s) if load.pattern is not None else 0
        if level is None or not 1 <= level <= patterns:
            raise _refused(load, f"pattern {level}", "patterns", range(1, patterns + 1))
        return WANT_LEVEL + level + 1
    if not level:
        return WANT_OFF
    states = steps_of(load)
    if level > len(states) or states[level - 1] == 0:
        reached = [n for n, state in enumerate(states, 1) if state]
        raise _refused(load, f"step {level}", "steps that it can take", reached)
    return WANT_LEVEL + states[level - 1]


def _refused(load: Load, got: str, kind: str, there: "range | list[int]") -> PlanError:
    words = ", ".join(str(n) for n in there) or "none"
    return PlanError(
        f"load {load.id}",
        got=got,
        allowed=f"{kind}: {words}",
        mend="Choose one of those, or change what its relays make.",
    )
