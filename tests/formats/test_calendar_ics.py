"""iCalendar: what goes out comes back as the same spans; what cannot be said is refused."""

from datetime import date, timedelta

import pytest

from aldea.core.base.errors import InputError
from aldea.core.engine.calendar import moments_ms, window_spans
from aldea.core.plan.document import House
from aldea.core.plan.schedules import DateSpan, Moments, Schedule, SunEdge, Window
from aldea.formats.calendar_ics import MOST_BYTES, dates_of_ics, ics_of

ZONE = "Europe/Madrid"
HOUSE = House(name="Test", time_zone=ZONE)
FIRST, LAST = date(2026, 3, 23), date(2026, 4, 12)  # over the change of 29 March
DAYS = [FIRST + timedelta(days=n) for n in range((LAST - FIRST).days + 1)]
NIGHT = Schedule(
    id="night",
    name="Night, and the workshop",
    windows=(Window(days=("mon", "fri", "sun"), start="22:00", end="06:30"),),
    dates=(DateSpan(start="2026-03-28T23:00", end="2026-03-29T04:00"),),
    except_dates=("2026-04-05",),
)


def test_what_goes_out_comes_back_as_the_same_spans():
    dates, left_out = dates_of_ics(
        ics_of(NIGHT, zone=ZONE, first=FIRST), zone=ZONE, first=FIRST, last=LAST
    )
    back = Schedule(id="back", name="back", dates=dates)
    assert window_spans(back, HOUSE, DAYS, ZONE) == window_spans(NIGHT, HOUSE, DAYS, ZONE)
    assert not left_out
    assert not any(span.start.startswith("2026-04-05") for span in dates)


def test_moments_go_out_as_events_of_their_length():
    kettle = Schedule(id="k", name="k", moments=(Moments(days=("tue",), at=("07:15",)),), for_s=600)
    dates, _ = dates_of_ics(
        ics_of(kettle, zone=ZONE, first=FIRST), zone=ZONE, first=FIRST, last=LAST
    )
    starts = [a for a, _ in window_spans(Schedule(id="b", name="b", dates=dates), HOUSE, [], ZONE)]
    assert starts == moments_ms(kettle, DAYS, ZONE)
    assert {span.end[11:] for span in dates} == {"07:25"}


def ics(*lines):
    body = ("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//x//y//EN", *lines, "END:VCALENDAR")
    return "\r\n".join(body).encode()


def event(*lines):
    return ("BEGIN:VEVENT", "UID:1", "DTSTAMP:20260101T000000Z", *lines, "END:VEVENT")


def test_a_day_without_a_time_lasts_from_midnight_to_midnight():
    raw = ics(*event("DTSTART;VALUE=DATE:20260401", "DTEND;VALUE=DATE:20260402"))
    dates, _ = dates_of_ics(raw, zone=ZONE, first=FIRST, last=LAST)
    assert dates == (DateSpan(start="2026-04-01T00:00", end="2026-04-02T00:00"),)


def test_a_time_in_utc_is_told_by_the_house_clock():
    raw = ics(*event("DTSTART:20260401T200000Z", "DTEND:20260401T203000Z"))
    dates, _ = dates_of_ics(raw, zone=ZONE, first=FIRST, last=LAST)
    assert dates == (DateSpan(start="2026-04-01T22:00", end="2026-04-01T22:30"),)


def test_a_task_is_left_out_and_said_with_its_line():
    raw = ics("BEGIN:VTODO", "UID:2", "DTSTAMP:20260101T000000Z", "SUMMARY:wash", "END:VTODO")
    dates, left_out = dates_of_ics(raw, zone=ZONE, first=FIRST, last=LAST)
    assert dates == ()
    assert left_out == ("line 4: a task is no span of time; it was left out",)


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (b"x" * (MOST_BYTES + 1), "up to 2 MB"),
        (b"not a calendar", "an iCalendar file"),
        (ics(*event("DTSTART:20260401T200000Z", "DTEND:20260401T200030Z",
                    "RRULE:FREQ=MINUTELY")), "line 9"),
        (ics(*event("DTSTART:20260323T000000Z", "DTEND:20260323T001000Z",
                    "RRULE:FREQ=HOURLY;INTERVAL=1")), "up to 2000"),
    ],
)  # fmt: skip
def test_what_cannot_be_taken_is_refused_with_the_fix(raw, words):
    last = date(2027, 12, 31)
    with pytest.raises(InputError, match=words):
        dates_of_ics(raw, zone=ZONE, first=FIRST, last=last)


def test_the_sun_goes_into_no_calendar():
    dusk = Schedule(id="d", name="d", windows=(Window(start=SunEdge(at="sunset"), end="23:00"),))
    with pytest.raises(InputError, match="sun"):
        ics_of(dusk, zone=ZONE, first=FIRST)
