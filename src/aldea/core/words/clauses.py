"""One condition on one thing as a clause: both thresholds, units, as the engine switches it.

Equality switches: a rule on 66 until 62 is active at exactly 66 and inactive at exactly 62.
"""

from collections.abc import Callable
from typing import Any

from aldea.core.base.figures import short
from aldea.core.base.instants import duration
from aldea.core.base.listing import any_of
from aldea.core.plan import conditions as con
from aldea.core.plan.document import Plan
from aldea.core.plan.naming import reading_name, reading_unit
from aldea.core.words.schedules import hours_words

QUALITY_WORDS = {
    "warming": "warming up",
    "range": "out of range",
    "jump": "jumping",
    "stuck": "stuck",
    "stale": "stale",
    "good": "valid",
}
NOT_GOOD = frozenset({"range", "jump", "stuck", "stale"})


def _until(unit: str, on: float, off: float, *, rising: bool) -> str:
    first, then = ("above", "below") if rising else ("below", "above")
    text = f"is {short(on)}{unit} or {first}"
    return text if on == off else f"{text}, until {short(off)}{unit} or {then}"


def _band(plan: Plan, row: con.Band) -> str:
    unit, rising = reading_unit(plan, row.probe), row.direction == "rising"
    name = reading_name(plan, row.probe)
    text = f"{name} {_until(unit, row.on_threshold, row.off_threshold, rising=rising)}"
    return f"{text}{delays(row.delay_on_s, row.delay_off_s)}"


def delays(on_s: float, off_s: float) -> str:
    """The on and off delay of a condition, in brackets; empty where it has none."""
    waits = [f"on delay {duration(on_s)}"] if on_s else []
    waits += [f"off delay {duration(off_s)}"] if off_s else []
    return f" ({', '.join(waits)})" if waits else ""


def _beyond(plan: Plan, row: con.Beyond) -> str:
    rising = row.kind == "above"
    off = row.value - row.hysteresis if rising else row.value + row.hysteresis
    text = _until(reading_unit(plan, row.probe), row.value, off, rising=rising)
    return f"{reading_name(plan, row.probe)} {text}"


def _difference(plan: Plan, row: con.Difference) -> str:
    unit = reading_unit(plan, row.probe)
    name, less = reading_name(plan, row.probe), reading_name(plan, row.less)
    rising, warm = row.on_threshold >= row.off_threshold, unit == " °C"
    side = "warmer than" if warm else "above"
    unit = " K" if warm else unit
    most, then = ("least", "less") if rising else ("most", "more")
    text = f"{name} is at {most} {short(row.on_threshold)}{unit} {side} {less}"
    if row.on_threshold == row.off_threshold:
        return text
    return f"{text}, until {short(row.off_threshold)}{unit} or {then}"


def _rate(plan: Plan, row: con.Rate) -> str:
    unit = reading_unit(plan, row.probe)
    rising = row.on_threshold >= row.off_threshold
    verb = "rises by" if rising and row.on_threshold > 0 else "changes by"
    side, then = ("more", "less") if rising else ("less", "more")
    on, off = short(row.on_threshold), short(row.off_threshold)
    over = f"over {duration(row.over_s)}"
    text = f"{reading_name(plan, row.probe)} {verb} {on}{unit}/min or {side} {over}"
    return (
        text
        if row.on_threshold == row.off_threshold
        else f"{text}, until {off}{unit}/min or {then}"
    )


def _within(plan: Plan, row: con.Within) -> str:
    unit, name = reading_unit(plan, row.probe), reading_name(plan, row.probe)
    ends = [f"at least {short(row.low)}{unit}"] if row.low is not None else []
    ends += [f"below {short(row.high)}{unit}"] if row.high is not None else []
    return f"{name} is {' and '.join(ends)}" if ends else f"{name} has a valid reading"


def _tape(plan: Plan, row: con.Tape) -> str:
    return f"{reading_name(plan, row.probe)} is {any_of(row.states)}"


def _contact(plan: Plan, row: con.Contact) -> str:
    return f"{reading_name(plan, row.probe)} is {'closed' if row.closed else 'open'}"


def _presence(plan: Plan, row: con.Presence) -> str:
    hold = f", or did in the last {duration(row.hold_s)}" if row.hold_s else ""
    return f"{reading_name(plan, row.probe)} detects somebody{hold}"


def _dark(plan: Plan, row: con.Dark) -> str:
    unit = reading_unit(plan, row.probe)
    lamp = plan.load(row.lamp) if row.lamp else None
    share = f"{short(row.lamp_lx)} lx" if row.lamp_lx else "light"
    whose = f"{lamp.name}’{'' if lamp.name.endswith('s') else 's'}" if lamp else ""
    own = f" (without {whose} own {share})" if lamp else ""
    text = _until(unit, row.value, row.value + row.hysteresis, rising=False)
    return f"{reading_name(plan, row.probe)} {text}{own}"


def _gas(plan: Plan, row: con.Gas) -> str:
    times = (
        f"at least {short(row.ratio)} times clean air" if row.ratio else "above its clean-air limit"
    )
    return f"{reading_name(plan, row.probe)} is {times} (a hint only)"


def _position(plan: Plan, row: con.Position) -> str:
    load = plan.load(row.load)
    words = {"open": "is open", "shut": "is shut", "moving": "is moving"}
    return f"{load.name if load else row.load} {words.get(row.state, 'is at an unknown position')}"


def _count(plan: Plan, row: con.CountAbove) -> str:
    door = next((door.name for door in plan.doorways if door.id == row.doorway), row.doorway)
    if not row.value:
        return f"somebody is inside by {door}"
    return (
        f"more than {row.value} {'person is' if row.value == 1 else 'people are'} inside by {door}"
    )


def window_words(plan: Plan, row: con.InWindow) -> str:
    """A schedule by its name, with its hours."""
    schedule = next((s for s in plan.schedules if s.id == row.schedule), None)
    return f"“{schedule.name}” ({hours_words(schedule)})" if schedule else f"“{row.schedule}”"


def _sun(_plan: Plan, row: con.Sun) -> str:
    off = row.offset_min
    after = f"{short(abs(off))} min {'after' if off > 0 else 'before'} " if off else ""
    first, then = ("sunset", "sunrise") if row.state == "down" else ("sunrise", "sunset")
    return f"the time is from {after}{first} to {after}{then}"


def _mode(plan: Plan, row: con.InMode) -> str:
    name = next((mode.name for mode in plan.modes if mode.id == row.mode), row.mode)
    return f"{name} is “{row.value}”"


def _load(plan: Plan, row: con.LoadState) -> str:
    load = plan.load(row.load)
    name = load.name if load else row.load
    if row.level is not None:
        kind = "pattern" if load and load.kind in ("indicator", "sounder") else "step"
        return f"{name} is on {kind} {row.level}"
    words = {
        "off": "is off",
        "on": "is on",
        "any_on": "is on",
        "missed": "has not done what was requested",
    }
    return f"{name} {words[row.state]}"


def _quality(plan: Plan, row: con.QualityIs) -> str:
    name = reading_name(plan, row.probe)
    if set(row.among) == {"good"}:
        return f"{name} has a valid reading"
    if set(row.among) >= NOT_GOOD:
        return f"{name} has no valid reading"
    return f"{name} is {any_of([QUALITY_WORDS[quality] for quality in row.among])}"


LEAVES: dict[type, Callable[[Plan, Any], str]] = {
    con.Band: _band,
    con.Beyond: _beyond,
    con.Difference: _difference,
    con.Rate: _rate,
    con.Within: _within,
    con.Tape: _tape,
    con.Contact: _contact,
    con.Presence: _presence,
    con.Dark: _dark,
    con.Gas: _gas,
    con.Position: _position,
    con.CountAbove: _count,
    con.InWindow: lambda plan, row: f"the time is within {window_words(plan, row)}",
    con.Sun: _sun,
    con.InMode: _mode,
    con.LoadState: _load,
    con.QualityIs: _quality,
    con.ClockKnown: lambda _plan, _row: "the clock is set",
    con.Always: lambda _plan, _row: "always",
}
