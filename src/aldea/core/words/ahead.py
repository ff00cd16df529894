"""What changes a load next, in sentences, and what it hangs on; what could end it sooner."""

from collections.abc import Sequence

from aldea.core.base.instants import near, span
from aldea.core.engine import layout as lay
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.rehearse.foresight import Ahead, ClaimStand, HangsOn
from aldea.core.words.claims import clause_of, want_words
from aldea.core.words.reasons import state_word

MOST_SOONER = 3

SURE = {
    HangsOn.NOTHING: "",
    HangsOn.STRONGER: ", unless something stronger speaks",
    HangsOn.STEADY: ", unless the readings change",
    HangsOn.USUAL: ", as the last days went",
    HangsOn.HELD: ", if the readings stay as they are",
}


def ahead_sentence(plan: Plan, load: Load, ahead: Ahead | None, at_ms: int, look_ms: int) -> str:
    """When its state changes next, to what, and how sure that is."""
    if ahead is None:
        return f"Nothing is foreseen to change it within {span(look_ms / 1000)}."
    when = near(ahead.t_ms, at_ms, plan.house.time_zone)
    state = state_word(load, ahead.state)
    by = f", by {lay.RANK_NAMES[ahead.decided_by.rank]}" if ahead.decided_by else ""
    begins = "Likely about" if ahead.hangs_on is HangsOn.USUAL else "At"
    return f"{begins} {when} it goes to {state}{by}{SURE[ahead.hangs_on]}."


def sooner_sentence(plan: Plan, load: Load, state: int, over: Sequence[ClaimStand]) -> str:
    """What could end its state sooner: the silent claims over the one that decides."""
    claims = {claim.id: claim for claim in plan.claims_of(load.id)}
    found: list[str] = []
    for stand in over:
        claim = claims.get(stand.row.claim or "")
        if claim is None or stand.heard or _wants_on(claim) == bool(state):
            continue
        found.append(clause_of(plan, claim))
    if not found:
        return ""
    more = len(found) - MOST_SOONER
    text = "; or if ".join(found[:MOST_SOONER])
    rest = f"; or by {more} more" if more > 0 else ""
    word = want_words(load.idle, load) if state else "On"
    return f"Sooner ({word.lower()}), if {text}{rest}."


def _wants_on(claim: Claim) -> bool:
    return claim.want not in ("off", "shut")
