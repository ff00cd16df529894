"""What rules of several loads share, in words: schedules, modes, conditions, groups, must-nevers.

An owner who reads every rule must find here the hours that a schedule's name stands for, the values
of a mode, the members of a group, and what must never happen.
"""

from collections.abc import Sequence

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.engine.calendar import passes_midnight
from aldea.core.plan.derived import read_by
from aldea.core.plan.document import Plan
from aldea.core.plan.hands import LoadGroup
from aldea.core.plan.house_rules import Doorway, Exclusive, Mode
from aldea.core.plan.naming import reading_name
from aldea.core.plan.schedules import EVERY_DAY, DaysOut, Schedule, SunEdge, Window
from aldea.core.words.conditions import condition_words
from aldea.core.words.invariants import invariant_sentence

DAY_WORDS = dict(zip(EVERY_DAY, ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"), strict=True))
MADE_WORDS = {
    "mean": "the mean of",
    "median": "the median of",
    "lowest": "the lowest of",
    "highest": "the highest of",
    "difference": "the difference of",
    "rate": "how fast it changes:",
}
Rows = list[tuple[str, str]]


def shared_rules(plan: Plan) -> list[tuple[str, Rows]]:
    """Each kind of what rules share, with name and sentence of each; empty kinds are left out."""
    found = [
        ("Schedules", [(s.name, " ".join(schedule_sentences(s))) for s in plan.schedules]),
        ("Modes", [(mode.name, _mode(mode)) for mode in plan.modes]),
        (
            "Named conditions",
            [
                (c.name or c.id, f"It holds while {condition_words(plan, c.condition)}.")
                for c in plan.conditions
            ],
        ),
        ("Groups", [(group.name, _group(plan, group)) for group in plan.groups]),
        ("Doorways", [(door.name, _doorway(plan, door)) for door in plan.doorways]),
        (
            "Derived signals",
            [(signal.name, _derived(plan, signal.made)) for signal in plan.derived],
        ),
        (
            "Never both",
            [(_relays(group.relays), exclusive_words(group)) for group in plan.exclusive],
        ),
        (
            "What must never happen",
            [
                (_whose(plan, made.loads), invariant_sentence(made, plan))
                for made in plan.invariants
            ],
        ),
    ]
    return [(title, rows) for title, rows in found if rows]


def schedule_sentences(schedule: Schedule) -> list[str]:
    """A schedule whole: its windows, dates and moments, what is left out, and what a clock does."""
    found = [_window(window) for window in schedule.windows]
    found += [
        f"At {_listed(group.at)} for {span(schedule.for_s)}, {days_words(group.days)}."
        for group in schedule.moments
    ]
    found += [
        f"Once from {dates.start.replace('T', ' ')} to {dates.end.replace('T', ' ')}."
        for dates in schedule.dates
    ]
    out = [*schedule.except_dates, *(out_words(days) for days in schedule.except_spans)]
    if out:
        found.append(f"Not on {_listed(out)}.")
    if schedule.when_clock_unknown:
        found.append("While the clock is not known it counts as on.")
    if schedule.catch_up is not None:
        found.append(CAUGHT_UP[schedule.catch_up])
    return found


CAUGHT_UP = {
    True: "A moment that a power cut hides or breaks off starts late, and ends on time.",
    False: "A moment that passes without power or a known clock is skipped.",
}


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
    return _listed(words)


def _mode(mode: Mode) -> str:
    start = f" It begins as {mode.start}." if mode.start else ""
    kept = "outlives a power cut" if mode.retained else "begins anew after a power cut"
    return f"One of {_listed(mode.values)}; it {kept}.{start}"


def _group(plan: Plan, group: LoadGroup) -> str:
    names = [load.name for key in group.members if (load := plan.load(key)) is not None]
    apart = f", each {short(group.stagger_s)} s after the last" if group.stagger_s else ""
    return f"{_listed(names)}{apart}."


def _doorway(plan: Plan, door: Doorway) -> str:
    reset = f" The count begins anew at {_listed(door.reset_at)}." if door.reset_at else ""
    return (
        f"{reading_name(plan, door.outer)} and then {reading_name(plan, door.inner)} within "
        f"{span(door.within_s)} is one person in; the other way round one out.{reset}"
    )


def _derived(plan: Plan, made: object) -> str:
    kind = str(getattr(made, "kind", ""))
    names = [reading_name(plan, key) for key in read_by(made)]  # type: ignore[arg-type]
    text = f"{MADE_WORDS.get(kind, kind.replace('_', ' ') + ' from')} {_listed(names)}."
    return text[:1].upper() + text[1:]


def _relays(relays: Sequence[str]) -> str:
    return _listed([relay.upper() for relay in relays])


def exclusive_words(group: Exclusive) -> str:
    """What exclusive relays promise."""
    gap = f"; {span(group.dead_s)} lie between" if group.dead_s else ""
    why = f" ({group.why})" if group.why else ""
    return f"Never two of them conduct together{gap}{why}."


def _whose(plan: Plan, loads: Sequence[str]) -> str:
    return _listed([load.name for key in loads if (load := plan.load(key)) is not None])


def _listed(words: Sequence[str]) -> str:
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} and {words[-1]}"
