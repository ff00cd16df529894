"""What a load does when a probe that it reads gives no good reading: one answer for page and sheet.

The rule is that which the engine follows: a sensor fault rule on the probe, else what the load says
of a silence of the probes that its schedules and demands read, else a trip or an interlock that
counts as true without a reading.
"""

from dataclasses import dataclass
from typing import Any

from aldea.core.base.instants import span
from aldea.core.plan.conditions import Lasting, Named, OnValue, QualityIs, Some
from aldea.core.plan.document import Claim, Load, Plan, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import (
    named_conditions,
    probes_of_claim,
    unspoken_probes,
    working_claims,
)
from aldea.core.plan.without_reading import ABOVE_FAULT
from aldea.core.words.claims import want_words

NO_RULE = "no fault rule"


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultRule:
    """What is wanted after a probe was last good so long ago, s; `own` by a rule on that probe."""

    wanted: Wanted
    after_s: float
    own: bool

    def words(self, load: Load) -> str:
        """As a sentence begins with it: “Off after 15 min”."""
        after = f"after {span(self.after_s)}" if self.after_s else "at once"
        stays = load.kind == "pulse_drive" and self.wanted.want == "off"
        return f"{'Stays where it is' if stays else want_words(self.wanted, load)} {after}"


def fault_rule(plan: Plan, load: Load, probe: str) -> FaultRule | None:
    """The rule of a load for a probe that is lost; None where it has none."""
    claims = working_claims(plan, load.id)
    for claim in claims:
        after_s = _fault_after_s(claim, probe) if claim.rank == "fault" else None
        if after_s is not None:
            return FaultRule(wanted=claim, after_s=after_s, own=True)
    unspoken = unspoken_probes(plan, load)
    by_rule = load.silent.each == "rule" and len(unspoken) > 1
    if probe in unspoken and load.silent.state != "keep" and not by_rule:
        wanted = Wanted(want="on" if load.silent.state == "on" else "off")
        return FaultRule(wanted=wanted, after_s=load.silent.after_s, own=False)
    for claim in claims:
        after_s = _true_after_s(plan, claim.condition, probe)
        if claim.rank in ABOVE_FAULT and after_s is not None:
            return FaultRule(wanted=claim, after_s=after_s, own=True)
    return None


def _fault_after_s(claim: Claim, probe: str) -> float | None:
    """How long a sensor fault rule waits, s; None where it is not on this probe."""
    condition: Any = claim.condition
    wait_s = 0.0
    if condition is None:
        return claim.after_s if claim.probe == probe else None
    if isinstance(condition, Lasting):
        condition, wait_s = condition.of, condition.on_s
    on_it = isinstance(condition, QualityIs) and condition.probe == probe
    return wait_s if on_it and "stale" in condition.among else None


def _true_after_s(plan: Plan, condition: Any, probe: str) -> float | None:
    """After how long without a reading of a probe a condition is true for that alone, s."""
    if isinstance(condition, Named):
        return _true_after_s(plan, named_conditions(plan).get(condition.condition), probe)
    if isinstance(condition, Lasting):
        inner_s = _true_after_s(plan, condition.of, probe)
        return None if inner_s is None else inner_s + condition.on_s
    if isinstance(condition, Some):
        waits = [_true_after_s(plan, member, probe) for member in condition.of]
        return min((wait for wait in waits if wait is not None), default=None)
    stated = isinstance(condition, OnValue) and condition.without_reading == "true"
    if not stated or getattr(condition, "probe", "") != probe:
        return None
    return float(condition.unchanged_for_s)


def probes_read(plan: Plan, load: Load) -> tuple[str, ...]:
    """Every probe that a working rule of a load reads as a value, in the order of its rules."""
    claims = working_claims(plan, load.id)
    return tuple(dict.fromkeys(probe for claim in claims for probe in probes_of_claim(plan, claim)))


def probe_words(plan: Plan, load: Load, probe: str) -> str:
    """What a load does when one probe is lost, as a sentence begins with it."""
    rule = fault_rule(plan, load, probe)
    if rule is not None:
        return rule.words(load)
    if load.silent.each == "rule" and probe in unspoken_probes(plan, load):
        after = f"after {span(load.silent.after_s)}" if load.silent.after_s else "at once"
        return f"only the rules on it stop, {after}"
    return NO_RULE


def lost_probe_words(plan: Plan, load: Load) -> str:
    """What it does for each probe that it reads, those of one answer together."""
    told: dict[str, list[str]] = {}
    for probe in probes_read(plan, load):
        words = probe_words(plan, load, probe)
        told.setdefault(words, []).append(reading_name(plan, probe))
    if len(told) < 2:
        return next(iter(told), "reads no probe")
    return "; ".join(f"{', '.join(names)}: {words}" for words, names in told.items())
