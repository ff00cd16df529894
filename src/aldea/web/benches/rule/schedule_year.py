"""A schedule that follows the sun, drawn over a year: its edges day by day."""

from dataclasses import dataclass

from aldea.core.base.instants import MS_PER_DAY, local
from aldea.core.plan.document import Plan
from aldea.core.plan.schedules import Schedule, SunEdge
from aldea.core.rules.checks.times import clock_changes
from aldea.core.rules.edges import spans_of
from aldea.web.benches.rule.schedule_form import alone

DAYS_OF_A_YEAR = 365


@dataclass(frozen=True, slots=True, kw_only=True)
class YearBand:
    """When it begins and ends through a year, as a path over 365 × 120; and the clock changes."""

    path: str
    changes: tuple[tuple[float, str], ...]
    begins: str
    ends: str


def year_band(plan: Plan, schedule: Schedule, at_ms: int) -> YearBand | None:
    """The edges of a schedule that follows the sun, day by day for a year; None for another."""
    sun = [
        w for w in schedule.windows if isinstance(w.start, SunEdge) or isinstance(w.end, SunEdge)
    ]
    if not sun or plan.house.latitude_deg is None or plan.house.longitude_deg is None:
        return None
    one = alone(schedule, sun[0])
    zone = plan.house.time_zone
    spans = spans_of(plan, one, at_ms, at_ms + DAYS_OF_A_YEAR * MS_PER_DAY)
    noon = 12 * 60

    def minute(t_ms: int) -> float:
        moment = local(t_ms, zone)
        return (moment.hour * 60 + moment.minute - noon) % 1440

    rows = [
        ((a - at_ms) / MS_PER_DAY, minute(a), minute(b))
        for a, b in spans
        if 0 <= a - at_ms < DAYS_OF_A_YEAR * MS_PER_DAY
    ]
    if not rows:
        return None
    upper = "L".join(f"{x:.1f} {y / 12:.1f}" for x, y, _ in rows)
    lower = "L".join(f"{x:.1f} {y / 12:.1f}" for x, _, y in reversed(rows))
    today = local(at_ms, zone).date()
    changes = tuple(
        ((day - today).days, f"{day.day} {day:%b}")
        for day, _, _ in clock_changes(zone)
        if 0 <= (day - today).days < DAYS_OF_A_YEAR
    )

    def clock_of(value: float) -> str:
        whole = round(value + noon) % 1440
        return f"{whole // 60:02d}:{whole % 60:02d}"

    firsts, lasts = [y for _, y, _ in rows], [y for _, _, y in rows]
    return YearBand(
        path=f"M{upper}L{lower}Z",
        changes=changes,
        begins=f"{clock_of(min(firsts))} and {clock_of(max(firsts))}",
        ends=f"{clock_of(min(lasts))} and {clock_of(max(lasts))}",
    )
