"""What changes a load next, in sentences, and what it hangs on; what could end it sooner."""

from collections.abc import Sequence

from aldea.core.base.instants import MS_PER_MINUTE, near, span
from aldea.core.engine import layout as lay
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.rehearse.ahead import Ahead, HangsOn
from aldea.core.rehearse.foresight import ClaimStand
from aldea.core.words.claims import clause_of, want_words
from aldea.core.words.reasons import state_word

MOST_SOONER = 3

SURE = {
    HangsOn.NOTHING: "",
    HangsOn.STRONGER: ", unless something stronger speaks",
    HangsOn.STEADY: ", unless the readings change",
    HangsOn.HELD: ", if the readings stay as they are",
}


LEAST_QUIET_MS = 10 * MS_PER_MINUTE


def ahead_sentence(plan: Plan, load: Load, ahead: Ahead | None, at_ms: int, quiet_ms: int) -> str:
    """When its state changes next, to what, how sure that is; or how long nothing is foreseen."""
    zone = plan.house.time_zone
    if ahead is None:
        if quiet_ms < LEAST_QUIET_MS:
            return "What changes it next hangs on the readings; the days before do not tell when."
        return f"Nothing is foreseen to change it within {span(_whole_minutes_s(quiet_ms))}."
    state = state_word(load, ahead.state)
    by = f", by {lay.RANK_NAMES[ahead.decided_by.rank]}" if ahead.decided_by else ""
    if ahead.hangs_on is HangsOn.USUAL:
        early, late = (near(edge, at_ms, zone) for edge in (ahead.early_ms, ahead.late_ms))
        return f"Likely between {early} and {late} it goes to {state}{by}, as the days before went."
    when = near(ahead.t_ms, at_ms, zone)
    return f"At {when} it goes to {state}{by}{SURE[ahead.hangs_on]}."


def _whole_minutes_s(length_ms: int) -> float:
    return float(length_ms // MS_PER_MINUTE * 60)


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
