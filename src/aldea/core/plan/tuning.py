"""Changes to a plan: each gives a new plan, the old one stays as it was."""

from dataclasses import dataclass
from typing import Any

from aldea.core.plan.document import Calibration, Claim, Plan, PowerReturn, Silent


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuning:
    """What the Tune bench sets for one claim and the load that it is on."""

    on: float
    off: float
    min_on_s: float
    min_off_s: float
    silent: Silent
    power_return: PowerReturn

    @classmethod
    def of(cls, plan: Plan, claim: Claim) -> "Tuning":
        """What a plan says now."""
        load = plan.load(claim.load)
        if load is None:  # a checked plan has it
            raise KeyError(claim.load)
        return cls(
            on=claim.band.on,
            off=claim.band.off,
            min_on_s=load.min_on_s,
            min_off_s=load.min_off_s,
            silent=load.silent,
            power_return=load.power_return,
        )


def tuned(plan: Plan, claim: Claim, tuning: Tuning) -> Plan:
    """The plan with a claim's marks and its load's times, silence and return changed."""
    band = claim.band.model_copy(update={"on": tuning.on, "off": tuning.off})
    times = {
        "min_on_s": tuning.min_on_s,
        "min_off_s": tuning.min_off_s,
        "silent": tuning.silent,
        "power_return": tuning.power_return,
    }
    return plan.model_copy(
        update={
            "claims": _replaced(plan.claims, claim.id, {"condition": band}),
            "loads": _replaced(plan.loads, claim.load, times),
        }
    )


def calibrated(plan: Plan, probe_id: str, calibration: Calibration) -> Plan:
    """The plan with a probe's calibration changed."""
    return plan.model_copy(
        update={"probes": _replaced(plan.probes, probe_id, {"calibration": calibration})}
    )


def _replaced(parts: tuple[Any, ...], part_id: str, update: dict[str, Any]) -> tuple[Any, ...]:
    return tuple(part.model_copy(update=update) if part.id == part_id else part for part in parts)
