"""What rules of several loads share, in words: schedules, modes, conditions, groups, must-nevers.

An owner who reads every rule must find here the hours that a schedule's name stands for, the values
of a mode, the members of a group, and what must never happen.
"""

from collections.abc import Iterator, Sequence

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.engine.calendar import passes_midnight
from aldea.core.plan.derived import read_by
from aldea.core.plan.document import Plan
from aldea.core.plan.hands import LoadGroup
from aldea.core.plan.house_rules import Doorway, Exclusive, Mode
from aldea.core.plan.naming import reading_name
from aldea.core.plan.schedules import EVERY_DAY, Schedule, SunEdge, Window
from aldea.core.words.conditions import condition_words
from aldea.core.words.invariants import invariant_sentence

DAY_WORDS = dict(zip(EVERY_DAY, ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"), strict=True))
MADE_WORDS = {
    "mean": "the mean of",
    "median": "the median of",
    "minimum": "the lowest of",
    "maximum": "the highest of",
    "difference": "the difference of",
    "rate": "how fast it changes:",
}
Rows = list[tuple[str, str]]


def shared_rules(plan: Plan) -> list[tuple[str, Rows]]:
    """Each kind of what rules share, with name and sentence of each; empty kinds are left out."""
    found = [
        ("Schedules", [(s.name, schedule_sentence(s)) for s in plan.schedules]),
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
            [(_relays(group.relays), _exclusive(group)) for group in plan.exclusive],
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


def schedule_sentence(schedule: Schedule) -> str:
    """A schedule whole: its windows, dates and moments, what is left out, and what a clock does."""
    parts = [*(_window(window) for window in schedule.windows)]
    parts += [
        f"at {_listed(group.at)} for {span(schedule.for_s)}{days_words(group.days)}"
        for group in schedule.moments
    ]
    parts += [
        f"once from {dates.start.replace('T', ' ')} to {dates.end.replace('T', ' ')}"
        for dates in schedule.dates
    ]
    words = f"On {'; '.join(parts)}." if parts else "Never on."
    return " ".join((words, *_besides(schedule)))


def _besides(schedule: Schedule) -> Iterator[str]:
    if schedule.except_dates:
        yield f"Not on {_listed(schedule.except_dates)}."
    state = "on" if schedule.when_clock_unknown else "off"
    yield f"While the clock is not known it is {state}."
    if schedule.moments and schedule.catch_up is not None:
        does = "begins late and ends on time" if schedule.catch_up else "is left out"
        yield f"A moment that falls into a power cut {does}."


def _window(window: Window) -> str:
    next_day = " the next day" if passes_midnight(window) else ""
    return f"from {_edge(window.start)} to {_edge(window.end)}{next_day}{days_words(window.days)}"


def _edge(edge: str | SunEdge) -> str:
    if not isinstance(edge, SunEdge):
        return edge
    if not edge.offset_min:
        return edge.at
    word = "after" if edge.offset_min > 0 else "before"
    return f"{short(abs(edge.offset_min))} min {word} {edge.at}"


def days_words(days: Sequence[str]) -> str:
    """Days of the week, runs of three or more as a span; nothing for every day."""
    if len(set(days)) == len(EVERY_DAY):
        return ""
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
    return f" on {_listed(words)}"


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


def _exclusive(group: Exclusive) -> str:
    gap = f"; {span(group.dead_s)} lie between" if group.dead_s else ""
    why = f" ({group.why})" if group.why else ""
    return f"Never two of them conduct together{gap}{why}."


def _whose(plan: Plan, loads: Sequence[str]) -> str:
    return _listed([load.name for key in loads if (load := plan.load(key)) is not None])


def _listed(words: Sequence[str]) -> str:
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} and {words[-1]}"
