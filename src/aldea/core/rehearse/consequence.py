"""What a pair of marks comes to over a replay: closings, hours, time beyond, relay life."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.base.instants import MS_PER_DAY, MS_PER_HOUR
from aldea.core.engine import layout as lay
from aldea.core.engine.replay import Run
from aldea.core.rehearse.beyond import Beyond

DAYS_PER_YEAR = 365.25
DAYS_PER_WEEK = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequence:
    """Figures of one load over a replay of `days` days.

    Hours beyond the limit are the room's as it was recorded; `unanswered` of them passed while the
    load was off. `relay_years` is infinite for a relay that never closed.
    """

    days: float
    closings: int
    closings_per_day: float
    on_hours_per_day: float
    beyond_hours_per_week: float
    unanswered_hours_per_week: float
    relay_years: float
    shortest_on_s: float | None
    energy_kwh_per_day: float


def relay_life_years(rated_closings: int, closings_per_day: float) -> float:
    """Years until the rated closings are used up; one cycle is one on and one off.

    Year of 365.25 days; infinite where the relay never closes.
    """
    if closings_per_day <= 0:
        return float("inf")
    return rated_closings / (closings_per_day * DAYS_PER_YEAR)


def on_spans(run: Run, load: int) -> IntArray:
    """The spans [from, to) in ms in which the load was on; an array (n, 2)."""
    rows, _ = run.of_load(load)
    was_on, now_on = rows[:, lay.E_FROM] != lay.OFF, rows[:, lay.E_TO] != lay.OFF
    starts = rows[now_on & ~was_on, lay.E_T_MS]
    ends = rows[was_on & ~now_on, lay.E_T_MS]
    if len(ends) < len(starts):
        ends = np.append(ends, run.end_ms)
    return np.stack((starts, ends), axis=1)


def consequence(
    run: Run, load: int, *, beyond: Beyond, rated_closings: int, power_w: float
) -> Consequence:
    """Sum up what a load did in a run against the time beyond its limit."""
    spans = on_spans(run, load)
    days = (run.end_ms - run.start_ms) / MS_PER_DAY
    on_ms = float((spans[:, 1] - spans[:, 0]).sum())
    edges = beyond.before(np.array([run.start_ms, run.end_ms]))
    total_ms = float(edges[1] - edges[0])
    answered_ms = float((beyond.before(spans[:, 1]) - beyond.before(spans[:, 0])).sum())
    weeks = days / DAYS_PER_WEEK
    finished = spans[spans[:, 1] < run.end_ms]
    closings_per_day = len(spans) / days
    return Consequence(
        days=days,
        closings=len(spans),
        closings_per_day=closings_per_day,
        on_hours_per_day=on_ms / MS_PER_HOUR / days,
        beyond_hours_per_week=total_ms / MS_PER_HOUR / weeks,
        unanswered_hours_per_week=max(0.0, total_ms - answered_ms) / MS_PER_HOUR / weeks,
        relay_years=relay_life_years(rated_closings, closings_per_day),
        shortest_on_s=float((finished[:, 1] - finished[:, 0]).min()) / 1000
        if len(finished)
        else None,
        energy_kwh_per_day=on_ms / MS_PER_HOUR * power_w / 1000 / days,
    )
