"""Changes to a plan: each gives a new plan, the old one stays as it was."""

from dataclasses import dataclass
from typing import Any

from aldea.core.plan.calibration import Calibration
from aldea.core.plan.document import OnSensorFault, Plan, PowerReturn, Rule


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuning:
    """What the Tune bench sets for one rule and the load that it is on."""

    on: float
    off: float
    min_on_s: float
    min_off_s: float
    on_sensor_fault: OnSensorFault
    power_return: PowerReturn

    @classmethod
    def of(cls, plan: Plan, rule: Rule) -> "Tuning":
        """What a plan says now."""
        load = plan.load(rule.load)
        if load is None:  # a checked plan has it
            raise KeyError(rule.load)
        return cls(
            on=rule.band.on_threshold,
            off=rule.band.off_threshold,
            min_on_s=load.min_on_s,
            min_off_s=load.min_off_s,
            on_sensor_fault=load.on_sensor_fault,
            power_return=load.power_return,
        )


def tuned(plan: Plan, rule: Rule, tuning: Tuning) -> Plan:
    """The plan with a rule's marks and its load's times, silence and return changed."""
    band = rule.band.model_copy(update={"on_threshold": tuning.on, "off_threshold": tuning.off})
    times = {
        "min_on_s": tuning.min_on_s,
        "min_off_s": tuning.min_off_s,
        "on_sensor_fault": tuning.on_sensor_fault,
        "power_return": tuning.power_return,
    }
    return plan.model_copy(
        update={
            "rules": _replaced(plan.rules, rule.id, {"condition": band}),
            "loads": _replaced(plan.loads, rule.load, times),
        }
    )


def calibrated(plan: Plan, probe_id: str, calibration: Calibration) -> Plan:
    """The plan with a probe's calibration changed."""
    return plan.model_copy(
        update={"probes": _replaced(plan.probes, probe_id, {"calibration": calibration})}
    )


def _replaced(parts: tuple[Any, ...], part_id: str, update: dict[str, Any]) -> tuple[Any, ...]:
    return tuple(part.model_copy(update=update) if part.id == part_id else part for part in parts)
