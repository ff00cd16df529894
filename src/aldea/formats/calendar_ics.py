"""iCalendar in and out: events become the dates of a schedule, a schedule becomes events.

Recurrences are worked out by a library over a stated span. An occurrence at a local time that a
clock change leaves out is moved to the offset before the gap (RFC 5545 §3.3.5).
"""

from datetime import UTC, date, datetime, timedelta
from typing import TYPE_CHECKING, Any
from zoneinfo import ZoneInfo

from aldea.core.base.errors import InputError
from aldea.core.plan.schedules import EVERY_DAY, DateSpan, Schedule, SunEdge, Window

if TYPE_CHECKING:
    from icalendar import Event

MOST_BYTES = 2_000_000
MOST_SPANS = 2000
SHORT_DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
PRODUCT = "-//Aldea//schedule//EN"


def dates_of_ics(
    raw: bytes, *, zone: str, first: date, last: date
) -> tuple[tuple[DateSpan, ...], tuple[str, ...]]:
    """The occurrences of a calendar's events in a span of days, and what was left out, in words.

    Times without a zone are the house's. Raises `InputError` where the file is too large, is no
    calendar, or has more occurrences than a schedule takes.
    """
    import recurring_ical_events  # noqa: PLC0415  a start can spare it
    from icalendar import Calendar  # noqa: PLC0415

    if len(raw) > MOST_BYTES:
        raise InputError(
            "calendar",
            got=f"{len(raw) / 1e6:.1f} MB",
            allowed=f"up to {MOST_BYTES / 1e6:.0f} MB",
            fix="Export only the calendar, or the months, that this schedule needs.",
        )
    try:
        calendar = Calendar.from_ical(raw)
    except ValueError as exc:
        raise InputError(
            "calendar", got="another kind of file", allowed="an iCalendar file (.ics)"
        ) from exc
    left_out = tuple(_left_out(calendar, raw))
    start = datetime(first.year, first.month, first.day, tzinfo=ZoneInfo(zone))
    end = datetime(last.year, last.month, last.day, tzinfo=ZoneInfo(zone)) + timedelta(days=1)
    spans: set[tuple[str, str]] = set()
    for event in recurring_ical_events.of(calendar, skip_bad_series=True).between(start, end):
        begins, ends = (_local(event[key].dt, zone) for key in ("DTSTART", "DTEND"))
        if begins < ends:
            spans.add((begins, ends))
        if len(spans) > MOST_SPANS:
            raise InputError(
                "calendar",
                got=f"more than {MOST_SPANS} occurrences",
                allowed=f"up to {MOST_SPANS} in a schedule",
                fix="Choose a shorter span, or write what repeats weekly as windows.",
            )
    return tuple(DateSpan(start=a, end=b) for a, b in sorted(spans)), left_out


def _local(moment: date | datetime, zone: str) -> str:
    """A moment as the house's wall clock has it, to the minute."""
    if not isinstance(moment, datetime):
        return f"{moment:%Y-%m-%d}T00:00"
    if moment.tzinfo is None:
        return f"{moment:%Y-%m-%dT%H:%M}"
    return f"{moment.astimezone(UTC).astimezone(ZoneInfo(zone)):%Y-%m-%dT%H:%M}"


def _left_out(calendar: Any, raw: bytes) -> list[str]:
    """What of a calendar no schedule can say, with the line on which it stands."""
    lines = raw.decode("utf-8", "replace").splitlines()
    left_out = []
    for name, words in (
        ("VTODO", "a task"),
        ("VJOURNAL", "a journal entry"),
        ("VFREEBUSY", "free and busy times"),
    ):
        if not calendar.walk(name):
            continue
        at = next((n for n, line in enumerate(lines, 1) if line.strip() == f"BEGIN:{name}"), 0)
        left_out.append(f"line {at}: {words} is no span of time; it was left out")
    for event in calendar.walk("VEVENT"):
        rule = event.get("RRULE")
        short = rule is not None and str(rule.get("FREQ", [""])[0]) in ("SECONDLY", "MINUTELY")
        if short:
            text = f"FREQ={rule['FREQ'][0]}"
            at = next((n for n, line in enumerate(lines, 1) if text in line), 0)
            raise InputError(
                f"calendar, line {at}",
                got=text,
                allowed="what repeats hourly or more seldom",
                fix="Write it as moments of the day.",
            )
    return left_out


YEARS_OUT = 3  # dates that are left out every year are written for so many


def ics_of(schedule: Schedule, *, zone: str, first: date) -> bytes:
    """A schedule as a calendar: windows weekly from a day on, dates once, exceptions left out.

    Raises `InputError` for a window that follows the sun, which no calendar can say.
    """
    from icalendar import Calendar  # noqa: PLC0415

    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    out = {date.fromisoformat(day) for day in schedule.except_dates}
    later = (first + timedelta(days=n) for n in range(YEARS_OUT * 366))
    out |= {day for day in later if any(span.holds(day) for span in schedule.except_spans)}
    for index, window in enumerate(schedule.windows):
        calendar.add_component(_weekly(schedule, index, window, zone, first, out))
    for index, span in enumerate(schedule.dates):
        if date.fromisoformat(span.start[:10]) not in out:
            ends = [_moment(text[:10], text[11:], zone) for text in (span.start, span.end)]
            calendar.add_component(_event(schedule, f"date-{index}", *ends))
    for index, group in enumerate(schedule.moments):
        for time in group.at:
            start = _next_day(first, group.days)
            begins = _moment(start.isoformat(), time, zone)
            ends_at = begins + timedelta(seconds=schedule.for_s)
            event = _event(schedule, f"moment-{index}-{time}", begins, ends_at)
            event.add("rrule", _rule(group.days))
            _except(event, out, time, zone)
            calendar.add_component(event)
    return bytes(calendar.to_ical())


def _weekly(
    schedule: Schedule, index: int, window: Window, zone: str, first: date, out: set[date]
) -> "Event":
    if isinstance(window.start, SunEdge) or isinstance(window.end, SunEdge):
        raise InputError(
            f"window {index + 1}",
            got="an edge that follows the sun",
            allowed="times of the day, for a calendar knows no sun",
            fix="Give it times of the day, or hand on the plan itself.",
        )
    day = _next_day(first, window.days)
    begins = _moment(day.isoformat(), window.start, zone)
    ends = _moment(day.isoformat(), window.end, zone)
    if ends <= begins:
        ends = _moment((day + timedelta(days=1)).isoformat(), window.end, zone)
    event = _event(schedule, f"window-{index}", begins, ends)
    event.add("rrule", _rule(window.days))
    _except(event, out, window.start, zone)
    return event


def _event(schedule: Schedule, key: str, begins: datetime, ends: datetime) -> "Event":
    from icalendar import Event  # noqa: PLC0415

    event = Event()
    event.add("uid", f"{schedule.id}-{key}")
    event.add("summary", schedule.name)
    event.add("dtstamp", datetime(2000, 1, 1, tzinfo=UTC))  # of no meaning; the same every time
    event.add("dtstart", begins)
    event.add("dtend", ends)
    return event


def _rule(days: tuple[str, ...]) -> dict[str, Any]:
    return {"freq": "weekly", "byday": [SHORT_DAYS[EVERY_DAY.index(day)] for day in days]}


def _except(event: "Event", out: set[date], time: str, zone: str) -> None:
    for day in sorted(out):
        event.add("exdate", _moment(day.isoformat(), time, zone))


def _next_day(first: date, days: tuple[str, ...]) -> date:
    for ahead in range(7):
        day = first + timedelta(days=ahead)
        if EVERY_DAY[day.weekday()] in days:
            return day
    return first


def _moment(day: str, time: str, zone: str) -> datetime:
    if time == "24:00":
        return _moment((date.fromisoformat(day) + timedelta(days=1)).isoformat(), "00:00", zone)
    return datetime.fromisoformat(f"{day}T{time}").replace(tzinfo=ZoneInfo(zone))
