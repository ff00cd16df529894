"""Every place at which two plans differ."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from aldea.core.plan.document import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanChange:
    """One place at which two plans differ."""

    path: str
    was: str
    now: str


UNTOLD = ("/numbers/", "/sheet/")  # they follow from the wiring, and are no choice of anybody


@lru_cache(maxsize=32)
def plan_changes(was: Plan, now: Plan) -> tuple[PlanChange, ...]:
    """Every leaf at which two plans differ; parts are told apart by their ids, not their place."""
    old, new = _leaves(was.model_dump(mode="json")), _leaves(now.model_dump(mode="json"))
    return tuple(
        PlanChange(path=path, was=_shown(old.get(path)), now=_shown(new.get(path)))
        for path in sorted(old.keys() | new.keys())
        if old.get(path) != new.get(path) and not path.startswith(UNTOLD)
    )


def _leaves(value: Any, path: str = "") -> dict[str, Any]:
    if isinstance(value, dict):
        return {k: v for key in value for k, v in _leaves(value[key], f"{path}/{key}").items()}
    if isinstance(value, list):
        named = [(part_name(item, index), item) for index, item in enumerate(value)]
        return {k: v for name, item in named for k, v in _leaves(item, f"{path}/{name}").items()}
    return {path: value}


def part_name(item: Any, index: int) -> str:
    """What tells an item of a list from its neighbours: its id, its signal, or its place."""
    if isinstance(item, dict):
        return str(item.get("id") or item.get("signal") or index)
    return str(index)


def _shown(value: Any) -> str:
    if value is None:
        return "nothing"
    return f"{value:g}".replace("-", "−") if isinstance(value, float) else str(value)
