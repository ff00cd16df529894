"""Changes to a plan: each gives a new plan, the old one stays as it was."""

from dataclasses import dataclass
from functools import lru_cache
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
            on=claim.condition.on,
            off=claim.condition.off,
            min_on_s=load.min_on_s,
            min_off_s=load.min_off_s,
            silent=load.silent,
            power_return=load.power_return,
        )


def tuned(plan: Plan, claim: Claim, tuning: Tuning) -> Plan:
    """The plan with a claim's marks and its load's times, silence and return changed."""
    band = claim.condition.model_copy(update={"on": tuning.on, "off": tuning.off})
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One place at which two plans differ."""

    path: str
    was: str
    now: str


@lru_cache(maxsize=32)
def differences(was: Plan, now: Plan) -> tuple[Difference, ...]:
    """Every leaf at which two plans differ; parts are told apart by their ids, not their place."""
    old, new = _leaves(was.model_dump(mode="json")), _leaves(now.model_dump(mode="json"))
    return tuple(
        Difference(path=path, was=_shown(old.get(path)), now=_shown(new.get(path)))
        for path in sorted(old.keys() | new.keys())
        if old.get(path) != new.get(path)
    )


def _leaves(value: Any, path: str = "") -> dict[str, Any]:
    if isinstance(value, dict):
        return {k: v for key in value for k, v in _leaves(value[key], f"{path}/{key}").items()}
    if isinstance(value, list):
        named = [(_name(item, index), item) for index, item in enumerate(value)]
        return {k: v for name, item in named for k, v in _leaves(item, f"{path}/{name}").items()}
    return {path: value}


def _name(item: Any, index: int) -> str:
    """What tells an item of a list from its neighbours: its id, its signal, or its place."""
    if isinstance(item, dict):
        return str(item.get("id") or item.get("signal") or index)
    return str(index)


def _shown(value: Any) -> str:
    if value is None:
        return "nothing"
    return f"{value:g}".replace("-", "−") if isinstance(value, float) else str(value)
