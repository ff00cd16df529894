"""The overview of schedules: a strip for the days that are alike, with sentence and users.

A row is the day on which a window starts; it reaches to noon of the next day. Edges of windows that
are typed by hand can be dragged there.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from aldea.core.base.instants import MS_PER_DAY, local
from aldea.core.base.listing import listed
from aldea.core.plan.document import Plan
from aldea.core.plan.schedules import EVERY_DAY, Schedule
from aldea.core.rules.edges import spans_of
from aldea.core.words.schedules import days_words, hours_words, out_words
from aldea.web.benches.rule.schedule_form import alone, edge_text, used_by

AXIS_MIN = 36 * 60
PX_PER_MIN = 1 / 3  # of a strip that is 720 wide
SUN_MOVES_MIN = 25
LOOK_DAYS = 8
DAYS = 7
ROOMY_MIN = 5 * 60  # a bar with room for both times inside
LATE_MIN = 27 * 60  # beyond it times stand left of a bar
Minutes = tuple[tuple[int, int], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class StripBar:
    """A span on a strip that is 720 wide for 36 hours, with its times."""

    x: float
    width: float
    starts: str
    ends: str
    roomy: bool  # the times fit inside
    late: bool  # they stand left of it


@dataclass(frozen=True, slots=True, kw_only=True)
class StripEdge:
    """An edge of a window that can be dragged: its place, its field in the form, its text."""

    x: float
    minute: int
    field: str
    text: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StripRow:
    """Days on which a schedule does the same."""

    days: str
    today: bool
    bars: tuple[StripBar, ...]
    edges: tuple[StripEdge, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScheduleStrip:
    """A schedule in the overview."""

    id: str
    name: str
    hours: str
    special: str
    used: tuple[str, ...]
    state: str
    in_force: bool
    rows: tuple[StripRow, ...]


def schedule_strips(plan: Plan, at_ms: int) -> tuple[ScheduleStrip, ...]:
    """Every schedule of a plan for the seven days from an instant on."""
    return tuple(_strip(plan, schedule, at_ms) for schedule in plan.schedules)


def now_share(plan: Plan, at_ms: int) -> float:
    """Where an instant stands on the strip of its day, 720 wide."""
    now = local(at_ms, plan.house.time_zone)
    return round((now.hour * 60 + now.minute) * PX_PER_MIN, 1)


def next_edges_words(plan: Plan, at_ms: int) -> str:
    """The next two edges of schedules, in a sentence; empty where none comes within a week."""
    edges = sorted(
        (edge, row, begins)
        for row, schedule in enumerate(plan.schedules)
        for span in spans_of(plan, schedule, at_ms, at_ms + LOOK_DAYS * MS_PER_DAY)
        for edge, begins in zip(span, (True, False), strict=True)
        if edge > at_ms
    )[:2]
    words = [
        f"“{plan.schedules[row].name}” {'begins' if begins else 'ends'} {_when(plan, edge, at_ms)}"
        for edge, row, begins in edges
    ]
    return f"{listed(words)}." if words else ""


def _when(plan: Plan, edge_ms: int, at_ms: int) -> str:
    edge, now = (local(t_ms, plan.house.time_zone) for t_ms in (edge_ms, at_ms))
    return f"at {edge:%H:%M}" if edge.date() == now.date() else f"on {edge:%a} at {edge:%H:%M}"


def _strip(plan: Plan, schedule: Schedule, at_ms: int) -> ScheduleStrip:
    spans = spans_of(plan, schedule, at_ms - MS_PER_DAY, at_ms + LOOK_DAYS * MS_PER_DAY)
    current = next((span for span in spans if span[0] <= at_ms < span[1]), None)
    coming = next((span for span in spans if span[0] > at_ms), None)
    if current is not None:
        state = f"in force, ends {_when(plan, current[1], at_ms)}"
    elif coming is not None:
        state = f"begins {_when(plan, coming[0], at_ms)}"
    else:
        state = "not within a week"
    special = [f"{span.start.replace('T', ' ')} to {span.end.replace('T', ' ')}"
               for span in schedule.dates]  # fmt: skip
    outs = [*schedule.except_dates, *(out_words(days) for days in schedule.except_spans)]
    words = [f"Special dates: {listed(special)}."] if special else []
    words += [f"Not on {listed(outs)}."] if outs else []
    hours = hours_words(schedule)
    return ScheduleStrip(
        id=schedule.id,
        name=schedule.name,
        hours=f"{hours[:1].upper()}{hours[1:]}.",
        special=" ".join(words),
        used=used_by(plan, schedule.id),
        state=state,
        in_force=current is not None,
        rows=tuple(_rows(plan, schedule, spans, at_ms)),
    )


def _rows(plan: Plan, schedule: Schedule, spans: list[list[int]], at_ms: int) -> Iterator[StripRow]:
    """The seven days from now on, those alike in one row, in the order of the week."""
    zone = plan.house.time_zone
    today = local(at_ms, zone).date()
    alike: list[tuple[Minutes, list[date]]] = []
    for number in range(DAYS):
        day = today + timedelta(days=number)
        bars = tuple(_minutes(day, spans, zone))
        mine = next((days for other, days in alike if _same(bars, other)), None)
        if mine is None:
            alike.append((bars, [day]))
        else:
            mine.append(day)
    edges = list(_edges(plan, schedule, at_ms))
    for bars, days in sorted(alike, key=lambda row: min(d.weekday() for d in row[1])):
        if not bars and len(alike) > 1:
            continue
        names = {EVERY_DAY[day.weekday()] for day in days}
        starts = {start for start, _ in bars}
        yield StripRow(
            days=days_words([day for day in EVERY_DAY if day in names]).replace(" to ", "–"),
            today=today in days,
            bars=tuple(_bar(start, end) for start, end in bars),
            edges=tuple(edge for edge, day, start in edges if day in days[:1] and start in starts),
        )


def _same(bars: Minutes, others: Minutes) -> bool:
    """Whether two days are alike: the sun moves the edges of a week by a few minutes."""
    return len(bars) == len(others) and all(
        abs(one - other) <= SUN_MOVES_MIN
        for bar, its in zip(bars, others, strict=True)
        for one, other in zip(bar, its, strict=True)
    )


def _minutes(day: date, spans: list[list[int]], zone: str) -> Iterator[tuple[int, int]]:
    """The spans that start on a day, in minutes of the wall clock from its midnight."""
    for first, last in spans:
        start, end = local(first, zone), local(last, zone)
        if start.date() == day:
            after = (end.date() - day).days * 24 * 60
            yield start.hour * 60 + start.minute, after + end.hour * 60 + end.minute


def _bar(start: int, end: int) -> StripBar:
    last = min(end, AXIS_MIN)
    return StripBar(
        x=round(start * PX_PER_MIN, 1),
        width=round(max(3.0, (last - start) * PX_PER_MIN), 1),
        starts=_clock(start),
        ends=_clock(end),
        roomy=last - start >= ROOMY_MIN,
        late=start > LATE_MIN,
    )


def _clock(minute: int) -> str:
    return f"{minute // 60 % 24:02d}:{minute % 60:02d}"


def _edges(plan: Plan, schedule: Schedule, at_ms: int) -> Iterator[tuple[StripEdge, date, int]]:
    """Both edges of every window on each day, with the minute at which its window starts."""
    zone = plan.house.time_zone
    for index, window in enumerate(schedule.windows):
        whole = spans_of(
            plan, alone(schedule, window), at_ms - MS_PER_DAY, at_ms + LOOK_DAYS * MS_PER_DAY
        )
        for span in whole:
            day = local(span[0], zone).date()
            first, last = next(_minutes(day, [span], zone))
            for minute, side, edge in (
                (first, "start", window.start), (last, "end", window.end)
            ):  # fmt: skip
                drawn = StripEdge(
                    x=round(min(minute, AXIS_MIN) * PX_PER_MIN, 1),
                    minute=minute,
                    field=f"w{index}_{side}",
                    text=edge_text(edge),
                    label=f"{schedule.name} {'from' if side == 'start' else 'to'}",
                )
                yield drawn, day, first
