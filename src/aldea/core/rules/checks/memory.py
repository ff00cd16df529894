"""Checks of what is retained: written more often than the memory bears in ten years."""

import math
from collections.abc import Iterator

from aldea.core.base.figures import short, thousands, years
from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding
from aldea.core.engine.compiling.memory import fields_of
from aldea.core.physics.memory_life import (
    ASSUMED_ENDURANCE,
    DAYS_A_YEAR,
    S_PER_DAY,
    SLOTS,
    WANTED_YEARS,
    memory_years,
)
from aldea.core.plan.document import Load, Plan

NICE_S = (60.0, 300.0, 600.0, 900.0, 1800.0, 3600.0)
BEARABLE_A_DAY = SLOTS * ASSUMED_ENDURANCE / (WANTED_YEARS * DAYS_A_YEAR)


def memory_wears(plan: Plan) -> Iterator[Finding]:
    """What is retained may be written so often that the memory does not last ten years."""
    counted = [(name, _writes_a_day(plan, name)) for name in fields_of(plan)]
    least_s = _apart_s(plan)
    whole = sum(writes for _, writes in counted)
    a_day = min(whole, S_PER_DAY / least_s) if least_s else whole
    if a_day <= BEARABLE_A_DAY:
        return
    most = max(counted, key=lambda row: row[1])[0]
    kind, _, key = most.partition(":")
    load = plan.load(key) if kind == "load" else None
    of = load.name if load is not None else next(s.name for s in plan.schedules if s.id == key)
    often = (
        "at every change" if math.isinf(a_day) else f"up to {short(round(a_day, 1))} times a day"
    )
    life = "" if math.isinf(a_day) else f": {years(memory_years(SLOTS, ASSUMED_ENDURANCE, a_day))}"
    wait_s = next(s for s in NICE_S if S_PER_DAY / s <= BEARABLE_A_DAY)
    waits = plan.memory.model_copy(update={"least_s": wait_s})
    yield Finding(
        key="memory-wears",
        weight="open" if math.isinf(a_day) else "warning",
        head=f"What is retained over a power cut may be written {often}, most of it of {of}.",
        why=f"Memory of {thousands(ASSUMED_ENDURANCE)} writes a cell (estimated) in {SLOTS} slots "
        f"bears {short(round(BEARABLE_A_DAY, 1))} a day for {short(WANTED_YEARS)} years{life}.",
        fix=f"Write it at most every {span(wait_s)}; a power cut may then lose the last of it.",
        at=f"load:{load.id}" if load is not None else "memory",
        field="power_return.policy" if load is not None else "",
        press=f"Write at most every {span(wait_s)}",
        apply=lambda whole_plan: whole_plan.model_copy(update={"memory": waits}),
    )


def _apart_s(plan: Plan) -> float:
    """How far apart two writes are at the least."""
    policy = plan.memory
    quiet_s = policy.quiet_s if policy.latest_s is None else min(policy.quiet_s, policy.latest_s)
    return max(policy.least_s, quiet_s)


def _writes_a_day(plan: Plan, field: str) -> float:
    """How often a field may change in a day by itself.

    What people do is not counted, nor what is not to happen daily: trips and lock-outs.
    """
    kind, _, key = field.partition(":")
    if kind == "moments":
        schedule = next((row for row in plan.schedules if row.id == key), None)
        days: dict[str, int] = {}
        for row in schedule.moments if schedule else ():
            for day in row.days:
                days[day] = days.get(day, 0) + len(row.at)
        return float(max(days.values(), default=0))
    load = plan.load(key) if kind == "load" else None
    return _switchings_a_day(plan, load) if load is not None else 0.0


def _switchings_a_day(plan: Plan, load: Load) -> float:
    if not plan.rules_of(load.id):
        return 0.0
    bounds = [math.inf]
    if load.starts_per_hour is not None:
        bounds.append(2 * 24.0 * load.starts_per_hour)
    if load.min_on_s + load.min_off_s > 0:
        bounds.append(2 * S_PER_DAY / (load.min_on_s + load.min_off_s))
    return min(bounds)


MEMORY_CHECKS: tuple[Check, ...] = (memory_wears,)
