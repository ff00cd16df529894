"""How far a rule that is silent is from speaking, and what one that speaks waits for."""

import math
from collections.abc import Callable
from typing import Any

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import near, span
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine import layout as lay
from aldea.core.engine.tables import conditions as con
from aldea.core.plan import conditions as doc
from aldea.core.plan.document import Plan, Rule
from aldea.core.plan.naming import reading_name, reading_unit
from aldea.core.plan.reading import named_conditions
from aldea.core.rehearse.foresight import Standing
from aldea.core.rules.edges import next_edge_ms, next_sun_ms
from aldea.core.words.clauses import QUALITY_WORDS
from aldea.core.words.conditions import condition_words

ON_VALUES = (doc.Band, doc.Beyond, doc.Difference, doc.Rate, doc.Dark, doc.Gas)


def rule_distance(plan: Plan, now: Standing, rule: Rule, node: int) -> str:
    """What keeps a rule silent, or how it came to speak, at the instant of a standing."""
    if rule.condition is None:
        return _quality(plan, now, rule.probe or "")
    return distance(plan, now, rule.condition, node)


def _quality(plan: Plan, now: Standing, probe: str) -> str:
    name = reading_name(plan, probe)
    quality = now.quality.get(probe)
    if quality is None:
        return ""
    if quality == lay.GOOD:
        return f"{name} reads well"
    word = QUALITY_WORDS.get(lay.QUALITY_NAMES[quality], lay.QUALITY_NAMES[quality])
    ago = (now.at_ms - now.good_ms[probe]) / 1000
    lasting = f", last good {span(ago)} ago" if 0 <= ago < 10**7 else ""
    return f"{name} {word}{lasting}"


def _members(now: Standing, node: int) -> list[int]:
    tables = now.compiled.tables
    spec = tables.conditions[node]
    return [tables.condition_members[row] for row in range(spec.first, spec.end)]


def _kind(now: Standing, node: int) -> int:
    return now.compiled.tables.conditions[node].kind


def rows_of(now: Standing, condition: Any, node: int) -> list[tuple[Any, int]]:
    """The conditions that one is made of, each with its row in the compiled plan."""
    members = list(condition.of) if isinstance(condition.of, tuple) else [condition.of]
    return list(zip(members, _members(now, node), strict=True))


def distance(plan: Plan, now: Standing, condition: Any, node: int) -> str:
    """How far one condition is from holding; where it holds, what it stands at."""
    return WORDS.get(type(condition), _as_said)(plan, now, condition, node)


def _as_said(plan: Plan, _now: Standing, condition: Any, _node: int) -> str:
    return condition_words(plan, condition)


def _named(plan: Plan, now: Standing, condition: doc.Named, node: int) -> str:
    under = named_conditions(plan)[condition.condition]
    alone = _kind(now, node) == con.NODE_ALL and not isinstance(under, doc.Every)
    return distance(plan, now, under, _members(now, node)[0] if alone else node)


def _every(plan: Plan, now: Standing, condition: doc.Every, node: int) -> str:
    rows = rows_of(now, condition, node)
    missing = [(part, row) for part, row in rows if not now.holds(row)]
    return "; ".join(distance(plan, now, *row) for row in missing or rows[:1])


def _some(plan: Plan, now: Standing, condition: doc.Some, node: int) -> str:
    rows = rows_of(now, condition, node)
    there = [(part, row) for part, row in rows if now.holds(row)]
    return distance(plan, now, *(there or rows)[0])


def _of_one(plan: Plan, now: Standing, condition: Any, node: int) -> str:
    (part, row), *_ = rows_of(now, condition, node)
    text = distance(plan, now, part, row)
    wait_s = condition.on_s if isinstance(condition, doc.Lasting) else 0.0
    if wait_s and now.holds(row) and not now.holds(node):
        return f"{text}, counts after {span(wait_s)}"
    return text


def _leaf(now: Standing, node: int) -> int:
    """The row that looks at the value, under the delays of a band."""
    while _kind(now, node) in (con.NODE_FOR, con.NODE_PULSE, con.NODE_ANY, con.NODE_ALL):
        members = _members(now, node)
        if not members:
            break
        node = members[0]
    return node


def _on_value(plan: Plan, now: Standing, condition: Any, node: int) -> str:
    leaf = _leaf(now, node)
    spec = now.compiled.tables.conditions[leaf]
    value = float(now.values[spec.signal])
    name, unit = reading_name(plan, condition.probe), reading_unit(plan, condition.probe)
    if isinstance(condition, doc.Rate):
        unit = f"{unit} a minute"
    if isinstance(condition, doc.Gas):
        unit = " times clean air"
    if not now.good[spec.signal] or math.isnan(value):
        return f"{name} has no valid reading"
    on, off, rising = spec.on, spec.off, spec.rising == 1
    places = 2 if abs(on - off) < 0.5 else 1
    if now.holds(leaf):
        left = abs(value - off)
        side = "above" if rising else "below"
        return f"{figure(value, places)}{unit}, {figure(left, places)} {side} its end"
    left = abs(on - value)
    side = "below" if rising else "above"
    return f"{figure(left, places)}{unit} {side} {short(on)}"


def _when(plan: Plan, now: Standing, edge_ms: int | None, word: str) -> str:
    if edge_ms is None:
        return "not within a week"
    return f"{word} {near(edge_ms, now.at_ms, plan.house.time_zone)}"


def _window(plan: Plan, now: Standing, condition: doc.InWindow, node: int) -> str:
    schedule = next(s for s in plan.schedules if s.id == condition.schedule)
    edge_ms = next_edge_ms(plan, schedule, now.at_ms)
    return _when(plan, now, edge_ms, f"“{schedule.name}” until" if now.holds(node) else "next")


def _sun(plan: Plan, now: Standing, condition: doc.Sun, node: int) -> str:
    edge_ms = next_sun_ms(plan, now.at_ms, round(condition.offset_min * 60_000))
    return _when(plan, now, edge_ms, "until" if now.holds(node) else "next")


def _load(plan: Plan, now: Standing, condition: doc.LoadState | doc.Position, _node: int) -> str:
    load = plan.load(condition.load)
    if load is None or condition.load not in now.states:
        return condition_words(plan, condition)
    state = load_device(load).state_word(now.states[condition.load])
    return f"{load.name} is {state[:1].lower()}{state[1:]}"


def _value(now: Standing, node: int) -> float:
    return float(now.values[now.compiled.tables.conditions[node].signal])


def _within(plan: Plan, now: Standing, condition: doc.Within, node: int) -> str:
    unit = reading_unit(plan, condition.probe)
    return f"{reading_name(plan, condition.probe)} at {figure(_value(now, node))}{unit}"


def _tape(plan: Plan, now: Standing, condition: doc.Tape, node: int) -> str:
    return f"{reading_name(plan, condition.probe)} at {figure(_value(now, _leaf(now, node)), 0)} kΩ"


def _presence(plan: Plan, now: Standing, condition: doc.Presence, node: int) -> str:
    who = "somebody" if now.holds(node) else "nobody"
    return f"{reading_name(plan, condition.probe)} sees {who}"


def _contact(plan: Plan, now: Standing, condition: doc.Contact, node: int) -> str:
    closed = condition.closed == now.holds(node)
    return f"{reading_name(plan, condition.probe)} is {'closed' if closed else 'open'}"


def _count(plan: Plan, now: Standing, condition: doc.CountAbove, node: int) -> str:
    door = next((d.name for d in plan.doorways if d.id == condition.doorway), "the doorway")
    holds, value = now.holds(node), condition.value
    if not value:
        return f"{'somebody' if holds else 'nobody'} is inside by {door}"
    people = f"{value} {'person is' if value == 1 else 'people are'} inside by {door}"
    return f"{'more than' if holds else 'at most'} {people}"


def _mode(plan: Plan, now: Standing, condition: doc.InMode, node: int) -> str:
    mode = next(m for m in plan.modes if m.id == condition.mode)
    return f"{mode.name} is {'' if now.holds(node) else 'not '}“{condition.value}”"


def _judged(plan: Plan, now: Standing, condition: doc.QualityIs, _node: int) -> str:
    return _quality(plan, now, condition.probe)


WORDS: dict[type, Callable[[Plan, Standing, Any, int], str]] = {
    doc.Named: _named,
    doc.Every: _every,
    doc.Some: _some,
    doc.Unless: _of_one,
    doc.Lasting: _of_one,
    doc.Edge: _of_one,
    **dict.fromkeys(ON_VALUES, _on_value),
    doc.InWindow: _window,
    doc.Sun: _sun,
    doc.LoadState: _load,
    doc.Position: _load,
    doc.Within: _within,
    doc.Tape: _tape,
    doc.Presence: _presence,
    doc.Contact: _contact,
    doc.CountAbove: _count,
    doc.InMode: _mode,
    doc.QualityIs: _judged,
}
