"""Windows by wall time over the clock changes of twelve zones, against a walk minute by minute.

The walk knows zones only as “what does the wall show at this minute”. A time that the wall never
shows (in the gap) stands for the instant that it would be by the clock of before; one that it shows
twice for the first.
"""

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.engine.calendar import sun_edges_ms, sun_is_up, window_spans
from aldea.core.plan.document import House
from aldea.core.plan.schedules import EVERY_DAY, Schedule, SunEdge, Window

MINUTE = 60_000
# each with a day on which its clock turns
ZONES = {
    "Europe/Madrid": (date(2026, 3, 29), date(2026, 10, 25)),
    "Europe/London": (date(2026, 3, 29), date(2026, 10, 25)),
    "America/New_York": (date(2026, 3, 8), date(2026, 11, 1)),
    "America/Santiago": (date(2026, 9, 6), date(2026, 4, 5)),
    "America/St_Johns": (date(2026, 3, 8), date(2026, 11, 1)),
    "Australia/Lord_Howe": (date(2026, 10, 4), date(2026, 4, 5)),
    "Australia/Sydney": (date(2026, 10, 4), date(2026, 4, 5)),
    "Pacific/Auckland": (date(2026, 9, 27), date(2026, 4, 5)),
    "Africa/Casablanca": (date(2026, 3, 22), date(2026, 2, 15)),
    "Asia/Beirut": (date(2026, 3, 29), date(2026, 10, 25)),
    "America/Havana": (date(2026, 3, 8), date(2026, 11, 1)),
    "Asia/Kathmandu": (date(2026, 3, 29), date(2026, 10, 25)),
}


def wall_of(first: date, days: int, zone: str) -> list[tuple[int, datetime]]:
    """Each minute of UTC over some days, and what the wall shows then."""
    start = datetime(first.year, first.month, first.day, tzinfo=UTC) - timedelta(days=1)
    steps = (start + timedelta(minutes=n) for n in range((days + 2) * 1440))
    place = ZoneInfo(zone)
    return [
        (round(at.timestamp() * 1000), at.astimezone(place).replace(tzinfo=None)) for at in steps
    ]


def shown_at(wall: list[tuple[int, datetime]], wanted: datetime) -> int:
    """When the wall shows a time first; in a gap by the clock of before."""
    for at_ms, shows in wall:
        if shows == wanted:
            return at_ms
    before_ms, before = max((row for row in wall if row[1] < wanted), key=lambda row: row[0])
    # the last minute before the gap may be followed by earlier walls: take the one next to the gap
    for (at_ms, shows), (_, after) in pairwise(wall):
        if shows < wanted < after:
            before_ms, before = at_ms, shows
    return before_ms + round((wanted - before).total_seconds() * 1000)


def walked(window: Window, first: date, days: int, zone: str) -> set[int]:
    """The minutes on which a window holds."""
    wall = wall_of(first, days, zone)
    held: set[int] = set()
    for n in range(days):
        day = first + timedelta(days=n)
        if EVERY_DAY[day.weekday()] not in window.days:
            continue
        start, end = (wall_time(day, str(edge)) for edge in (window.start, window.end))
        if end <= start:
            end += timedelta(days=1)
        from_ms, to_ms = shown_at(wall, start), shown_at(wall, end)
        held.update(range(from_ms, to_ms, MINUTE))
    return held


def wall_time(day: date, text: str) -> datetime:
    hours, minutes = (int(part) for part in text.split(":"))
    return datetime(day.year, day.month, day.day) + timedelta(hours=hours, minutes=minutes)  # noqa: DTZ001


def minutes_of(window: Window, first: date, days: int, zone: str) -> set[int]:
    schedule = Schedule(id="s", name="S", windows=(window,))
    house = House(name="X", time_zone=zone)
    spans = window_spans(schedule, house, [first + timedelta(days=n) for n in range(days)], zone)
    return {at for start, end in spans for at in range(start, end, MINUTE)}


TIMES = st.builds(
    lambda h, m: f"{h:02}:{m:02}", st.integers(0, 4), st.sampled_from([0, 10, 30, 45])
)
ANY_TIME = st.one_of(TIMES, st.sampled_from(["12:00", "23:00", "23:45"]))


@pytest.mark.parametrize("zone", list(ZONES))
@settings(max_examples=12, deadline=None)
@given(start=ANY_TIME, end=ANY_TIME, turn=st.sampled_from([0, 1]))
def test_a_window_holds_on_the_minutes_that_a_walk_finds(zone, start, end, turn):
    window = Window(start=start, end=end)
    first = ZONES[zone][turn] - timedelta(days=1)
    assert minutes_of(window, first, 3, zone) == walked(window, first, 3, zone)


@pytest.mark.parametrize(
    ("zone", "day", "start", "end", "hours"),
    [
        ("Europe/Madrid", date(2026, 3, 29), "02:30", "03:10", 0.0),
        ("Europe/Madrid", date(2026, 3, 29), "02:45", "03:00", 0.0),
        ("America/New_York", date(2026, 3, 8), "02:30", "03:10", 0.0),
        ("America/Santiago", date(2026, 9, 6), "00:30", "01:10", 0.0),
        ("Australia/Lord_Howe", date(2026, 10, 4), "02:15", "02:40", 0.0),
        ("Europe/Madrid", date(2026, 3, 29), "01:30", "03:30", 1.0),
        ("Europe/Madrid", date(2026, 10, 25), "01:30", "03:30", 3.0),
    ],
)
def test_a_short_window_never_lasts_a_day(zone, day, start, end, hours):
    """2.30 to 3.10 on the night of the change was 23.7 h; the day after was swallowed."""
    held = minutes_of(Window(start=start, end=end), day, 1, zone)
    assert len(held) / 60 == pytest.approx(hours)


def edges(latitude: float, longitude: float, zone: str, day: date) -> dict[str, int]:
    house = House(name="X", time_zone=zone, latitude_deg=latitude, longitude_deg=longitude)
    return sun_edges_ms(house, day)


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone", "day"),
    [
        (27.7, 85.3, "Asia/Kathmandu", date(2026, 3, 20)),
        (27.7, 85.3, "Asia/Kathmandu", date(2026, 4, 10)),
        (61.0, 25.0, "Europe/Helsinki", date(2026, 6, 21)),
        (64.1, -21.9, "Atlantic/Reykjavik", date(2026, 6, 1)),
    ],
)
def test_the_sun_rises_and_sets_where_twilight_is_not_found(latitude, longitude, zone, day):
    assert set(edges(latitude, longitude, zone, day)) == {"sunrise", "sunset"}


@pytest.mark.parametrize(
    "zone", ["Asia/Kathmandu", "Asia/Shanghai", "Europe/Moscow", "Pacific/Kiritimati"]
)
def test_every_day_of_a_year_has_one_sunrise_and_one_sunset_between_which_is_noon(zone):
    """Where people live by a clock that is far from the sun's, too; no day is missed or doubled."""
    latitude, longitude = {
        "Asia/Kathmandu": (27.7, 85.3),
        "Asia/Shanghai": (39.5, 76.0),
        "Europe/Moscow": (58.0, 40.0),
        "Pacific/Kiritimati": (1.9, -157.4),
    }[zone]
    found = [edges(latitude, longitude, zone, day) for day in days_of(2026)]
    assert all(set(day) == {"sunrise", "sunset"} for day in found)
    order = [at for day in found for at in (day["sunrise"], day["sunset"])]
    assert order == sorted(order)
    assert max(b - a for a, b in pairwise(order)) < 18.5 * 3_600_000


def test_a_day_without_night_and_one_without_day_are_told():
    north = House(name="X", time_zone="Europe/Oslo", latitude_deg=71.0, longitude_deg=25.8)
    for day, up in ((date(2026, 6, 21), True), (date(2026, 12, 21), False)):
        assert sun_edges_ms(north, day) == {}
        noon = datetime(day.year, day.month, day.day, 11, tzinfo=UTC)
        midnight = noon - timedelta(hours=11)
        assert sun_is_up(north, round(noon.timestamp() * 1000)) is up
        assert sun_is_up(north, round(midnight.timestamp() * 1000)) is up


def days_of(year: int) -> Iterator[date]:
    day = date(year, 1, 1)
    while day.year == year:
        yield day
        day += timedelta(days=1)


@pytest.mark.parametrize(
    ("start", "end", "most_h"),
    [
        (SunEdge(at="sunset"), "23:00", 8.0),
        (SunEdge(at="sunset"), SunEdge(at="sunrise"), 19.0),
        ("22:00", SunEdge(at="sunrise"), 12.0),
        ("05:00", SunEdge(at="sunrise"), 5.0),
        (SunEdge(at="sunset"), "13:00", 22.0),
    ],
)
def test_a_window_beside_the_sun_never_lasts_longer_than_a_night(start, end, most_h):
    """At 60.2° N sunset comes after 22:50 in June: until 23:00 is minutes, and never a day."""
    house = House(name="X", time_zone="Europe/Helsinki", latitude_deg=60.2, longitude_deg=24.9)
    schedule = Schedule(id="s", name="S", windows=(Window(start=start, end=end),))
    spans = window_spans(schedule, house, list(days_of(2026)), "Europe/Helsinki")
    assert spans
    assert max(b - a for a, b in spans) / 3_600_000 <= most_h
