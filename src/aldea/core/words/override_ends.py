"""How an override ends, as what made it says."""

from aldea.core.plan.document import Load, Plan
from aldea.core.plan.reading import want_reaches

ENDS_WORDS = {
    "time": "it ends after its time",
    "agreement": "it ends when the rules request the same state",
    "automatic": "it stays until it is returned to automatic",
    "position": "it stays while the dial keeps this position",
    "mode": "it ends when the mode changes",
}


def override_ends(plan: Plan, load: Load, author: str) -> str:
    """How an override ends: as what asked says of its own, else as the load does.

    Where the presses, codes or positions of one control differ, nobody can tell which it was.
    """
    control = next((c for c in plan.controls if author in (c.id, c.name)), None)
    wants = [want for want in control.wants if want_reaches(plan, want, load)] if control else []
    ends = {
        "mode" if want.ends_with_mode else want.ends_by or load.override.ends_by for want in wants
    } or {load.override.ends_by}
    return ENDS_WORDS[ends.pop()] if len(ends) == 1 else "it ends as set at the control"
