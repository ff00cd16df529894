"""Schedules in words: whole sentences for the words page, hours in brackets for a rule."""

from collections.abc import Sequence
from datetime import date

from aldea.core.base.figures import short
from aldea.core.base.instants import duration
from aldea.core.base.listing import listed
from aldea.core.engine.calendar import passes_midnight
from aldea.core.plan.schedules import EVERY_DAY, DaysOut, Schedule, SunEdge, Window

DAY_WORDS = dict(zip(EVERY_DAY, ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"), strict=True))


def hours_words(schedule: Schedule) -> str:
    """When a schedule is in force, short: “every day 22:30–07:00; Mon–Fri at 08:15, for 40 min”."""
    parts = [f"{_run_words(window.days)} {_span(window)}" for window in schedule.windows]
    parts += [
        f"{_run_words(group.days)} at {listed(group.at)}, for {duration(schedule.for_s)}"
        for group in schedule.moments
    ]
    parts += [
        f"{dates.start.replace('T', ' ')}–{dates.end.replace('T', ' ')}" for dates in schedule.dates
    ]
    return "; ".join(parts) or "no hours yet"


def _span(window: Window) -> str:
    """“22:30–07:00”; with the sun in it “from 20 min before sunset to 06:00”."""
    start, end = _edge(window.start), _edge(window.end)
    sun = isinstance(window.start, SunEdge) or isinstance(window.end, SunEdge)
    return f"from {start} to {end}" if sun else f"{start}–{end}"


def _run_words(days: Sequence[str]) -> str:
    return days_words(days).replace(" to ", "–")


def schedule_sentences(schedule: Schedule) -> list[str]:
    """A schedule whole: its windows, dates and moments, what is left out, and what a clock does."""
    sentences = [_window(window) for window in schedule.windows]
    sentences += [
        f"At {listed(group.at)} for {duration(schedule.for_s)}, {days_words(group.days)}."
        for group in schedule.moments
    ]
    sentences += [
        f"Once from {dates.start.replace('T', ' ')} to {dates.end.replace('T', ' ')}."
        for dates in schedule.dates
    ]
    out = [_date(day) for day in schedule.except_dates]
    out += [_span_out(days) for days in schedule.except_spans]
    if out:
        sentences.append(f"Not on {listed(out)}.")
    if schedule.when_clock_unknown:
        sentences.append("Until the clock is set, this schedule is in force.")
    if schedule.catch_up is not None:
        sentences.append(CAUGHT_UP[schedule.catch_up])
    return sentences


CAUGHT_UP = {
    True: "A time that falls into a power cut starts late and ends on time.",
    False: "A time that passes without power or a set clock is skipped.",
}


def _date(text: str) -> str:
    """“8 Dec 2025”; “24 Dec” of every year."""
    year, month, day = (text if text.count("-") > 1 else f"2024-{text}").split("-")
    word = f"{date(int(year), int(month), int(day)):%b}"
    return f"{int(day)} {word}" + (f" {year}" if text.count("-") > 1 else "")


def _span_out(days: DaysOut) -> str:
    first, last = (_date(edge[5:] if days.yearly else edge) for edge in (days.first, days.last))
    every = " of every year" if days.yearly else ""
    return f"{first}{every}" if first == last else f"{first} to {last}{every}"


def out_words(days: DaysOut) -> str:
    """Dates that are left out, as they are typed: `every 12-24 to 01-06`."""
    first, last = ((edge[5:] if days.yearly else edge) for edge in (days.first, days.last))
    every = "every " if days.yearly else ""
    return f"{every}{first}" if first == last else f"{every}{first} to {last}"


def _window(window: Window) -> str:
    next_day = " the next day" if passes_midnight(window) else ""
    edges = f"From {_edge(window.start)} to {_edge(window.end)}{next_day}"
    return f"{edges}, {days_words(window.days)}."


def _edge(edge: str | SunEdge) -> str:
    if not isinstance(edge, SunEdge):
        return edge
    if not edge.offset_min:
        return edge.at
    word = "after" if edge.offset_min > 0 else "before"
    return f"{short(abs(edge.offset_min))} min {word} {edge.at}"


def days_words(days: Sequence[str]) -> str:
    """Days of the week, runs of three or more as a span."""
    if len(set(days)) == len(EVERY_DAY):
        return "every day"
    runs: list[list[str]] = []
    for number, day in enumerate(EVERY_DAY):
        if day not in days:
            continue
        if runs and EVERY_DAY.index(runs[-1][-1]) == number - 1:
            runs[-1].append(day)
        else:
            runs.append([day])
    words = [
        f"{DAY_WORDS[run[0]]} to {DAY_WORDS[run[-1]]}"  # type: ignore[index]
        if len(run) > 2
        else ", ".join(DAY_WORDS[day] for day in run)  # type: ignore[index]
        for run in runs
    ]
    return listed(words)
