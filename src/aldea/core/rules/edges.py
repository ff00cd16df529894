"""When a schedule begins or ends next, and the sun rises or sets."""

from aldea.core.base.instants import MS_PER_DAY
from aldea.core.engine.calendar import (
    days_between,
    merged,
    moments_ms,
    sun_edges_ms,
    window_spans,
)
from aldea.core.plan.document import Plan
from aldea.core.plan.schedules import Schedule

LOOK_DAYS = 8


def spans_of(plan: Plan, schedule: Schedule, start_ms: int, end_ms: int) -> list[list[int]]:
    """When a schedule is active, from before `start_ms` to after `end_ms`, apart and in order."""
    zone = plan.house.time_zone
    days = list(days_between(start_ms, end_ms, zone))
    lasts_ms = round(schedule.for_s * 1000)
    moments = [[at, at + lasts_ms] for at in moments_ms(schedule, days, zone)]
    return merged([*window_spans(schedule, plan.house, days, zone), *moments])


def next_edge_ms(plan: Plan, schedule: Schedule, at_ms: int) -> int | None:
    """The first edge of a schedule after an instant; None where none comes within a week."""
    spans = spans_of(plan, schedule, at_ms, at_ms + LOOK_DAYS * MS_PER_DAY)
    return next((edge for span in spans for edge in span if edge > at_ms), None)


def next_sun_ms(plan: Plan, at_ms: int, offset_ms: int) -> int | None:
    """The first sunrise or sunset, with an offset, after an instant."""
    days = days_between(at_ms, at_ms + 2 * MS_PER_DAY, plan.house.time_zone)
    edges = sorted(at + offset_ms for day in days for at in sun_edges_ms(plan.house, day).values())
    return next((edge for edge in edges if edge > at_ms), None)
