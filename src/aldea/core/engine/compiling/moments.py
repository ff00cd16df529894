"""How many moments of a day a schedule has to remember."""

from collections.abc import Iterable

from aldea.core.engine.tables.people import BegunSpec
from aldea.core.plan.schedules import EVERY_DAY, Schedule

DAYS_IN_A_DAY = 3  # a span of 24 h reaches into three dates where the clock is put forward


def begun_rows(schedules: Iterable[Schedule]) -> list[BegunSpec]:
    """Where each schedule keeps the moments that have begun within a day: as many as it has."""
    rows: list[BegunSpec] = []
    first = 0
    for schedule in schedules:
        room = most_in_a_day(schedule)
        rows.append(BegunSpec(first=first, room=room))
        first += room
    return rows


def most_in_a_day(schedule: Schedule) -> int:
    """The most moments of a schedule that can lie within 24 hours, never too few."""
    by_day = [
        len({at for group in schedule.moments if day in group.days for at in group.at})
        for day in EVERY_DAY
    ]
    week = len(by_day)
    return max(
        sum(by_day[(day + after) % week] for after in range(DAYS_IN_A_DAY)) for day in range(week)
    )
