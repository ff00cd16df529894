"""How an override ends, as what made it says."""

from aldea.core.plan.document import Load, Plan
from aldea.core.plan.reading import want_reaches

SCHOOL_ENDS = {
    "time": "it ends by itself after its time",
    "agreement": "it ends when the rules come to want the same",
    "given_back": "it stays until it is given back",
    "position": "it stays while its dial stands there",
    "mode": "it ends when that mode is left",
}


def override_ends(plan: Plan, load: Load, author: str) -> str:
    """How an override ends: as what asked says of its own, else as the load does.

    Where the presses, codes or positions of one control differ, nobody can tell which it was.
    """
    control = next((c for c in plan.controls if author in (c.id, c.name)), None)
    wants = [want for want in control.wants if want_reaches(plan, want, load)] if control else []
    schools = {
        "mode" if want.ends_with_mode else want.school or load.hand.school for want in wants
    } or {load.hand.school}
    return SCHOOL_ENDS[schools.pop()] if len(schools) == 1 else "it ends as what was pressed says"
