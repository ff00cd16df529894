"""Schedules of the house, in its own time: weekly windows, dates, moments of the day."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Name, Part, text_of

Day = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
EVERY_DAY: tuple[Day, ...] = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
TimeOfDay = Annotated[
    str, text_of(r"^([01][0-9]|2[0-3]):[0-5][0-9]$|^24:00$", "a time of the day, as 07:30")
]
LocalTime = Annotated[
    str,
    text_of(
        r"^\d{4}-\d{2}-\d{2}T([01][0-9]|2[0-3]):[0-5][0-9]$",
        "a day and a time, as 2025-12-24T01:30",
    ),
]
LocalDate = Annotated[str, text_of(r"^\d{4}-\d{2}-\d{2}$", "a date, as 2025-12-24")]
Days = Annotated[tuple[Day, ...], Field(min_length=1, max_length=7)]


class SunEdge(Part):
    """An edge of a window at sunrise or sunset, with an offset in minutes."""

    at: Literal["sunrise", "sunset"]
    offset_min: Annotated[float, Field(ge=-720, le=720)] = 0.0


class Window(Part):
    """On some days of the week from one time to another; past midnight where that is earlier."""

    days: Days = EVERY_DAY
    start: TimeOfDay | SunEdge
    end: TimeOfDay | SunEdge


class DateSpan(Part):
    """Once, from a local time to another."""

    start: LocalTime
    end: LocalTime


class Moments(Part):
    """At times of some days, each for a while; it may begin late, and still ends on time."""

    days: Days = EVERY_DAY
    at: Annotated[tuple[TimeOfDay, ...], Field(min_length=1, max_length=96)]


class DaysOut(Part):
    """Dates on which nothing of a schedule happens, both ends among them; once, or every year.

    Every year only month and day count; one that ends before it begins passes the new year.
    """

    first: LocalDate
    last: LocalDate
    yearly: bool = False

    def holds(self, day: date) -> bool:
        """Whether a date is among them."""
        if not self.yearly:
            return self.first <= day.isoformat() <= self.last
        first, last, here = self.first[5:], self.last[5:], day.isoformat()[5:]
        return first <= here <= last if first <= last else here >= first or here <= last


class Schedule(Part):
    """When something is wanted; what it says while the clock is not known.

    Windows and dates last from edge to edge. Moments last `for_s` each, once each. Nothing of it
    happens on an excepted date (a window belongs to the date on which it begins).
    """

    id: Identifier
    name: Name
    windows: Annotated[tuple[Window, ...], Field(max_length=100)] = ()
    dates: Annotated[tuple[DateSpan, ...], Field(max_length=2000)] = ()
    moments: Annotated[tuple[Moments, ...], Field(max_length=50)] = ()
    for_s: Annotated[float, Field(gt=0, le=86_400)] = 60.0
    except_dates: Annotated[tuple[LocalDate, ...], Field(max_length=1000)] = ()
    except_spans: Annotated[tuple[DaysOut, ...], Field(max_length=200)] = ()
    when_clock_unknown: bool = False
    catch_up: bool | None = None

    def is_out(self, day: date) -> bool:
        """Whether nothing of it happens on a date."""
        return day.isoformat() in self.except_dates or any(s.holds(day) for s in self.except_spans)
