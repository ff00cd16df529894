"""Sections 11 and 12: the sun, weekly windows, local times over clock changes."""

from datetime import date, datetime, timedelta

import pytest
from tests.reference_cases.cases import adaptor, given

from aldea.core.base.errors import PlanError
from aldea.core.base.instants import local, ms_of, ms_of_local
from aldea.core.engine.calendar import sun_edges_ms, window_spans
from aldea.core.plan.document import House
from aldea.core.plan.schedules import EVERY_DAY, Schedule, Window
from aldea.formats.calendar_ics import dates_of_ics

SHORT = dict(zip(("MO", "TU", "WE", "TH", "FR", "SA", "SU"), EVERY_DAY, strict=True))


def instant(text):
    return ms_of(datetime.fromisoformat(text))


def utc(t_ms):
    return f"{local(t_ms, 'UTC'):%Y-%m-%dT%H:%M:%SZ}"


@adaptor("sun")
def sun(case):
    house = House(
        name="case",
        time_zone=given(case, "time_zone"),
        latitude_deg=float(given(case, "latitude")),
        longitude_deg=float(given(case, "longitude")),
    )
    found = sun_edges_ms(house, date.fromisoformat(given(case, "local_date")))
    for key in ("sunrise", "sunset"):
        row = case["expected"].get(key)
        if row is None or row["value"] is None:
            assert key not in found
            continue
        off_s = abs(found[key] - instant(row["value"])) / 1000
        assert off_s <= row["tol_seconds"], f"{key}: {utc(found[key])}, {off_s:.0f} s off"


@adaptor("windows")
def windows(case):
    zone = given(case, "time_zone")
    first, last = (
        ms_of_local(datetime.fromisoformat(given(case, key)), zone)
        for key in ("from_local", "to_local")
    )
    schedule = Schedule(
        id="s",
        name="s",
        windows=tuple(
            Window(
                days=tuple(SHORT[day] for day in row["days"]), start=row["start"], end=row["end"]
            )
            for row in given(case, "windows")
        ),
    )
    day = date.fromisoformat(given(case, "from_local")[:10]) - timedelta(days=2)
    days = [day + timedelta(days=n) for n in range((last - first) // 86_400_000 + 5)]
    spans = window_spans(schedule, House(name="case", time_zone=zone), days, zone)
    assert any(a <= first < b for a, b in spans) == case["expected"]["state_at_start"]["value"]
    edges = sorted([(a, "on") for a, _ in spans] + [(b, "off") for _, b in spans])
    told = [[utc(t), state] for t, state in edges if first < t < last]
    wanted = [
        row for row in case["expected"]["transitions_utc"]["value"] if instant(row[0]) != first
    ]
    assert told == wanted


@adaptor("local")
def local_time(case):
    row = case["expected"]["utc"]["value"]
    moment = datetime.fromisoformat(given(case, "local"))
    assert utc(ms_of_local(moment, given(case, "time_zone"))) == row


@adaptor("duration")
def duration(case):
    zone = given(case, "time_zone")
    start = ms_of_local(datetime.fromisoformat(given(case, "start_local")), zone)
    elapsed = case["expected"]["elapsed_seconds"]["value"]
    assert utc(start + elapsed * 1000) == case["expected"]["end_utc"]["value"]


def test_the_sun_needs_a_place():
    with pytest.raises(PlanError, match="latitude"):
        sun_edges_ms(House(name="nowhere", time_zone="UTC"), date(2026, 1, 1))


@adaptor("rrule")
def recurrence(case):
    """By the library, which moves what falls into a spring gap: the second list."""
    zone, begins = given(case, "time_zone"), given(case, "dtstart_local")

    def stamp(text):
        return f"{datetime.fromisoformat(text):%Y%m%dT%H%M%S}"

    lines = [
        "BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//x//y//EN", "BEGIN:VEVENT", "UID:1",
        "DTSTAMP:20000101T000000Z", f"DTSTART;TZID={zone}:{stamp(begins)}", "DURATION:PT10M",
        f"RRULE:{given(case, 'rrule')}",
        *(f"EXDATE;TZID={zone}:{stamp(text)}" for text in given(case, "exdate_local")),
        *(f"RDATE;TZID={zone}:{stamp(text)}" for text in given(case, "rdate_local")),
        "END:VEVENT", "END:VCALENDAR",
    ]  # fmt: skip
    first = date.fromisoformat(begins[:10])
    end = given(case, "range_end_local")
    last = date.fromisoformat(end[:10]) if end else first + timedelta(days=400)
    spans, _ = dates_of_ics("\r\n".join(lines).encode(), zone=zone, first=first, last=last)
    starts = [ms_of_local(datetime.fromisoformat(span.start), zone) for span in spans]
    until = ms_of_local(datetime.fromisoformat(end), zone) if end else None
    told = [utc(t) for t in starts if until is None or t < until]
    assert told == case["expected"]["instants_utc_if_gap_is_shifted"]["value"]
