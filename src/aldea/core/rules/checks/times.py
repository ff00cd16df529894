"""Checks of schedules: what the two clock changes of a year skip, shorten or lengthen."""

from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from itertools import pairwise

from aldea.core.base.instants import local, ms_of, offsets
from aldea.core.devices.finding import Check, Finding
from aldea.core.engine.calendar import sun_edges_ms, window_spans
from aldea.core.plan.document import House, Plan
from aldea.core.plan.schedules import EVERY_DAY, Schedule, SunEdge, Window

DatedCheck = Callable[[Plan, date], Iterator[Finding]]

# A zone changes its clock by a law that seldom moves, as the pinned tzdata has it.
FIRST_YEAR, YEARS = 2025, 3
MINUTES_A_DAY = 1440


@lru_cache(maxsize=64)
def clock_changes(zone: str, first_year: int = FIRST_YEAR) -> tuple[tuple[date, int, int], ...]:
    """A zone's clock changes of three years: local date, minute of the day at the turn, shift, min.

    A positive shift skips as many minutes from that one on, a negative one repeats as many before.
    """
    start = ms_of(datetime(first_year, 1, 1, tzinfo=UTC))
    end = ms_of(datetime(first_year + YEARS, 1, 1, tzinfo=UTC))
    rows = offsets(start, end, zone)
    changes = []
    for (_, before), (at_ms, after) in pairwise(rows):
        shift = after - before
        moment = local(at_ms, zone)
        minute = moment.hour * 60 + moment.minute - max(shift, 0)
        changes.append((moment.date(), minute % MINUTES_A_DAY, shift))
    return tuple(changes)


def _minute(text: str) -> int:
    hours, minutes = text.split(":")
    return int(hours) * 60 + int(minutes)


def at_clock_changes(plan: Plan, today: date) -> Iterator[Finding]:
    """A moment or an edge of a window within the hour that a clock change skips or repeats.

    It names the first such day from `today` on, and a window that this day leaves out.
    """
    for schedule in plan.schedules:
        for day, turn, shift in clock_changes(plan.house.time_zone, today.year):
            if day < today:
                continue
            first, last = (turn, turn + shift) if shift > 0 else (turn, turn - shift)
            hit = [t for t in _times_on(schedule, day) if first <= _minute(t) < last]
            if not hit:
                continue
            word = "is skipped" if shift > 0 else "comes twice"
            lost = [w for w in _windows_on(schedule, day) if _is_lost(w, day, plan.house)]
            yield Finding(
                key=f"clock-{schedule.id}",
                weight="warning" if lost else "open",
                head=f"“{schedule.name}”: {hit[0]} {word} on {day:%a} {day.day} {day:%b %Y}.",
                why=_what_happens(lost, shift),
                fix="Choose a time outside that hour where the hour itself matters.",
                at=f"schedule:{schedule.id}",
                field="windows",
            )
            break


def _what_happens(lost: Sequence[Window], shift: int) -> str:
    if lost:
        window = f"{lost[0].start}–{lost[0].end}"
        return f"The clock changes in that hour; the window {window} is left out that day."
    if shift > 0:
        return "The clock changes in that hour; the skipped time counts an hour later by the clock."
    return "The clock changes in that hour; the first of the two counts, and nothing is doubled."


def _is_lost(window: Window, day: date, house: House) -> bool:
    """Whether a window between two times has no span left on the day that it begins on."""
    if isinstance(window.start, SunEdge) or isinstance(window.end, SunEdge):
        return False
    only = Schedule(id="only", name="Only", windows=(window,))
    return not window_spans(only, house, [day], house.time_zone)


def _windows_on(schedule: Schedule, day: date) -> Iterator[Window]:
    name = EVERY_DAY[day.weekday()]
    yield from (window for window in schedule.windows if name in window.days)


def _times_on(schedule: Schedule, day: date) -> Iterator[str]:
    name = EVERY_DAY[day.weekday()]
    for group in schedule.moments:
        if name in group.days:
            yield from group.at
    for window in _windows_on(schedule, day):
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
            why="The schedule has no window, no date and no moment.",
            fix="Draw or type one at Schedules.",
            at=f"schedule:{schedule.id}",
            field="windows",
        )


def never_again(plan: Plan, today: date) -> Iterator[Finding]:
    """A schedule of dates alone, the last of which is over."""
    for schedule in plan.schedules:
        if schedule.windows or schedule.moments or not schedule.dates:
            continue
        last = max(date.fromisoformat(span.end[:10]) for span in schedule.dates)
        if last >= today:
            continue
        yield Finding(
            key=f"over-{schedule.id}",
            weight="warning",
            head=f"“{schedule.name}” is never on again.",
            why=f"Its last date was {last.day} {last:%b %Y}, and it has no window and no moment.",
            fix="Enter a date to come, or remove the schedule.",
            at=f"schedule:{schedule.id}",
            field="dates",
        )


def without_the_sun(plan: Plan) -> Iterator[Finding]:
    """A schedule beside the sun where on some days it does not rise or set."""
    if plan.house.latitude_deg is None:
        return
    for schedule in plan.schedules:
        wanted = {
            edge.at
            for window in schedule.windows
            for edge in (window.start, window.end)
            if isinstance(edge, SunEdge)
        }
        for edge in sorted(wanted):
            missing = days_without(plan.house, edge)
            if not missing:
                continue
            word = "rise" if edge == "sunrise" else "set"
            yield Finding(
                key=f"sun-{schedule.id}-{edge}",
                weight="warning",
                head=f"“{schedule.name}”: the sun does not {word} on {missing} days of the year.",
                why="On those days windows with sunrise or sunset do not occur. The condition "
                "“the sun is down” is true all through the polar night and never in the "
                "midnight sun.",
                fix="Use a clock time where it must happen every day.",
                at=f"schedule:{schedule.id}",
                field="windows",
            )


@lru_cache(maxsize=32)
def days_without(house: House, edge: str) -> int:
    """On how many days of a common year the sun does not rise, or does not set, at a house."""
    first = date(FIRST_YEAR, 1, 1)
    days = (first + timedelta(days=n) for n in range(365))
    return sum(edge not in sun_edges_ms(house, day) for day in days)


TIME_CHECKS: tuple[Check, ...] = (unused_schedules, without_the_sun)
DATED_CHECKS: tuple[DatedCheck, ...] = (at_clock_changes, never_again)
