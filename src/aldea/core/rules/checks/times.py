"""Checks of schedules: what the two clock changes of a year skip, shorten or lengthen."""

from collections.abc import Iterator
from datetime import UTC, date, datetime
from functools import lru_cache
from itertools import pairwise

from aldea.core.base.instants import local, ms_of, offsets
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.document import Plan
from aldea.core.plan.schedules import EVERY_DAY, Schedule

# A zone changes its clock by a law that seldom moves: the years around the pinned tzdata.
FIRST_YEAR, LAST_YEAR = 2025, 2027
MINUTES_A_DAY = 1440


@lru_cache(maxsize=64)
def clock_changes(zone: str) -> tuple[tuple[date, int, int], ...]:
    """The changes of a zone's clock: local date, minute of the day at which it turns, shift in min.

    A positive shift skips as many minutes from that one on, a negative one repeats as many before.
    """
    start = ms_of(datetime(FIRST_YEAR, 1, 1, tzinfo=UTC))
    end = ms_of(datetime(LAST_YEAR + 1, 1, 1, tzinfo=UTC))
    rows = offsets(start, end, zone)
    found = []
    for (_, before), (at_ms, after) in pairwise(rows):
        shift = after - before
        moment = local(at_ms, zone)
        minute = moment.hour * 60 + moment.minute - max(shift, 0)
        found.append((moment.date(), minute % MINUTES_A_DAY, shift))
    return tuple(found)


def _minute(text: str) -> int:
    hours, minutes = text.split(":")
    return int(hours) * 60 + int(minutes)


def at_clock_changes(plan: Plan) -> Iterator[Finding]:
    """A moment or an edge of a window within the hour that a clock change skips or repeats."""
    for schedule in plan.schedules:
        for day, turn, shift in clock_changes(plan.house.time_zone):
            first, last = (turn, turn + shift) if shift > 0 else (turn, turn - shift)
            hit = [t for t in _times_on(schedule, day) if first <= _minute(t) < last]
            if not hit:
                continue
            word = "is skipped" if shift > 0 else "comes twice"
            does = (
                "it happens once, an hour later by the clock"
                if shift > 0
                else "it happens once, at the first of the two"
            )
            yield Finding(
                key=f"clock-{schedule.id}",
                weight="open",
                head=f"“{schedule.name}”: {hit[0]} {word} on {day:%a} {day.day} {day:%b %Y}.",
                why=f"The clock changes in that hour; {does}, and nothing is missed or doubled.",
                mend="Choose a time outside that hour where the hour itself matters.",
                at=f"schedule:{schedule.id}",
                field="windows",
            )
            break


def _times_on(schedule: Schedule, day: date) -> Iterator[str]:
    name = EVERY_DAY[day.weekday()]
    for group in schedule.moments:
        if name in group.days:
            yield from group.at
    for window in schedule.windows:
        if name in window.days:
            yield from (edge for edge in (window.start, window.end) if isinstance(edge, str))


def unused_schedules(plan: Plan) -> Iterator[Finding]:
    """A schedule without a window, a date or a moment."""
    for schedule in plan.schedules:
        if schedule.windows or schedule.dates or schedule.moments:
            continue
        yield Finding(
            key=f"empty-{schedule.id}",
            weight="warning",
            head=f"“{schedule.name}” is never on.",
            why="It has no window, no date and no moment.",
            mend="Draw or type one at Schedules.",
            at=f"schedule:{schedule.id}",
            field="windows",
        )


TIME_CHECKS: tuple[Check, ...] = (at_clock_changes, unused_schedules)
