"""A case run by an engine, and its channels as the case writes them."""

import copy
import math

import numpy as np
from tests.core.engine.cases.naming import OFFSET_MS, Names
from tests.core.engine.cases.planning import compiled_of
from tests.core.engine.cases.words import ENDS, ENDS_BACK, PRIORITIES

from aldea.core.engine import layout as lay
from aldea.core.engine.fresh import Record, cells_of_fields
from aldea.core.engine.inputs import Code, Inputs, Message, PowerCut
from aldea.core.engine.replay import run_replay
from aldea.core.engine.tables import memory as mem
from aldea.core.engine.tables.people import CATCH_UP_ABSENT, ResetSpec, ScheduleSpec, SunSpec
from aldea.core.engine.tables.rows import I8, I64, cells_of, table_of
from aldea.core.engine.tables.run import CalendarTables
from aldea.core.plan.controls import ControlAction
from aldea.core.readings.samples import Samples

HOLDS = {lay.INHIBIT_NOT_ARRIVING: "not_arriving"}
MISSED = dict(enumerate(lay.MISSED_NAMES))


def calendar_of(case, rules):
    schedules, spans, moments = [], [], []
    for d in case.get("schedules", {}).values():
        first, moment = len(spans), len(moments)
        spans += sorted((a + OFFSET_MS, b + OFFSET_MS) for a, b in d.get("windows", ()))
        moments += sorted(a + OFFSET_MS for a in d.get("moments", ()))
        schedules.append(
            ScheduleSpec(
                first=first,
                end=len(spans),
                moment=moment,
                moment_end=len(moments),
                for_ms=d.get("for_ms", 0),
                unknown=int(d.get("when_clock_unknown", False)),
                catch_up=CATCH_UP_ABSENT if d.get("catch_up") is None else int(d["catch_up"]),
            )
        )
    resets, reset_ms = [], []
    for d in case.get("doorways", {}).values():
        first = len(reset_ms)
        reset_ms += sorted(a + OFFSET_MS for a in d.get("reset_at", ()))
        resets.append(ResetSpec(first=first, end=len(reset_ms)))
    suns, instants = [], []
    for d in rules.suns:
        first = len(instants)
        instants += [(at + OFFSET_MS, int(what == "up")) for at, what in d["instants"]]
        suns.append(
            SunSpec(first=first, end=len(instants), up=int(bool(d.get("up_at_start", False))))
        )
    return CalendarTables(
        schedules=table_of(ScheduleSpec, schedules),
        span_from_ms=cells_of(I64, [span[0] for span in spans]),
        span_to_ms=cells_of(I64, [span[1] for span in spans]),
        moment_ms=cells_of(I64, moments),
        suns=table_of(SunSpec, suns or [SunSpec()]),
        sun_ms=cells_of(I64, [at for at, _ in instants]),
        sun_up=cells_of(I8, [up for _, up in instants]),
        resets=table_of(ResetSpec, resets),
        reset_ms=cells_of(I64, reset_ms),
    )


def inputs_of(case, names, rules):
    levels = []
    for name, changes in case.get("levels", {}).items():
        for t, value in changes:
            levels.append((t + OFFSET_MS, f"probe:{names.give('input', name)}", int(bool(value))))
            for kind, line in list(names.ids):
                if kind == "input" and isinstance(line, tuple) and line[0] == name:
                    key = f"probe:{names.give('input', line)}"
                    levels.append((t + OFFSET_MS, key, int(value == line[1])))
            for button, d in case.get("buttons", {}).items():
                if d["input"] == name:
                    key = f"control:{names.give('button', button)}"
                    levels.append((t + OFFSET_MS, key, int(bool(value))))
            for selector, d in case.get("selectors", {}).items():
                if d["input"] == name:
                    known = list(d["positions"])
                    at = known.index(str(value)) + 1 if str(value) in known else 0
                    key = f"control:{names.give('selector', selector)}"
                    levels.append((t + OFFSET_MS, key, at))
    levels.sort(key=lambda row: row[0])
    messages = []
    for index, (t, kind, who, *action) in enumerate(case.get("messages", ())):
        if kind == "code":
            if who in case.get("codes", {}):
                messages.append(
                    Code(t_ms=t + OFFSET_MS, remote=names.give("code", who), name="code")
                )
            continue
        wants = tuple(ControlAction(**want) for want in rules.said[index])
        acts = action[0] if isinstance(action[0], list) else action
        until = next((one["until_ms"] for one in acts if "until_ms" in one), None)
        messages.append(
            Message(
                t_ms=t + OFFSET_MS,
                author=f"person {who}",
                wants=wants,
                until_ms=None if until is None else until + OFFSET_MS,
            )
        )
    return Inputs(
        levels=levels,
        messages=messages,
        clock=[
            (t + OFFSET_MS, None if now is None else now + OFFSET_MS)
            for t, now in case.get("clock", ())
        ],
        people=list(dict.fromkeys(names.people)),
        cuts=[
            PowerCut(
                from_ms=cut["cut"] + OFFSET_MS,
                to_ms=cut["return"] + OFFSET_MS,
                boot_ms=cut.get("boot_ms", 0),
                clock_kept=cut.get("clock_kept", False),
                torn_after=cut.get("torn_after"),
            )
            for cut in case.get("power", ())
        ],
    )


def samples_of(case, compiled, names):
    rows = [
        (t + OFFSET_MS, compiled.probe_ids.index(names.give("probe", probe)), order, value)
        for probe, samples in case.get("samples", {}).items()
        if probe in case.get("probes", {})
        for order, (t, value) in enumerate(samples)
    ]
    rows.sort(key=lambda row: row[0])
    return Samples(
        t_ms=np.array([row[0] for row in rows], dtype=np.int64),
        probe=np.array([row[1] for row in rows], dtype=np.int64),
        value=np.array([math.nan if row[3] is None else row[3] for row in rows], dtype=np.float64),
    )


class Tell:
    """What came out of a run, in the words of its case."""

    def __init__(self, case, run, names, samples):
        self.case, self.run, self.names, self.samples = case, run, names, samples
        self.compiled = run.compiled
        self.loads = list(case.get("loads", {}))

    def state(self, load, state):
        row = self.case["loads"][load]
        if row["kind"] in ("valve", "drive"):
            return {-1: None, 0: "closed", 1: "open", 2: "moving", 3: "unknown"}[state]
        if row["kind"] == "stepped":
            return f"step {state}" if state else "off"
        if row["kind"] == "indicator" and state > 1:
            return f"pattern {list(row['patterns'])[state - 3]}"
        return "on" if state else "off"

    def author(self, index):
        name = self.run.authors[index]
        return name[7:] if name.startswith("person ") else self.names.names.get(name, name)

    def who(self, rule, author):
        if rule == lay.UNASKED:
            return "moved/unasked"
        row = self.compiled.rule_rows[rule]
        if row.priority == lay.PRIORITY_OVERRIDE:
            return f"hand/{self.author(author)}"
        if row.priority == lay.PRIORITY_DEFAULT:
            load = self.compiled.load_ids.index(row.load)
            last = rule == self.compiled.tables.loads[load].last
            return "rest/last" if last else "rest/rest"
        return f"{lay.PRIORITY_NAMES[row.priority]}/{self.names.names[row.rule][1]}"

    def channel(self, name):
        return [[row[0] - OFFSET_MS, *row[1:]] for row in getattr(self, name)()]

    def _of(self, kind):
        return [event for event in self.run.events() if event.event_type == kind]

    def events(self):
        for e in self._of(lay.EVENT_LOAD):
            if e.state_from != e.state_to and e.rule != lay.NO_POWER:
                load = self.loads[e.who]
                yield [
                    e.t_ms,
                    load,
                    self.state(load, e.state_from),
                    self.state(load, e.state_to),
                    self.who(e.rule, e.author),
                    HOLDS.get(e.kept, lay.INHIBIT_NAMES[e.kept]) or None,
                ]

    def deciders(self):
        seen = {}
        for e in self._of(lay.EVENT_LOAD):
            if e.rule == lay.NO_POWER:
                continue
            load = self.loads[e.who]
            row = self.run.rule_row(e.decider)
            author = e.decided_by if row.priority == lay.PRIORITY_OVERRIDE else None
            now = [self.who(e.decider, author), self.state(load, e.wanted)]
            if seen.get(load) != now:
                seen[load] = now
                yield [e.t_ms, load, *now]

    def lines(self):
        for t, line, level in self.run.lines.tolist():
            relay = self.compiled.line_names[line].relay
            if relay is not None:
                yield [t, self.names.names[relay], None if level == lay.NO_LEVEL else level]

    def quality(self):
        seen = {}
        first = OFFSET_MS
        rows = [(e.t_ms, e.who, lay.QUALITY_NAMES[e.state_to]) for e in self._of(lay.EVENT_PROBE)]
        for p in range(len(self.compiled.probe_ids)):
            if not any(t == first and who == p for t, who, _ in rows):
                rows.append((first, p, "warming"))
        for t, p, quality in sorted(rows, key=lambda row: row[0]):
            if seen.get(p) != quality:
                seen[p] = quality
                yield [t, self.names.names[self.compiled.probe_ids[p]], quality]

    def conditions(self):
        rows = {row: name for name, row in self.compiled.conditions.items()}
        for e in self._of(lay.EVENT_CONDITION):
            name = rows[e.who]
            if name in self.names.names:
                yield [e.t_ms, self.names.names[name], bool(e.state_to)]

    def values(self):
        s = self.samples
        for i, (value, quality) in enumerate(
            zip(self.run.trace.tolist(), self.run.qualities.tolist(), strict=True)
        ):
            if quality >= 0 and not math.isnan(s.value[i]):
                name = self.names.names[self.compiled.probe_ids[s.probe[i]]]
                shown = None if math.isnan(value) else value
                yield [int(s.t_ms[i]), name, shown, lay.QUALITY_NAMES[quality]]

    def notes(self):
        for e in self.run.events():
            if e.event_type == lay.EVENT_BOOT:
                slot = "defaults" if e.state_from < 0 else "AB"[e.state_from]
                yield [e.t_ms, "boot", slot, e.state_to]
            elif e.event_type == lay.EVENT_TRIP:
                rule = self.names.names[self.compiled.rule_rows[e.rule].rule][1]
                yield [e.t_ms, "tripped" if e.state_to else "reset", self.loads[e.who], rule]
            elif e.event_type == lay.EVENT_MISSED:
                what = ["not_arriving"] if e.state_to == lay.MISSED_RESET else []
                yield [e.t_ms, MISSED[e.state_to], self.loads[e.who], *what]

    def writes(self):
        for (t, slot, sequence), cells in zip(
            self.run.writes.tolist(), self.run.cells.tolist(), strict=True
        ):
            yield [t, "AB"[slot], sequence, self.fields(cells)]

    def fields(self, cells):
        table = [(f.kind, f.who, f.cell, f.end) for f in self.compiled.tables.fields]
        found = {}
        names = [*self.case["memory"].get("fields", ())]
        for index, (kind, who, first, end) in enumerate(table):
            part = cells[first:end]
            if kind == mem.FIELD_TRIP:
                row = self.compiled.rule_rows[who]
                key = f"trip:{self.names.names[row.load]}/{self.names.names[row.rule][1]}"
                found[key] = bool(part[0])
            elif kind == mem.FIELD_NOT_ARRIVING:
                found[f"not_arriving:{self.loads[who]}"] = bool(part[0])
            else:
                found[names[index]] = self.field(kind, who, part)
        return found

    def field(self, kind, who, part):
        if kind == mem.FIELD_LOAD:
            return self.state(self.loads[who], part[0])
        if kind == mem.FIELD_MODE:
            return list(self.case["modes"].values())[who]["values"][part[0]]
        if kind == mem.FIELD_BAND:
            return bool(part[0])
        if kind == mem.FIELD_COUNT:
            return part[0]
        if kind == mem.FIELD_MOMENTS:
            return [at - OFFSET_MS for at in part[1 : 1 + part[0]]]
        if kind == mem.FIELD_OVERRIDE:
            if not part[mem.OVERRIDE_THERE]:
                return None
            end = part[mem.OVERRIDE_END]
            ends = self.ends_with(part[mem.OVERRIDE_MODE], part[mem.OVERRIDE_VALUE])
            return {
                "want": self.want(self.loads[who], part[mem.OVERRIDE_WANT]),
                "by": self.author(part[mem.OVERRIDE_AUTHOR]),
                "school": ENDS_BACK[lay.ENDS_BY_NAMES[part[mem.OVERRIDE_ENDS_BY]]],
                "end": None if end == mem.NO_END else end - OFFSET_MS,
                **ends,
            }
        if kind == mem.FIELD_GROUP:
            return self.left_of_group(who, part)
        if not part[mem.LOCK_THERE]:
            return None
        first = self.compiled.tables.loads[who].first
        noted = [i for i, bit in enumerate(part[mem.LOCK_FIRST :]) if bit]
        return sorted(self.who(first + i, part[mem.LOCK_AUTHOR]) for i in noted)

    def ends_with(self, mode, value):
        if mode == lay.NONE:
            return {}
        name, d = list(self.case["modes"].items())[mode]
        return {"ends_with": {"mode": name, "value": d["values"][value]}}

    def left_of_group(self, who, part):
        """What is left of a group command, as the case writes it."""
        spec = self.compiled.tables.groups[who]
        rows = self.compiled.tables.group_members[spec.first : spec.end]
        left = [(row, want - 1) for row, want in zip(rows, part[mem.GROUP_FIRST :], strict=True)
                if want]  # fmt: skip
        if not left:
            return None
        ends_by, for_ms, until_ms = part[mem.GROUP_ENDS_BY : mem.GROUP_UNTIL + 1]
        by = self.author(part[mem.GROUP_AUTHOR])
        ends = self.ends_with(part[mem.GROUP_MODE], part[mem.GROUP_VALUE])
        return {
            "want": self.want(self.loads[left[0][0]], left[0][1]),
            "by": by,
            "school": None if ends_by == lay.NONE else ENDS_BACK[lay.ENDS_BY_NAMES[ends_by]],
            "for_ms": None if for_ms == lay.NONE else for_ms,
            "until_ms": None if until_ms == mem.NO_END else until_ms - OFFSET_MS,
            "members": [self.loads[row] for row, _ in left],
            **({"by_selector": True} if by in self.case.get("selectors", {}) else {}),
            **ends,
        }

    def want(self, load, code):
        words = {
            lay.WANT_OFF: "off",
            lay.WANT_ON: "on",
            lay.WANT_OPEN: "open",
            lay.WANT_SHUT: "close",
        }
        return words.get(code) or self.state(load, code - lay.WANT_LEVEL)


def slots_of(case, compiled, names):
    """What memory holds at the start."""
    records = [None, None]
    for slot, record in case.get("memory", {}).get("slots", {}).items():
        if record.get("valid", True):
            cells = encoded(case, compiled, names, record["fields"])
            records["AB".index(slot)] = Record(sequence=record["seq"], cells=cells)
    return records


def encoded(case, compiled, names, fields):
    cells = [0] * cells_of_fields(compiled.tables.fields)
    listed = list(case["memory"].get("fields", ()))
    for index, field in enumerate(compiled.tables.fields):
        kind, who, first, end = field.kind, field.who, field.cell, field.end
        if kind == mem.FIELD_TRIP:
            row = compiled.rule_rows[who]
            key = f"trip:{names.names[row.load]}/{names.names[row.rule][1]}"
            cells[first] = int(bool(fields.get(key, False)))
            continue
        if kind == mem.FIELD_NOT_ARRIVING:
            key = f"not_arriving:{list(case['loads'])[who]}"
            cells[first] = int(bool(fields.get(key, False)))
            continue
        value = fields.get(listed[index])
        cells[first:end] = encoded_field(case, compiled, names, kind, who, value, end - first)
    return cells


def encoded_field(case, compiled, names, kind, who, value, size):
    cells = [0] * size
    load = (
        list(case.get("loads", {}))[who]
        if kind in (mem.FIELD_LOAD, mem.FIELD_OVERRIDE, mem.FIELD_LOCK)
        else None
    )
    if kind == mem.FIELD_LOAD:
        cells[0] = mem.ABSENT if value is None else state_code(case["loads"][load], value)
    elif kind == mem.FIELD_MODE:
        mode = list(case["modes"].values())[who]
        start = mode.get("start", mode["values"][0])
        cells[0] = mode["values"].index(start if value is None else value)
    elif kind == mem.FIELD_MOMENTS and value:
        cells[0] = len(value)
        cells[1 : 1 + len(value)] = [at + OFFSET_MS for at in value]
    elif kind == mem.FIELD_OVERRIDE and value:
        end = value.get("end")
        cells = [
            1,
            want_code(case["loads"][load], value["want"]),
            author_code(compiled, names, value["by"]),
            lay.ENDS_BY_CODES[ENDS[value["school"]]],
            mem.NO_END if end is None else end + OFFSET_MS,
            *mode_of(case, value.get("ends_with")),
        ]
    elif kind == mem.FIELD_GROUP and value:
        cells = group_cells(case, compiled, names, who, value, size)
    elif kind == mem.FIELD_LOCK and value is not None:
        cells[0] = 1
        first = compiled.tables.loads[who].first
        for index in range(size - mem.LOCK_FIRST):
            row = compiled.rule_rows[first + index]
            for noted in value:
                priority, _, rule = noted.partition("/")
                if row.priority == lay.PRIORITY_CODES[PRIORITIES.get(priority, priority)]:
                    if row.priority == lay.PRIORITY_OVERRIDE:
                        cells[mem.LOCK_AUTHOR] = author_code(compiled, names, rule)
                        cells[mem.LOCK_FIRST + index] = 1
                    elif row.rule and names.names[row.rule][1] == rule:
                        cells[mem.LOCK_FIRST + index] = 1
    elif kind in (mem.FIELD_COUNT, mem.FIELD_BAND):
        cells[0] = int(value or 0)
    return cells


def mode_of(case, ends):
    """The mode with which something ends, and its value, as rows."""
    if not ends:
        return [lay.NONE, lay.NONE]
    mode = list(case["modes"]).index(ends["mode"])
    return [mode, case["modes"][ends["mode"]]["values"].index(ends["value"])]


def group_cells(case, compiled, names, who, value, size):
    """What is left of a group command, as cells."""
    until = value.get("until_ms")
    ends_by = value.get("school")
    head = [
        author_code(compiled, names, value["by"]),
        lay.NONE if ends_by is None else lay.ENDS_BY_CODES[ENDS[ends_by]],
        lay.NONE if value.get("for_ms") is None else value["for_ms"],
        mem.NO_END if until is None else until + OFFSET_MS,
        *mode_of(case, value.get("ends_with")),
    ]
    spec = compiled.tables.groups[who]
    loads = list(case["loads"])
    members = [loads[row] for row in compiled.tables.group_members[spec.first : spec.end]]
    left = [
        want_code(case["loads"][load], value["want"]) + 1 if load in value["members"] else 0
        for load in members
    ]
    assert len(head) + len(left) == size
    return [*head, *left]


def state_code(row, state):
    if row["kind"] == "indicator" and state.startswith("pattern"):
        return list(row["patterns"]).index(state.split()[1]) + 3
    simple = {"off": 0, "closed": 0, "on": 1, "open": 1, "moving": 2, "unknown": 3}
    return simple[state] if state in simple else int(state.split()[1])


def want_code(row, want):
    words = {"off": lay.WANT_OFF, "on": lay.WANT_ON, "open": lay.WANT_OPEN, "close": lay.WANT_SHUT}
    return words[want] if want in words else lay.WANT_LEVEL + state_code(row, want)


def author_code(compiled, names, by):
    """The number of an author: a control by its id, else a person who wrote before."""
    for row, author in enumerate(compiled.authors):
        if names.names.get(author, author) == by:
            return row
    people = list(dict.fromkeys(names.people))
    return len(compiled.authors) + people.index(f"person {by}")


def run_case(case, **engine):
    """The observed channels of a case, as an engine gives them."""
    case = copy.deepcopy(case)
    names = Names(case)
    names.people = [f"person {m[2]}" for m in case.get("messages", ()) if m[1] == "page"]
    for record in case.get("memory", {}).get("slots", {}).values():
        for key, value in (record.get("fields") or {}).items():
            if key.startswith(("hand:", "group:")) and value:
                names.people.append(f"person {value['by']}")
            if key.startswith("lock_out:"):
                names.people += [f"person {x[5:]}" for x in value or () if x.startswith("hand/")]
    compiled, rules = compiled_of(case, names)
    samples = samples_of(case, compiled, names)
    inputs = inputs_of(case, names, rules)
    memory = slots_of(case, compiled, names) if "memory" in case else ()
    run = run_replay(
        compiled,
        samples,
        start_ms=OFFSET_MS,
        end_ms=OFFSET_MS + case["until_ms"] + 1,
        inputs=inputs,
        calendar=calendar_of(case, rules),
        memory=memory,
        boots=case.get("start", "boot") == "boot",
        traced=True,
        in_service=False,
        **engine,
    )
    told = Tell(case, run, names, samples)
    return {channel: told.channel(channel) for channel in case.get("observe", ["events"])}
