"""Conditions, claims and actions of a case as those of a plan."""

from typing import Any

from tests.core.engine.cases.words import ENDS

from aldea.core.plan import conditions as con
from aldea.core.plan.controls import LoadGroup, OnlyIn
from aldea.core.plan.document import Rule

NOT_GOOD = ("warming", "range", "jump", "stuck", "stale")


def s(ms):
    return ms / 1000


class Rules:
    """Turns what a case says into parts of a plan; groups and suns are kept as they come up."""

    def __init__(self, case, names):
        self.case, self.names = case, names
        self.groups: list[LoadGroup] = []
        self.suns: list[dict[str, Any]] = []
        self.said: list[list[dict[str, Any]]] = []

    def condition(self, d):
        if isinstance(d, str):
            return con.Named(condition=self.names.give("condition", d))
        made = getattr(self, "_" + d["is"])(d)
        without = d.get("without_reading", "keep")
        if isinstance(without, dict):
            stated = {"without_reading": str(without["then"]).lower()}
            return made.model_copy(update={**stated, "unchanged_for_s": s(without["keep_ms"])})
        return made.model_copy(update={"without_reading": without}) if without != "keep" else made

    def _band(self, d):
        rising = d["on"] >= d["off"] and not d.get("falling", False)
        return con.Band(
            probe=self.names.reading(d["probe"]),
            direction="rising" if rising else "falling",
            on_threshold=float(d["on"]),
            off_threshold=float(d["off"]),
            retained="retain" in d,
        )

    def _above(self, d):
        return con.Beyond(
            kind=d["is"],
            probe=self.names.reading(d["probe"]),
            value=float(d["value"]),
            hysteresis=float(d.get("gap", 0)),
        )

    _below = _above

    def _difference(self, d):
        return con.Difference(
            probe=self.names.reading(d["a"]),
            less=self.names.reading(d["b"]),
            on_threshold=float(d["on"]),
            off_threshold=float(d["off"]),
        )

    def _rate(self, d):
        return con.Rate(
            probe=self.names.reading(d["probe"]),
            over_s=s(d["over_ms"]),
            on_threshold=float(d["on"]),
            off_threshold=float(d["off"]),
        )

    def _state_range(self, d):
        low, high = (None if edge is None else float(edge) for edge in d["range"])
        return con.Within(probe=self.names.reading(d["probe"]), low=low, high=high)

    def _contact(self, d):
        if isinstance(d.get("value"), str):  # one of several levels: a line that has it or not
            line = self.names.give("input", (d["input"], d["value"]))
            return con.Contact(probe=line, closed=True)
        return con.Contact(
            probe=self.names.give("input", d["input"]), closed=bool(d.get("value", True))
        )

    def _presence(self, d):
        return con.Presence(probe=self.names.give("input", d["input"]), hold_s=s(d["hold_ms"]))

    def _for(self, d):
        return con.Lasting(
            of=self.condition(d["of"]), on_s=s(d.get("on_ms", 0)), off_s=s(d.get("off_ms", 0))
        )

    def _pulse(self, d):
        return con.Edge(of=self.condition(d["of"]), for_s=s(d["ms"]))

    def _all(self, d):
        return con.Every(of=tuple(self.condition(m) for m in d["of"]))

    def _any(self, d):
        return con.Some(of=tuple(self.condition(m) for m in d["of"]))

    def _not(self, d):
        return con.Unless(of=self.condition(d["of"]))

    def _window(self, d):
        return con.InWindow(schedule=self.names.give("schedule", d["schedule"]))

    def _sun(self, d):
        self.suns.append(d)
        sun = con.Sun(state=d["state"], when_clock_unknown=d.get("when_clock_unknown", False))
        name = f"sun_{len(self.suns) - 1}"
        self.case.setdefault("_suns", []).append(con.NamedCondition(id=name, condition=sun))
        return con.Named(condition=name)

    def _mode(self, d):
        return con.InMode(mode=self.names.give("mode", d["mode"]), value=str(d["value"]))

    def _load(self, d):
        load, state = self.names.give("load", d["load"]), d["state"]
        if self.case["loads"][d["load"]]["kind"] == "drive" and state in POSITIONS:
            return con.Position(load=load, state=POSITIONS[state])
        words = {
            "any on": "any_on",
            "did not arrive": "missed",
            "off": "off",
            "on": "on",
            "open": "on",
            "closed": "off",
        }
        if state in words:
            return con.LoadState(load=load, state=words[state])
        word, n = state.split()
        level = int(n) if word == "step" else pattern_level(self.case["loads"][d["load"]], n)
        return con.LoadState(load=load, level=level)

    def _count_above(self, d):
        return con.CountAbove(
            doorway=self.names.give("doorway", d["doorway"]), value=int(d["value"])
        )

    def _quality(self, d):
        return con.QualityIs(probe=self.names.give("probe", d["probe"]), among=tuple(d["in"]))

    def _clock_known(self, d):
        return con.ClockKnown()

    def _always(self, d):
        return con.Always()

    def rule(self, load, d):
        row = self.case["loads"][load]
        fields = {
            "id": self.names.give("claim", (load, d["id"])),
            "load": self.names.give("load", load),
            "priority": d["level"],
            **want_of(row, d.get("want", "off")),
        }
        if "pulse_ms" in d:
            fields["pulse_s"] = s(d["pulse_ms"])
        if "when" in d:
            return Rule(condition=self.condition(d["when"]), **fields)
        return Rule(
            probe=self.names.give("probe", d["probe"]),
            qualities=tuple(d.get("qualities", NOT_GOOD)),
            after_s=s(d.get("after_ms", 0)),
            **fields,
        )

    def wants(self, a):
        """What an action, or a list of them, comes to, as the fields of what a hand wants."""
        if isinstance(a, list):
            return [want for one in a for want in self.wants(one)]
        found = []
        if "mode" in a:
            value = {"value": str(a["set"])} if "set" in a else {}
            found.append({"does": "mode", "mode": self.names.give("mode", a["mode"]), **value})
        if "reset" in a:
            trip = (
                {"trip": self.names.give("claim", (a["reset"], a["trip"]))} if "trip" in a else {}
            )
            found.append({"does": "reset", "load": self.names.give("load", a["reset"]), **trip})
        ends = {"ends_by": ENDS[a["school"]]} if "school" in a else {}
        if "for_ms" in a:
            ends["for_s"] = s(a["for_ms"])
        for key in ("give_back", "hand", "toggle"):
            if key in a:
                does = {"does": "automatic" if key == "give_back" else key}
                if key == "hand":
                    does = self._override(a["hand"][0], a["want"])
                rest = {} if key == "give_back" else ends
                found.append({**does, **self._who(a[key]), **rest})
        if "group" in a:
            first = self.case["groups"][a["group"]]["members"][0]
            group = self.names.give("group", a["group"])
            found.append({**self._override(first, a["want"]), "group": group, **ends})
        if "step" in a:
            way = "up" if a["by"] > 0 else "down"
            load = self.names.give("load", a["step"])
            found.append({"does": way, "by": abs(a["by"]), "load": load, **ends})
        if "only" in a:
            only = OnlyIn(
                mode=self.names.give("mode", a["only"]["mode"]), value=str(a["only"]["value"])
            )
            for want in found:
                want["only"] = only
                want["ends_with_mode"] = a.get("ends_with_mode", False)
        return found

    def _override(self, load, want):
        made = want_of(self.case["loads"][load], want)
        does = "close" if made["want"] == "shut" else made["want"]
        return {"does": does, **({"step": made["level"]} if "level" in made else {})}

    def _who(self, loads):
        if len(loads) == 1:
            return {"load": self.names.give("load", loads[0])}
        members = tuple(self.names.give("load", load) for load in loads)
        group = LoadGroup(
            id=f"group_{len(self.groups)}", name="group", members=members, stagger_s=0.0
        )
        self.groups.append(group)
        return {"group": group.id}


POSITIONS = {"open": "open", "closed": "shut", "moving": "moving", "unknown": "unknown"}


def pattern_level(row, number):
    """Patterns of a case are the second and following ones of a plan's load."""
    return list(row["patterns"]).index(number) + 2


def want_of(row, want):
    if want == "on" and row["kind"] == "stepped":
        return {"want": "step", "level": min(int(n) for n in row["steps"])}
    if want in ("off", "on", "open", "pulse"):
        return {"want": want}
    if want == "close":
        return {"want": "shut"}
    word, number = want.split()
    if word == "pattern":
        return {"want": "pattern", "level": pattern_level(row, number)}
    return {"want": "step", "level": int(number)} if int(number) else {"want": "off"}
