"""A condition as a clause that follows “while” or “because”, in the words of the house."""

from collections.abc import Callable
from typing import Any

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.plan import conditions as con
from aldea.core.plan.conditions import members_of
from aldea.core.plan.document import Plan
from aldea.core.plan.naming import reading_name, reading_unit

NOT_GOOD = {"range", "jump", "stuck", "stale"}


def condition_words(plan: Plan, condition: Any) -> str:
    """The clause of a condition, with what it counts as without a reading where that is stated."""
    text = WORDS[type(condition)](plan, condition)
    if not isinstance(condition, con.OnValue) or condition.without_reading == "keep":
        return text
    after = f" after {span(condition.unchanged_for_s)}" if condition.unchanged_for_s else ""
    return f"{text} (without a reading: {condition.without_reading}{after})"


def _band(plan: Plan, band: con.Band) -> str:
    name, unit = reading_name(plan, band.probe), reading_unit(plan, band.probe)
    side, back = ("above", "below") if band.direction == "rising" else ("below", "above")
    text = f"{name} is {side} {short(band.on)}{unit}, until it is {back} {short(band.off)}"
    waits = [
        f"{span(wait)} after it {word}"
        for wait, word in ((band.delay_on_s, "begins"), (band.delay_off_s, "ends"))
        if wait
    ]
    return f"{text} ({', '.join(waits)})" if waits else text


def _beyond(plan: Plan, row: con.Beyond) -> str:
    unit = reading_unit(plan, row.probe)
    gap = f", with a gap of {short(row.gap)}" if row.gap else ""
    side = "at or above" if row.kind == "above" else "at or below"
    return f"{reading_name(plan, row.probe)} is {side} {short(row.value)}{unit}{gap}"


def _difference(plan: Plan, row: con.Difference) -> str:
    unit = reading_unit(plan, row.probe)
    names = f"{reading_name(plan, row.probe)} less {reading_name(plan, row.less)}"
    side = "above" if row.on >= row.off else "below"
    return f"{names} is {side} {short(row.on)}{unit}, until {short(row.off)}"


def _rate(plan: Plan, row: con.Rate) -> str:
    unit = reading_unit(plan, row.probe)
    way = "rises by" if row.on >= row.off else "changes by"
    name = reading_name(plan, row.probe)
    return f"{name} {way} {short(row.on)}{unit} a minute or more, over {span(row.over_s)}"


def _within(plan: Plan, row: con.Within) -> str:
    unit = reading_unit(plan, row.probe)
    name = reading_name(plan, row.probe)
    if row.low is None and row.high is None:
        return f"{name} has a good reading"
    if row.high is None:
        return f"{name} is {short(row.low or 0.0)}{unit} or more"
    if row.low is None:
        return f"{name} is under {short(row.high)}{unit}"
    return f"{name} is from {short(row.low)} to under {short(row.high)}{unit}"


def _tape(plan: Plan, row: con.Tape) -> str:
    return f"{reading_name(plan, row.probe)} is {' or '.join(row.states)}"


def _contact(plan: Plan, row: con.Contact) -> str:
    return f"{reading_name(plan, row.probe)} is {'closed' if row.closed else 'open'}"


def _presence(plan: Plan, row: con.Presence) -> str:
    hold = f", and {span(row.hold_s)} after" if row.hold_s else ""
    return f"{reading_name(plan, row.probe)} sees somebody{hold}"


def _dark(plan: Plan, row: con.Dark) -> str:
    unit = reading_unit(plan, row.probe)
    lamp = plan.load(row.lamp) if row.lamp else None
    own = f" without the light of {lamp.name}" if lamp else ""
    return f"{reading_name(plan, row.probe)} is at or below {short(row.value)}{unit}{own}"


def _gas(plan: Plan, row: con.Gas) -> str:
    times = f" {short(row.ratio)} times" if row.ratio else ""
    return f"{reading_name(plan, row.probe)} reads{times} more than clean air (a hint only)"


def _position(plan: Plan, row: con.Position) -> str:
    load = plan.load(row.load)
    words = {"open": "is open", "shut": "is shut", "moving": "moves"}
    return f"{load.name if load else row.load} {words.get(row.state, 'stands nobody knows where')}"


def _count(plan: Plan, row: con.CountAbove) -> str:
    door = next((door.name for door in plan.doorways if door.id == row.doorway), row.doorway)
    return f"more than {row.value} came in by {door}" if row.value else f"somebody is in by {door}"


def _window(plan: Plan, row: con.InWindow) -> str:
    name = next((s.name for s in plan.schedules if s.id == row.schedule), row.schedule)
    return f"the schedule “{name}” is on"


def _sun(plan: Plan, row: con.Sun) -> str:
    minutes = row.offset_min
    off = f", {short(abs(minutes))} min {'after' if minutes > 0 else 'before'}" if minutes else ""
    return f"the sun is {row.state}{off}"


def _mode(plan: Plan, row: con.InMode) -> str:
    name = next((mode.name for mode in plan.modes if mode.id == row.mode), row.mode)
    return f"{name} is “{row.value}”"


def _load(plan: Plan, row: con.LoadState) -> str:
    load = plan.load(row.load)
    name = load.name if load else row.load
    if row.level is not None:
        kind = "pattern" if load and load.kind in ("indicator", "sounder") else "step"
        return f"{name} is in {kind} {row.level}"
    words = {
        "off": "is off",
        "on": "is on",
        "any_on": "is on",
        "missed": "did not do what it was told",
    }
    return f"{name} {words[row.state]}"


def _quality(plan: Plan, row: con.QualityIs) -> str:
    if set(row.among) == {"good"}:
        return f"{reading_name(plan, row.probe)} gives good readings"
    if set(row.among) >= NOT_GOOD:
        return f"{reading_name(plan, row.probe)} gives no good readings"
    return f"the readings of {reading_name(plan, row.probe)} are {' or '.join(row.among)}"


def _named(plan: Plan, row: con.Named) -> str:
    under = next((named for named in plan.conditions if named.id == row.condition), None)
    if under is None:
        return row.condition
    return f"“{under.name}” holds" if under.name else condition_words(plan, under.condition)


def _lasting(plan: Plan, row: con.Lasting) -> str:
    waits = [f"for {span(row.on_s)}"] if row.on_s else []
    waits += [f"and {span(row.off_s)} after"] if row.off_s else []
    return f"{condition_words(plan, row.of)} {' '.join(waits)}".strip()


def _edge(plan: Plan, row: con.Edge) -> str:
    return f"for {span(row.for_s)} after {condition_words(plan, row.of)}"


def _every(plan: Plan, row: con.Every) -> str:
    return " and ".join(_inside(plan, member) for member in row.of)


def _some(plan: Plan, row: con.Some) -> str:
    return " or ".join(_inside(plan, member) for member in row.of)


def _inside(plan: Plan, member: Any) -> str:
    text = condition_words(plan, member)
    return f"({text})" if isinstance(member, con.Every | con.Some) else text


def _unless(plan: Plan, row: con.Unless) -> str:
    text = condition_words(plan, row.of)
    for verb in (" is ", " sees somebody", " gives good readings"):
        if text.count(verb) == 1 and not members_of(row.of):
            denied = verb.replace(" is ", " is not ").replace(" sees some", " sees no")
            return text.replace(verb, denied.replace(" gives good", " gives no good"))
    return f"not ({text})"


WORDS: dict[type, Callable[[Plan, Any], str]] = {
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
    con.InWindow: _window,
    con.Sun: _sun,
    con.InMode: _mode,
    con.LoadState: _load,
    con.QualityIs: _quality,
    con.ClockKnown: lambda _plan, _row: "the clock is known",
    con.Always: lambda _plan, _row: "always",
    con.Named: _named,
    con.Lasting: _lasting,
    con.Edge: _edge,
    con.Every: _every,
    con.Some: _some,
    con.Unless: _unless,
}
