"""Schedules, resets and the sun of a plan as instants, for the days of one run.

Clock changes follow RFC 5545 §3.3.5: a time in the spring gap uses the offset before the gap, a
repeated time is its first occurrence. So each edge happens exactly once.
"""

from collections.abc import Iterator, Sequence
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from astral import Observer, SunDirection
from astral.sun import SUN_APPARENT_RADIUS, elevation, noon, time_of_transit

from aldea.core.base.instants import ms_of, ms_of_local
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.compiling.names import ms
from aldea.core.engine.tables.people import CATCH_UP_ABSENT, ResetSpec, ScheduleSpec, SunSpec
from aldea.core.engine.tables.rows import I8, I64, cells_of, table_of
from aldea.core.engine.tables.run import CalendarTables
from aldea.core.plan.check_rules import no_place
from aldea.core.plan.document import House, Plan
from aldea.core.plan.schedules import EVERY_DAY, Schedule, SunEdge, Window

HOURS_A_DAY = 24
NO_SUNRISE_AFTER_MIN, NO_SUNSET_BEFORE_MIN = 600, 900  # 10:00 and 15:00, where people live
SUN_EDGE_DEG = -50 / 60  # where its upper rim touches a sea-level horizon
MARGIN_DAYS = 2  # a window of the day before may still last; an offset may reach into it


def instant_ms(day: date, time: str, zone: str) -> int:
    """The instant of a local time of a day; 24:00 is the next midnight."""
    hours, minutes = (int(part) for part in time.split(":"))
    if hours == HOURS_A_DAY:
        day, hours = day + timedelta(days=1), 0
    local = datetime(day.year, day.month, day.day, hours, minutes)  # noqa: DTZ001  of a wall clock
    return ms_of_local(local, zone)


def sun_edges_ms(house: House, day: date) -> dict[str, int]:
    """Sunrise and sunset of a solar day, by UTC; one that does not happen is left out.

    Geometric altitude of −50′ at a sea-level horizon; the solar day is the one whose noon is on
    the local date.
    """
    if house.latitude_deg is None or house.longitude_deg is None:
        raise no_place()
    return dict(_sun_edges(house.latitude_deg, house.longitude_deg, house.time_zone, day))


@lru_cache(maxsize=8192)
def _sun_edges(
    latitude_deg: float, longitude_deg: float, zone: str, day: date
) -> tuple[tuple[str, int], ...]:
    observer = Observer(latitude=latitude_deg, longitude=longitude_deg)
    around = (day + timedelta(days=n) for n in (-1, 0, 1))
    solar = next(
        at for at in around if noon(observer, date=at).astimezone(ZoneInfo(zone)).date() == day
    )
    middle = noon(observer, date=solar)
    rises, sets = _before_noon(observer, solar), _from_noon(observer, solar, SunDirection.SETTING)
    edges = []
    # Each by itself: where one does not happen, or twilight does not, the other still may.
    if rises is not None:
        edges.append(("sunrise", ms_of(middle + rises)))
    if sets is not None:
        edges.append(("sunset", ms_of(middle + sets)))
    return tuple(edges)


def _from_noon(observer: Observer, day: date, direction: SunDirection) -> timedelta | None:
    """How long after noon the sun passes the horizon, as the library gives it; None where never."""
    try:
        at = time_of_transit(observer, day, 90.0 + SUN_APPARENT_RADIUS, direction)
    except ValueError:  # it stays on one side of the horizon
        return None
    return at - noon(observer, date=day)


def _before_noon(observer: Observer, day: date) -> timedelta | None:
    """Sunrise from noon, a negative time.

    The library folds a sunrise that falls before midnight UTC into the day's end and computes it
    for a day too late: the mean of that one and the day before is right within seconds.
    """
    here = _from_noon(observer, day, SunDirection.RISING)
    if here is None or here <= timedelta(0):
        return here
    folded = here - timedelta(days=1)
    before = _from_noon(observer, day - timedelta(days=1), SunDirection.RISING)
    if before is None or before > timedelta(0):
        return folded
    return (before + folded) / 2


def sun_is_up(house: House, at_ms: int) -> bool:
    """Whether the sun stands above −50′ at an instant: where it neither rises nor sets."""
    if house.latitude_deg is None or house.longitude_deg is None:
        raise no_place()
    observer = Observer(latitude=house.latitude_deg, longitude=house.longitude_deg)
    return bool(elevation(observer, datetime.fromtimestamp(at_ms / 1000, UTC)) > SUN_EDGE_DEG)


def days_between(start_ms: int, end_ms: int, zone: str) -> Iterator[date]:
    """The local dates of a span, with a margin on either side."""
    first = datetime.fromtimestamp(start_ms / 1000, UTC).astimezone(ZoneInfo(zone)).date()
    last = datetime.fromtimestamp(end_ms / 1000, UTC).astimezone(ZoneInfo(zone)).date()
    day = first - timedelta(days=MARGIN_DAYS)
    while day <= last + timedelta(days=MARGIN_DAYS):
        yield day
        day += timedelta(days=1)


def _edge_ms(edge: str | SunEdge, day: date, house: House, zone: str) -> int | None:
    if isinstance(edge, str):
        return instant_ms(day, edge, zone)
    at = sun_edges_ms(house, day).get(edge.at)
    return None if at is None else at + ms(edge.offset_min * 60)


def passes_midnight(window: Window) -> bool:
    """Whether a window ends on the day after it began: told by the clock, never by instants.

    On a day on which the clock changes its end may fall before its start: nothing happens then
    (RFC 5545). From sunset until a time that no sunset comes before, and until sunrise from a time
    that no sunrise comes after, it is the next day; other ends beside the sun are of the same day,
    and on one on which they come before the start nothing happens.
    """
    start, end = window.start, window.end
    if isinstance(start, SunEdge) and isinstance(end, SunEdge):
        same = start.at == end.at
        return end.offset_min <= start.offset_min if same else start.at == "sunset"
    if isinstance(start, SunEdge):
        return start.at == "sunset" and _clock_min(str(end)) < NO_SUNSET_BEFORE_MIN
    if isinstance(end, SunEdge):
        return end.at == "sunrise" and _clock_min(start) >= NO_SUNRISE_AFTER_MIN
    return _clock_min(end) <= _clock_min(start)


def _clock_min(time: str) -> int:
    hours, minutes = time.split(":")
    return int(hours) * 60 + int(minutes)


def window_spans(
    schedule: Schedule, house: House, days: Sequence[date], zone: str
) -> list[list[int]]:
    """The spans of a schedule's windows and dates, apart and in order."""
    spans: list[list[int]] = []
    for day in days:
        if schedule.is_out(day):
            continue
        name = EVERY_DAY[day.weekday()]
        for window in schedule.windows:
            if name not in window.days:
                continue
            start = _edge_ms(window.start, day, house, zone)
            ends_on = day + timedelta(days=1) if passes_midnight(window) else day
            end = _edge_ms(window.end, ends_on, house, zone)
            if start is not None and end is not None and start < end:
                spans.append([start, end])
    for span in schedule.dates:
        first, last = (
            instant_ms(date.fromisoformat(edge[:10]), edge[11:], zone)
            for edge in (span.start, span.end)
        )
        if not schedule.is_out(date.fromisoformat(span.start[:10])) and first < last:
            spans.append([first, last])
    return merged(spans)


def merged(spans: list[list[int]]) -> list[list[int]]:
    """Spans joined where they touch or overlap, in order."""
    done: list[list[int]] = []
    for start, end in sorted(spans):
        if done and start <= done[-1][1]:
            done[-1][1] = max(done[-1][1], end)
        else:
            done.append([start, end])
    return done


def moments_ms(schedule: Schedule, days: Sequence[date], zone: str) -> list[int]:
    """The moments of a schedule, in order, each once."""
    instants = {
        instant_ms(day, time, zone)
        for day in days
        if not schedule.is_out(day)
        for group in schedule.moments
        if EVERY_DAY[day.weekday()] in group.days
        for time in group.at
    }
    return sorted(instants)


def calendar_of(compiled: CompiledPlan, start_ms: int, end_ms: int) -> CalendarTables:
    """The calendar of a compiled plan for a run; `PlanError` where the sun has no place."""
    plan = compiled.plan
    zone = plan.house.time_zone
    days = list(days_between(start_ms, end_ms, zone)) if _needs_days(compiled) else []
    schedules: list[ScheduleSpec] = []
    spans: list[list[int]] = []
    moments: list[int] = []
    for schedule in plan.schedules:
        first, moment = len(spans), len(moments)
        spans += window_spans(schedule, plan.house, days, zone)
        moments += moments_ms(schedule, days, zone)
        schedules.append(
            ScheduleSpec(
                first=first,
                end=len(spans),
                moment=moment,
                moment_end=len(moments),
                for_ms=ms(schedule.for_s),
                unknown=int(schedule.when_clock_unknown),
                catch_up=CATCH_UP_ABSENT if schedule.catch_up is None else int(schedule.catch_up),
            )
        )
    resets: list[ResetSpec] = []
    instants: list[int] = []
    for door in plan.doorways:
        first = len(instants)
        instants += sorted({instant_ms(day, at, zone) for day in days for at in door.reset_at})
        resets.append(ResetSpec(first=first, end=len(instants)))
    sun = sorted(_sun_instants(plan.house, days)) if compiled.sun else []
    up = compiled.sun and (sun[0][1] == 0 if sun else sun_is_up(plan.house, start_ms))
    return CalendarTables(
        schedules=table_of(ScheduleSpec, schedules),
        span_from_ms=cells_of(I64, [span[0] for span in spans]),
        span_to_ms=cells_of(I64, [span[1] for span in spans]),
        moment_ms=cells_of(I64, moments),
        suns=table_of(SunSpec, [SunSpec(first=0, end=len(sun), up=int(up))]),
        sun_ms=cells_of(I64, [at for at, _ in sun]),
        sun_up=cells_of(I8, [rises for _, rises in sun]),
        resets=table_of(ResetSpec, resets),
        reset_ms=cells_of(I64, instants),
    )


def _sun_instants(house: House, days: Sequence[date]) -> Iterator[tuple[int, int]]:
    """Each sunrise (1) and sunset (0) of some days."""
    for day in days:
        for key, at in sun_edges_ms(house, day).items():
            yield at, int(key == "sunrise")


def calendar_reads(compiled: CompiledPlan) -> tuple[object, ...]:
    """Everything of a plan that its calendar is made of; nothing where no day is looked at."""
    if not _needs_days(compiled):
        return ()
    house = compiled.plan.house
    where = (house.time_zone, house.latitude_deg, house.longitude_deg)
    return (*compiled.plan.schedules, where, tuple(d.reset_at for d in compiled.plan.doorways))


def _needs_days(compiled: CompiledPlan) -> bool:
    plan: Plan = compiled.plan
    return bool(compiled.sun or plan.schedules or any(door.reset_at for door in plan.doorways))
