"""What a load does when a probe that it reads gives no good reading: one answer for page and sheet.

The rule is that which the engine follows: a sensor fault rule on the probe, else what the load says
of a silence of the probes that its schedules and demands stand on.
"""

from dataclasses import dataclass

from aldea.core.base.instants import span
from aldea.core.plan.document import Load, Plan, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import probes_of_claim, probes_of_load, working_claims
from aldea.core.words.claims import want_words

NO_RULE = "no rule"


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultRule:
    """What is wanted after a probe was last good so long ago, s; `own` by a rule on that probe."""

    wanted: Wanted
    after_s: float
    own: bool

    def words(self, load: Load) -> str:
        """As a sentence begins with it: “Off after 15 min”."""
        after = f"after {span(self.after_s)}" if self.after_s else "at once"
        return f"{want_words(self.wanted, load)} {after}"


def fault_rule(plan: Plan, load: Load, probe: str) -> FaultRule | None:
    """The rule of a load for a probe that is lost; None where it has none."""
    for claim in working_claims(plan, load.id):
        if claim.rank == "fault" and claim.probe == probe:
            return FaultRule(wanted=claim, after_s=claim.after_s, own=True)
    if probe not in probes_of_load(plan, load) or load.silent.state == "keep":
        return None
    wanted = Wanted(want="on" if load.silent.state == "on" else "off")
    return FaultRule(wanted=wanted, after_s=load.silent.after_s, own=False)


def probes_read(plan: Plan, load: Load) -> tuple[str, ...]:
    """Every probe that a working rule of a load reads as a value, in the order of its rules."""
    claims = working_claims(plan, load.id)
    return tuple(dict.fromkeys(probe for claim in claims for probe in probes_of_claim(plan, claim)))


def lost_probe_words(plan: Plan, load: Load) -> str:
    """What it does for each probe that it reads, those of one answer together."""
    told: dict[str, list[str]] = {}
    for probe in probes_read(plan, load):
        rule = fault_rule(plan, load, probe)
        words = rule.words(load) if rule else NO_RULE
        told.setdefault(words, []).append(reading_name(plan, probe))
    if len(told) < 2:
        return next(iter(told), "reads no probe")
    return "; ".join(f"{', '.join(names)}: {words}" for words, names in told.items())
