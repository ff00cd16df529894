"""What a pair of marks comes to over a replay: starts, hours, time beyond, relay life."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.base.instants import MS_PER_HOUR
from aldea.core.engine import layout as lay
from aldea.core.engine.replay import Run
from aldea.core.rehearse.beyond import Beyond
from aldea.core.rehearse.recorded import Recorded, common

DAYS_PER_YEAR = 365.25
DAYS_PER_WEEK = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequence:
    """Figures of one load over the recorded part of a span; `days` and `share` say how much it is.

    Hours beyond the limit are the room's as it was recorded; `unanswered` of them passed while the
    load was off. `relay_years` is infinite for a relay that never closed.
    """

    days: float
    share: float
    starts: int
    starts_per_day: float
    on_hours_per_day: float
    beyond_hours_per_week: float
    unanswered_hours_per_week: float
    relay_years: float
    shortest_on_s: float | None
    energy_kwh_per_day: float


def relay_life_years(rated_cycles: int, starts_per_day: float) -> float:
    """Years until the rated cycles are used up; one cycle is one on and one off.

    Year of 365.25 days; infinite where the relay never closes.
    """
    if starts_per_day <= 0:
        return float("inf")
    return rated_cycles / (starts_per_day * DAYS_PER_YEAR)


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
    run: Run,
    load: int,
    *,
    recorded: Recorded,
    beyond: Beyond,
    rated_cycles: int,
    power_w: float,
) -> Consequence:
    """Sum up what a load did while something was recorded, against the time beyond its limit.

    Silence, gaps and days without a log count in nothing and are divided by nothing.
    """
    spans = on_spans(run, load)
    days = recorded.days
    per_day = 1 / days if days else 0.0
    on_h = recorded.within(spans) / MS_PER_HOUR
    total_ms = _time_of(beyond, recorded.spans)
    answered_ms = _time_of(beyond, common(recorded.spans, spans))
    starts = len(recorded.holds(spans[:, 0]))
    finished = spans[(spans[:, 1] < run.end_ms) & np.isin(spans[:, 0], recorded.holds(spans[:, 0]))]
    a_week = DAYS_PER_WEEK * per_day / MS_PER_HOUR
    return Consequence(
        days=days,
        share=recorded.share,
        starts=starts,
        starts_per_day=starts * per_day,
        on_hours_per_day=on_h * per_day,
        beyond_hours_per_week=total_ms * a_week,
        unanswered_hours_per_week=max(0.0, total_ms - answered_ms) * a_week,
        relay_years=relay_life_years(rated_cycles, starts * per_day),
        shortest_on_s=float((finished[:, 1] - finished[:, 0]).min()) / 1000
        if len(finished)
        else None,
        energy_kwh_per_day=on_h * power_w / 1000 * per_day,
    )


def _time_of(beyond: Beyond, spans: IntArray) -> float:
    return float((beyond.before(spans[:, 1]) - beyond.before(spans[:, 0])).sum())
