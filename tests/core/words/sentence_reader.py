"""Reads the clause of a condition back: the grammar of docs/rules.md, and nothing else.

Written from the grammar, not from the writer: who can read a printed page can rebuild the rule.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from aldea.core.plan import conditions as con
from aldea.core.plan.document import Plan

NUMBER = r"(−?[0-9.]+)"
UNIT = r"(?: [^ ,()]+)?"
NOTHING: Mapping[str, Any] = {}
GROUPS = {
    "all of these are true": (con.Every, False),
    "any of these is true": (con.Some, False),
    "not all of these are true": (con.Every, True),
    "none of these is true": (con.Some, True),
}
SECONDS = {"d": 86_400, "h": 3600, "min": 60, "s": 1}
QUALITIES = {
    "warming up": "warming", "out of range": "range", "jumping": "jump", "stuck": "stuck",
    "stale": "stale",
}  # fmt: skip


@dataclass
class Line:
    """A line of a clause with the lines under it."""

    text: str
    under: list["Line"] = field(default_factory=list)


def lines_of(words: str) -> Line:
    """The lines as a tree, by their indents."""
    first, *others = words.split("\n")
    top = Line(first)
    path = [top]
    for line in others:
        depth = len(line) - len(line.lstrip("\u2003"))
        made = Line(line[depth:].removeprefix("· "))
        path = [*path[: depth + 1], made]
        path[-2].under.append(made)
    return top


def seconds(words: str) -> float:
    """A duration back in seconds."""
    return sum(float(n) * SECONDS[unit] for n, unit in re.findall(r"([0-9.]+) (d|h|min|s)", words))


def number(words: str) -> float:
    return float(words.replace("−", "-"))


class Reader:
    """Reads clauses of one house, whose names it knows."""

    def __init__(self, plan: Plan) -> None:
        self.probes = {probe.name: probe.id for probe in plan.probes}
        self.loads = {load.name: load.id for load in plan.loads}
        self.modes = {mode.name: mode.id for mode in plan.modes}
        self.doorways = {door.name: door.id for door in plan.doorways}
        self.schedules = {one.name: one.id for one in plan.schedules}
        self.conditions = {one.name: one.id for one in plan.conditions}

    def read(self, words: str) -> Any:
        """The condition of a clause."""
        return self._line(lines_of(words))

    def _line(self, line: Line) -> Any:  # noqa: PLR0911
        text = line.text
        if m := re.fullmatch(r"for at least ([^,:]+): (with an off delay of .+)", text):
            return con.Lasting(of=self._line(Line(m[2], line.under)), on_s=seconds(m[1]), off_s=0.0)
        waits = r"(for at least ([^,]+), )?(with an off delay of ([^,]+), )?(.+)"
        m = re.fullmatch(waits, text)
        if m and (m[1] or m[3]):
            inner = self._line(Line(m[5], line.under))
            return con.Lasting(of=inner, on_s=seconds(m[2] or ""), off_s=seconds(m[4] or ""))
        if m := re.fullmatch(r"for ([^,]+?) from when (.+)", text):
            return con.Edge(of=self._line(Line(m[2], line.under)), for_s=seconds(m[1]))
        if m := re.fullmatch(r"for ([^,]+?) each time (.+) (closes|opens)", text):
            contact = con.Contact(probe=self.probes[m[2]], closed=m[3] == "closes")
            return con.Edge(of=contact, for_s=seconds(m[1]))
        if text.startswith("it is not true that "):
            return con.Unless(of=self._line(Line(text[20:], line.under)))
        if line.under:
            return self._group(line)
        return self._leaf(text)

    def _group(self, line: Line) -> Any:
        m = re.fullmatch(r"(.+? true)(?: for ([^(]+?))?(?: \(off delay (.+)\))?:", line.text)
        assert m, line.text
        kind, denied = GROUPS[m[1]]
        made: Any = kind(of=tuple(self._line(one) for one in line.under))
        if denied:
            return con.Unless(of=made)
        if m[2] or m[3]:
            return con.Lasting(of=made, on_s=seconds(m[2] or ""), off_s=seconds(m[3] or ""))
        return made

    def _leaf(self, text: str, stated: Mapping[str, Any] = NOTHING) -> Any:
        unread = r"(.+) \(without a valid reading: (true|false)(?: after ([^()]+))?\)"
        if m := re.fullmatch(unread, text):
            told = {"without_reading": m[2], "unchanged_for_s": seconds(m[3] or "")}
            return self._leaf(m[1], told)
        waits = r"(.+) \((?:on delay ([^,()]+))?(?:, )?(?:off delay ([^,()]+))?\)"
        if (m := re.fullmatch(waits, text)) and (m[2] or m[3]):
            on_s, off_s = seconds(m[2] or ""), seconds(m[3] or "")
            return con.Lasting(of=self._leaf(m[1], stated), on_s=on_s, off_s=off_s)
        if text in ("always", "the clock is set"):
            return con.Always() if text == "always" else con.ClockKnown()
        for read in (self._time, self._people, self._value, self._state):
            made = read(text, stated)
            if made is not None:
                return made
        raise AssertionError(f"nothing of the grammar: {text}")

    def _time(self, text: str, _stated: Mapping[str, Any]) -> Any:
        if m := re.fullmatch(r"the time is (within|outside) “(.+?)” \(.+\)", text):
            made = con.InWindow(schedule=self.schedules[m[2]])
            return made if m[1] == "within" else con.Unless(of=made)
        edge = r"(?:([0-9.]+) min (after|before) )?(sunset|sunrise)"
        if m := re.fullmatch(rf"the time is from {edge} to {edge}", text):
            off = float(m[1] or 0) * (-1 if m[2] == "before" else 1)
            return con.Sun(state="down" if m[3] == "sunset" else "up", offset_min=off)
        return None

    def _people(self, text: str, _stated: Mapping[str, Any]) -> Any:
        if m := re.fullmatch(r"somebody is inside by (.+)", text):
            return con.CountAbove(doorway=self.doorways[m[1]], value=0)
        if m := re.fullmatch(r"more than (\d+) (?:person is|people are) inside by (.+)", text):
            return con.CountAbove(doorway=self.doorways[m[2]], value=int(m[1]))
        if m := re.fullmatch(r"(.+) detects somebody(?:, or did in the last (.+))?", text):
            held = seconds(m[2]) if m[2] else None
            return con.Presence(probe=self.probes[m[1]], hold_s=held)
        if m := re.fullmatch(r"(.+) detects nobody", text):
            return con.Unless(of=con.Presence(probe=self.probes[m[1]]))
        if m := re.fullmatch(r"(.+) has detected nobody for (.+)", text):
            return con.Unless(of=con.Presence(probe=self.probes[m[1]], hold_s=seconds(m[2])))
        return None

    def _value(self, text: str, stated: Mapping[str, Any]) -> Any:  # noqa: PLR0911
        lamp = re.fullmatch(r"(.+) \(without (.+)’s? own (?:([0-9.]+) lx|light)\)", text)
        body = lamp[1] if lamp else text
        pair = rf"{NUMBER}{UNIT} or (above|below)(?:, until {NUMBER}{UNIT} or (above|below))?"
        if m := re.fullmatch(rf"(.+?) is {pair}", body):
            on, off = number(m[2]), number(m[4] or m[2])
            probe, rising = self.probes[m[1]], m[3] == "above"
            if lamp:
                return con.Dark(
                    probe=probe, value=on, hysteresis=off - on, lamp=self.loads[lamp[2]],
                    lamp_lx=float(lamp[3]) if lamp[3] else None, **stated,
                )  # fmt: skip
            kind: Any = "above" if rising else "below"
            return con.Beyond(kind=kind, probe=probe, value=on, hysteresis=abs(on - off), **stated)
        side = rf"at (least|most) {NUMBER}{UNIT} (?:warmer than|above) (.+?)"
        if m := re.fullmatch(rf"(.+?) is {side}(?:, until {NUMBER}{UNIT} or (?:less|more))?", body):
            return con.Difference(
                probe=self.probes[m[1]], less=self.probes[m[4]], on_threshold=number(m[3]),
                off_threshold=number(m[5] or m[3]), **stated,
            )  # fmt: skip
        rate = rf"(?:rises|changes) by {NUMBER}{UNIT} or (?:more|less) over ([^,]+)"
        if m := re.fullmatch(rf"(.+?) {rate}(?:, until {NUMBER}{UNIT} or (?:more|less))?", body):
            return con.Rate(
                probe=self.probes[m[1]], over_s=seconds(m[3]), on_threshold=number(m[2]),
                off_threshold=number(m[4] or m[2]), **stated,
            )  # fmt: skip
        ends = rf"(?:at least {NUMBER}{UNIT})?(?: and )?(?:below {NUMBER}{UNIT})?"
        if (m := re.fullmatch(rf"(.+?) is {ends}", body)) and (m[2] or m[3]):
            low, high = (number(end) if end else None for end in (m[2], m[3]))
            return con.Within(probe=self.probes[m[1]], low=low, high=high, **stated)
        if m := re.fullmatch(r"(.+) is at least ([0-9.]+) times clean air \(a hint only\)", body):
            return con.Gas(probe=self.probes[m[1]], ratio=float(m[2]), **stated)
        return None

    def _state(self, text: str, stated: Mapping[str, Any]) -> Any:  # noqa: PLR0911
        if m := re.fullmatch(r"“(.+)” is true", text):
            return con.Named(condition=self.conditions[m[1]])
        if m := re.fullmatch(r"(.+) is “(.+)”", text):
            return con.InMode(mode=self.modes[m[1]], value=m[2])
        if m := re.fullmatch(r"(.+) has (a|no) valid reading", text):
            good: Any = ("good",) if m[2] == "a" else ("warming", "range", "jump", "stuck", "stale")
            return con.QualityIs(probe=self.probes[m[1]], among=good)
        name, _, state = text.partition(" is ")
        if name in self.loads:
            if m := re.fullmatch(r"on (?:step|pattern) (\d+)", state):
                return con.LoadState(load=self.loads[name], level=int(m[1]))
            return con.LoadState(load=self.loads[name], state="any_on" if state == "on" else "off")
        words: Any = re.split(", | or ", state)
        if state in ("open", "closed"):
            return con.Contact(probe=self.probes[name], closed=state == "closed")
        if all(word in QUALITIES for word in words):
            among: Any = tuple(QUALITIES[word] for word in words)
            return con.QualityIs(probe=self.probes[name], among=among)
        return con.Tape(probe=self.probes[name], states=tuple(words), **stated)
