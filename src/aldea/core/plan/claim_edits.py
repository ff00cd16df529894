"""Changing a load's claims: put in, moved inside their level, switched off for now, taken out."""

from aldea.core.base.errors import NotFoundError
from aldea.core.plan.document import Claim, Plan
from aldea.core.plan.edits import fresh_id


def claim_of(plan: Plan, claim_id: str) -> Claim:
    """The claim of that id; `NotFoundError` where there is none."""
    for claim in plan.claims:
        if claim.id == claim_id:
            return claim
    raise NotFoundError("claim", got=repr(claim_id)[:80], allowed="a claim of this plan")


def fresh_claim_id(plan: Plan, load: str, rank: str) -> str:
    """An id for a new claim of a load."""
    return fresh_id(f"{load} {rank}", {claim.id for claim in plan.claims})


def put_claim(plan: Plan, claim: Claim) -> Plan:
    """The plan with a claim in the place of the one of its id, or at the end of its load's."""
    if any(old.id == claim.id for old in plan.claims):
        rows = tuple(claim if old.id == claim.id else old for old in plan.claims)
        return plan.model_copy(update={"claims": rows})
    last = max((i for i, old in enumerate(plan.claims) if old.load == claim.load), default=-1)
    at = last + 1 if last >= 0 else len(plan.claims)
    return plan.model_copy(update={"claims": (*plan.claims[:at], claim, *plan.claims[at:])})


def without_claim(plan: Plan, claim_id: str) -> Plan:
    """The plan without a claim."""
    claim_of(plan, claim_id)
    return plan.model_copy(update={"claims": tuple(c for c in plan.claims if c.id != claim_id)})


def switched(plan: Plan, claim_id: str) -> Plan:
    """The plan with a claim switched off for now, or on again."""
    claim = claim_of(plan, claim_id)
    return put_claim(plan, claim.model_copy(update={"off_for_now": not claim.off_for_now}))


def moved_claim(plan: Plan, claim_id: str, by: int) -> Plan:
    """The plan with a claim moved so many places up (negative) or down inside its level.

    It never leaves its load and its level: its level says who wins. At an end of it nothing
    changes; beyond an end it stands at it.
    """
    claim = claim_of(plan, claim_id)
    level = [
        index
        for index, other in enumerate(plan.claims)
        if (other.load, other.rank) == (claim.load, claim.rank)
    ]
    order = [plan.claims[index] for index in level]
    here = order.index(claim)
    there = min(max(here + by, 0), len(order) - 1)
    order.insert(there, order.pop(here))
    rows = list(plan.claims)
    for index, row in zip(level, order, strict=True):
        rows[index] = row
    return plan.model_copy(update={"claims": tuple(rows)})
