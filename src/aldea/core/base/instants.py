"""Instants and spans in words, in the house's own time zone."""

import zoneinfo
from datetime import UTC, datetime, timedelta
from functools import cache, lru_cache
from zoneinfo import ZoneInfo

MS_PER_MINUTE = 60_000
MS_PER_HOUR = 60 * MS_PER_MINUTE
MS_PER_DAY = 24 * MS_PER_HOUR

# The pinned tzdata alone: the machine's own tables may be older, or name other zones.
zoneinfo.reset_tzpath(to=())

EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


NO_PLACE = frozenset({"Factory", "localtime", "posixrules"})  # in the database, and nowhere


@cache
def known_zones() -> frozenset[str]:
    """Every zone of the IANA time zone database that a place is in, as the pinned tzdata has it."""
    return frozenset(zoneinfo.available_timezones()) - NO_PLACE


@lru_cache(maxsize=256)
def offsets(start_ms: int, end_ms: int, zone: str) -> tuple[tuple[int, int], ...]:
    """From when the clock of a zone is how many minutes before UTC's, over a span: (ms, minutes).

    The first is that of the start; each change of the clock adds one, to the minute.
    """
    rows = [(start_ms, _offset_min(start_ms, zone))]
    at_ms = start_ms
    while at_ms < end_ms:
        next_ms = min(at_ms + MS_PER_DAY, end_ms)
        if _offset_min(next_ms, zone) != rows[-1][1]:
            low, high = at_ms, next_ms
            while high - low > MS_PER_MINUTE:
                middle = (low + high) // 2
                low, high = (
                    (middle, high) if _offset_min(middle, zone) == rows[-1][1] else (low, middle)
                )
            # Clocks change at whole minutes: the one in (low, high].
            rows.append((high // MS_PER_MINUTE * MS_PER_MINUTE, _offset_min(high, zone)))
        at_ms = next_ms
    return tuple(rows)


def _offset_min(t_ms: int, zone: str) -> int:
    shift = local(t_ms, zone).utcoffset() or timedelta()
    return round(shift.total_seconds() / 60)


def local(t_ms: int, zone: str) -> datetime:
    """An instant in a zone."""
    return (EPOCH + timedelta(milliseconds=t_ms)).astimezone(ZoneInfo(zone))


def ms_of(moment: datetime) -> int:
    """UTC epoch milliseconds of an aware moment."""
    return (moment - EPOCH) // timedelta(milliseconds=1)


def ms_of_local(moment: datetime, zone: str) -> int:
    """UTC epoch milliseconds of a wall-clock time (RFC 5545 §3.3.5).

    A time in the spring gap uses the offset before the gap, a repeated time is its first.
    """
    return ms_of(moment.replace(tzinfo=ZoneInfo(zone), fold=0).astimezone(UTC))


def clock(t_ms: int, zone: str) -> str:
    """`10:16`, with seconds where there are any."""
    moment = local(t_ms, zone)
    return f"{moment:%H:%M:%S}" if moment.second else f"{moment:%H:%M}"


def day_clock(t_ms: int, zone: str) -> str:
    """`Thu 13 Nov 10:16`."""
    moment = local(t_ms, zone)
    return f"{moment:%a} {moment.day} {moment:%b} {clock(t_ms, zone)}"


@lru_cache(maxsize=65_536)
def near(t_ms: int, other_ms: int, zone: str) -> str:
    """The clock where both are on one local day, else day and clock."""
    same = local(t_ms, zone).date() == local(other_ms, zone).date()
    return clock(t_ms, zone) if same else day_clock(t_ms, zone)


def stamp(t_ms: int, zone: str) -> str:
    """`13 Nov 2025, 19:42` for records."""
    moment = local(t_ms, zone)
    return f"{moment.day} {moment:%b %Y, %H:%M}"


def duration(seconds: float) -> str:
    """A duration exactly, as a rule states it: `45 s`, `0.25 s`, `10 min 30 s`, `1 d 2 h 1 s`."""
    if seconds < 120 or seconds != round(seconds):
        return f"{seconds:.10g} s"
    rest, parts = round(seconds), []
    for size, unit in ((86_400, "d"), (3600, "h"), (60, "min"), (1, "s")):
        count, rest = divmod(rest, size)
        if count:
            parts.append(f"{count} {unit}")
    return " ".join(parts)


def span(seconds: float) -> str:
    """`45 s`, `12 min`, `2 h 5 min`, `3 d 4 h`."""
    whole = round(seconds)
    if whole < 120:
        return f"{whole} s"
    minutes, rest_s = divmod(whole, 60)
    if minutes < 120:
        return f"{minutes} min {rest_s} s" if rest_s and minutes < 10 else f"{minutes} min"
    hours, rest_min = divmod(round(whole / 60), 60)
    if hours < 48:
        return f"{hours} h {rest_min} min" if rest_min else f"{hours} h"
    days, rest_h = divmod(hours, 24)
    return f"{days} d {rest_h} h" if rest_h else f"{days} d"
