"""What changes a load next, in sentences, and what it hangs on; what could end it sooner."""

from collections.abc import Sequence

from aldea.core.base.instants import MS_PER_MINUTE, near, span
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.rehearse.ahead import Ahead, HangsOn
from aldea.core.rehearse.foresight import RuleStand
from aldea.core.words.conditions import one_line
from aldea.core.words.priorities import priority_words
from aldea.core.words.reasons import state_word
from aldea.core.words.rules import clause_of, want_words

MOST_SOONER = 3

SURE = {
    HangsOn.NOTHING: "",
    HangsOn.STRONGER: ", unless a rule of higher priority becomes active",
    HangsOn.STEADY: ", unless the readings change",
    HangsOn.HELD: ", if the readings stay as they are",
}


LEAST_QUIET_MS = 10 * MS_PER_MINUTE


def ahead_sentence(plan: Plan, load: Load, ahead: Ahead | None, at_ms: int, quiet_ms: int) -> str:
    """When its state changes next, to what, how sure that is; or how long nothing is foreseen."""
    zone = plan.house.time_zone
    if ahead is None:
        if quiet_ms < LEAST_QUIET_MS:
            return "The next change depends on the readings; the days before do not show when."
        return f"Nothing is foreseen to change it within {span(_whole_minutes_s(quiet_ms))}."
    state = state_word(load, ahead.state)
    by = f", by {priority_words(ahead.decided_by.priority)}" if ahead.decided_by else ""
    if ahead.hangs_on is HangsOn.USUAL:
        early, late = (near(edge, at_ms, zone) for edge in (ahead.early_ms, ahead.late_ms))
        return (
            f"Expected between {early} and {late} it goes to {state}{by}, as the days before went."
        )
    when = near(ahead.t_ms, at_ms, zone)
    return f"At {when} it goes to {state}{by}{SURE[ahead.hangs_on]}."


def _whole_minutes_s(length_ms: int) -> float:
    return float(length_ms // MS_PER_MINUTE * 60)


def sooner_sentence(plan: Plan, load: Load, state: int, over: Sequence[RuleStand]) -> str:
    """What could end its state sooner: the silent rules over the one that decides."""
    rules = {rule.id: rule for rule in plan.rules_of(load.id)}
    sentences: list[str] = []
    for stand in over:
        rule = rules.get(stand.row.rule or "")
        if rule is None or stand.active or _wants_on(rule) == bool(state):
            continue
        sentences.append(one_line(clause_of(plan, rule)))
    if not sentences:
        return ""
    more = len(sentences) - MOST_SOONER
    text = "; or if ".join(sentences[:MOST_SOONER])
    rest = f"; or by {more} more" if more > 0 else ""
    word = want_words(load.default_state, load) if state else "On"
    return f"Earlier ({word.lower()}), if {text}{rest}."


def _wants_on(rule: Rule) -> bool:
    return rule.want not in ("off", "shut")
