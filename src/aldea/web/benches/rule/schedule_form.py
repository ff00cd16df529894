"""A schedule as it is typed, and as it is drawn over the next week."""

import re
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from pydantic import ValidationError

from aldea.core.base.figures import as_typed, short
from aldea.core.base.instants import MS_PER_DAY, local, ms_of_local
from aldea.core.base.unfit import unfit
from aldea.core.plan.conditions import InWindow
from aldea.core.plan.document import Plan
from aldea.core.plan.reading import expanded
from aldea.core.plan.schedules import EVERY_DAY, DaysOut, Moments, Schedule, SunEdge, Window
from aldea.core.rules.edges import spans_of
from aldea.core.words.schedules import out_words
from aldea.web.shell.forms import Fields

SUN = re.compile(r"(sunrise|sunset)\s*([+\-−]\s*[0-9]{1,3})?(?:\s*min)?", re.IGNORECASE)
MOST_WINDOWS = 12
DAY_NAMES = {"mon": "Mon", "tue": "Tue", "wed": "Wed", "thu": "Thu", "fri": "Fri", "sat": "Sat",
             "sun": "Sun"}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowRow:
    """A window as it is typed."""

    index: int
    days: frozenset[str]
    start: str
    end: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MomentRow:
    """Moments as they are typed."""

    index: int
    days: frozenset[str]
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """A span of one day on the week strip, in percent of the day."""

    x: float
    width: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Grip:
    """An edge of a window on a day, where it is taken hold of; its field is `w0_start`."""

    x: float
    field: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DayRow:
    """A day of the week strip."""

    name: str
    today: bool
    bars: tuple[Bar, ...]
    grips: tuple[Grip, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScheduleForm:
    """What the form shows."""

    name: str
    windows: tuple[WindowRow, ...]
    moments: tuple[MomentRow, ...]
    for_s: str
    dates: str
    except_dates: str
    when_clock_unknown: str
    catch_up: str


CATCH_UP: dict[str, bool | None] = {"late": None, "resumed": True, "skipped": False}


def edge_text(edge: str | SunEdge) -> str:
    """An edge as it is typed: `22:30`, `sunset −20`."""
    if isinstance(edge, str):
        return edge
    if not edge.offset_min:
        return edge.at
    sign = "+" if edge.offset_min > 0 else "−"
    return f"{edge.at} {sign}{short(abs(edge.offset_min))}"


def schedule_form(schedule: Schedule | None, typed: dict[str, str]) -> ScheduleForm:
    """The form of a schedule, with what was typed and one empty window at its end."""
    windows = [
        WindowRow(index=i, days=frozenset(w.days), start=edge_text(w.start), end=edge_text(w.end))
        for i, w in enumerate(schedule.windows if schedule else ())
    ]
    moments = [
        MomentRow(index=i, days=frozenset(m.days), at=", ".join(m.at))
        for i, m in enumerate(schedule.moments if schedule else ())
    ]
    if typed:
        windows = [
            WindowRow(index=i, days=_days(typed, f"w{i}"), start=typed.get(f"w{i}_start", ""),
                      end=typed.get(f"w{i}_end", ""))
            for i in range(MOST_WINDOWS)
            if typed.get(f"w{i}_start", "").strip() or typed.get(f"w{i}_end", "").strip()
        ]  # fmt: skip
        moments = [
            MomentRow(index=i, days=_days(typed, f"m{i}"), at=typed.get(f"m{i}_at", ""))
            for i in range(MOST_WINDOWS)
            if typed.get(f"m{i}_at", "").strip()
        ]
    all_days = frozenset(EVERY_DAY)
    windows.append(
        WindowRow(index=_next([w.index for w in windows]), days=all_days, start="", end="")
    )
    moments.append(MomentRow(index=_next([m.index for m in moments]), days=all_days, at=""))
    dates = "\n".join(f"{d.start} to {d.end}" for d in schedule.dates) if schedule else ""
    return ScheduleForm(
        name=typed.get("name", schedule.name if schedule else ""),
        windows=tuple(windows),
        moments=tuple(moments),
        for_s=typed.get("for_s", as_typed(schedule.for_s) if schedule else "60"),
        dates=typed.get("dates", dates),
        except_dates=typed.get("except_dates", _out_typed(schedule) if schedule else ""),
        when_clock_unknown=typed.get(
            "when_clock_unknown", "yes" if schedule and schedule.when_clock_unknown else "no"
        ),
        catch_up=typed.get("catch_up", _caught_up(schedule)),
    )


def fields_typed(schedule: Schedule) -> dict[str, str]:
    """A schedule as its form would send it."""
    form = schedule_form(schedule, {})
    typed = {
        key: getattr(form, key)
        for key in ("name", "for_s", "dates", "except_dates", "when_clock_unknown", "catch_up")
    }
    for window in form.windows:
        typed |= {f"w{window.index}_start": window.start, f"w{window.index}_end": window.end}
        typed |= {f"w{window.index}_{day}": "yes" for day in window.days}
    for moment in form.moments:
        typed[f"m{moment.index}_at"] = moment.at
        typed |= {f"m{moment.index}_{day}": "yes" for day in moment.days}
    return typed


def _caught_up(schedule: Schedule | None) -> str:
    now = schedule.catch_up if schedule else None
    return next(key for key, value in CATCH_UP.items() if value is now)


def _next(indices: list[int]) -> int:
    return max(indices, default=-1) + 1


def _days(typed: dict[str, str], prefix: str) -> frozenset[str]:
    return frozenset(day for day in EVERY_DAY if typed.get(f"{prefix}_{day}") == "yes")


def _edge(fields: Fields, name: str) -> str | SunEdge | None:
    typed = fields.text(name, most=40)
    sun = SUN.fullmatch(typed)
    if sun:
        offset = (sun.group(2) or "0").replace("−", "-").replace(" ", "")
        return SunEdge.model_validate({"at": sun.group(1).lower(), "offset_min": float(offset)})
    if re.fullmatch(r"([01]?[0-9]|2[0-3]):[0-5][0-9]|24:00", typed):
        return typed.rjust(5, "0")
    fields.refuse(name, repr(typed)[:80] if typed else "nothing", "a time as 07:30, or sunset −20")
    return None


def read_schedule(fields: Fields, schedule_id: str, schedule: Schedule | None) -> Schedule | None:
    """The schedule that a form describes; None where a field is refused."""
    name = fields.text("name", most=80)
    if not name:
        fields.refuse("name", "nothing", "a name")
    windows = []
    for index in range(MOST_WINDOWS):
        start, end = f"w{index}_start", f"w{index}_end"
        if not (fields.sent.get(start, "").strip() or fields.sent.get(end, "").strip()):
            continue
        days = tuple(d for d in EVERY_DAY if d in _days(dict(fields.sent), f"w{index}"))
        if not days:
            fields.refuse(start, "no day", "at least one day of the week")
        first, last = _edge(fields, start), _edge(fields, end)
        if days and first is not None and last is not None:
            windows.append(Window(days=days, start=first, end=last))
    moments = _read_moments(fields)
    dates = _read_dates(fields)
    outs, spans = _read_out(fields)
    for_s = fields.number("for_s", low=1.0, high=86_400.0, unit="s")
    if fields.errors:
        return None
    try:
        return Schedule.model_validate(
            {
                "id": schedule.id if schedule else schedule_id,
                "name": name,
                "windows": tuple(windows),
                "moments": tuple(moments),
                "dates": tuple(dates),
                "for_s": for_s,
                "except_dates": tuple(outs),
                "except_spans": tuple(spans),
                "when_clock_unknown": fields.sent.get("when_clock_unknown") == "yes",
                "catch_up": CATCH_UP.get(fields.sent.get("catch_up", "late")),
            }
        )
    except ValidationError as exc:
        problem, *_ = unfit(exc.errors(include_url=False))
        key = problem.steps[0]
        at = key if key in ("dates", "except_dates") or key in fields.sent else "name"
        fields.refuse(at, problem.got, problem.allowed)
        return None


OUT = re.compile(
    r"(every )?((?:\d{4}-)?\d{2}-\d{2})(?: to ((?:\d{4}-)?\d{2}-\d{2}))?", re.IGNORECASE
)
ANY_LEAP_YEAR = "2024-"


def _out_typed(schedule: Schedule) -> str:
    """Dates that are left out, as they are typed."""
    return ", ".join((*schedule.except_dates, *(out_words(days) for days in schedule.except_spans)))


def _read_out(fields: Fields) -> tuple[list[str], list[DaysOut]]:
    """Single dates, and spans of dates, once or every year."""
    dates: list[str] = []
    spans: list[DaysOut] = []
    for word in fields.text("except_dates", most=4000).split(","):
        typed = " ".join(word.split())
        if not typed:
            continue
        match = OUT.fullmatch(typed)
        days = _days_out(*match.groups()) if match else None
        if days is None:
            fields.refuse(
                "except_dates",
                repr(typed)[:60],
                "dates such as 2026-12-08, 2026-12-24 to 2027-01-06, every 12-25",
            )
        elif days.first == days.last and not days.yearly:
            dates.append(days.first)
        else:
            spans.append(days)
    return dates, spans


def _days_out(every: str | None, first: str, last: str | None) -> DaysOut | None:
    ends = [first, last or first]
    if every:
        ends = [f"{ANY_LEAP_YEAR}{end[-5:]}" for end in ends]
    try:
        days = [date.fromisoformat(end) for end in ends]
    except ValueError:
        return None
    if not every and days[1] < days[0]:
        return None
    return DaysOut(first=ends[0], last=ends[1], yearly=bool(every))


def _read_moments(fields: Fields) -> list[Moments]:
    groups = []
    for index in range(MOST_WINDOWS):
        name = f"m{index}_at"
        if not fields.sent.get(name, "").strip():
            continue
        days = tuple(d for d in EVERY_DAY if d in _days(dict(fields.sent), f"m{index}"))
        times = [t.strip().rjust(5, "0") for t in fields.text(name, most=800).split(",")]
        bad = [t for t in times if not re.fullmatch(r"([01][0-9]|2[0-3]):[0-5][0-9]", t)]
        if bad or not days:
            fields.refuse(
                name, repr(bad[0]) if bad else "no day", "times as 06:30, 18:45, and days"
            )
            continue
        groups.append(Moments(days=days, at=tuple(dict.fromkeys(times))))
    return groups


def _read_dates(fields: Fields) -> list[dict[str, str]]:
    spans = []
    for line in fields.text("dates", most=20_000).replace("\r", "").split("\n"):
        if not line.strip():
            continue
        first, _, last = (part.strip().replace(" ", "T") for part in line.partition(" to "))
        stamp = r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}"
        if not (re.fullmatch(stamp, first) and re.fullmatch(stamp, last)):
            fields.refuse("dates", repr(line)[:80], "2025-12-24T01:30 to 2025-12-24T07:00")
            return []
        spans.append({"start": first, "end": last})
    return spans


def week_rows(plan: Plan, schedule: Schedule, at_ms: int) -> tuple[DayRow, ...]:
    """The seven days from the instant's on, each from midnight to midnight of the house."""
    zone = plan.house.time_zone
    today = local(at_ms, zone).date()
    since_ms, until_ms = at_ms - MS_PER_DAY, at_ms + 8 * MS_PER_DAY
    spans = spans_of(plan, schedule, since_ms, until_ms)
    edges = [
        (t_ms, f"w{index}_{side}")
        for index, window in enumerate(schedule.windows)
        for span in spans_of(plan, alone(schedule, window), since_ms, until_ms)
        for t_ms, side in zip(span, ("start", "end"), strict=True)
    ]
    rows = []
    for index in range(7):
        day = today + timedelta(days=index)
        start = ms_of_local(datetime(day.year, day.month, day.day), zone)  # noqa: DTZ001  a wall clock
        after = day + timedelta(days=1)
        end = ms_of_local(datetime(after.year, after.month, after.day), zone)  # noqa: DTZ001
        bars = [
            Bar(
                x=round(100 * (max(a, start) - start) / (end - start), 3),
                width=round(max(0.25, 100 * (min(b, end) - max(a, start)) / (end - start)), 3),
            )
            for a, b in spans
            if b > start and a < end
        ]
        grips = [
            Grip(x=round(100 * (t_ms - start) / (end - start), 3), field=field)
            for t_ms, field in edges
            if start <= t_ms < end or (t_ms == end and field.endswith("end"))
        ]
        name = f"{day:%a} {day.day}"
        rows.append(DayRow(name=name, today=index == 0, bars=tuple(bars), grips=tuple(grips)))
    return tuple(rows)


def alone(schedule: Schedule, window: Window) -> Schedule:
    """A schedule with one of its windows only."""
    return schedule.model_copy(update={"windows": (window,), "moments": (), "dates": ()})


def used_by(plan: Plan, schedule_id: str) -> tuple[str, ...]:
    """The loads whose rules look at a schedule, and the modes that it sets."""
    users: dict[str, Any] = {}
    for rule in plan.rules:
        load = plan.load(rule.load)
        if rule.condition is None or load is None:
            continue
        if any(
            isinstance(part, InWindow) and part.schedule == schedule_id
            for part in expanded(plan, rule.condition)
        ):
            users[load.id] = load.name
    for mode in plan.modes:
        if InWindow(schedule=schedule_id) in (change.when for change in mode.changes):
            users[mode.id] = f"{mode.name} (mode)"
    return tuple(users.values())
