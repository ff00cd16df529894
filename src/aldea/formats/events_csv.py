"""Events of a run as CSV: the same bytes from the page and from the terminal."""

import csv
import io
import json
import math
from datetime import UTC, datetime, timedelta

from aldea.core.engine import layout as lay
from aldea.core.engine.replay import Event, Run
from aldea.formats.cells import safe_cell

HEADING = ("time_utc", "event_type", "who", "from", "to", "decided_by", "delayed_by", "value")
POWER = ("off", "on")


def events_csv(run: Run) -> str:
    """All events of a run in order of time, one a line."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADING)
    for event in run.events():
        row = _row(run, event)
        if row is not None:
            writer.writerow([_utc(event.t_ms), *(safe_cell(cell) for cell in row)])
    return out.getvalue()


def state_text(run: Run, load: int, state: int) -> str:
    """A load's state in a file: off, on, step 2, pattern 1, open, shut, moving, unknown."""
    kind = run.compiled.plan.load(run.compiled.load_ids[load])
    if kind is None or state == lay.NO_WISH:
        return ""
    if kind.drive is not None:
        return ("shut", "open", "moving", "unknown")[state]
    if kind.valve is not None:
        return ("shut", "open")[state]
    if kind.stepped is not None and state:
        return f"step {state}"
    if kind.pattern is not None and state > 1:
        return f"pattern {state - 1}"
    return POWER[min(state, 1)]


def _row(run: Run, event: Event) -> tuple[str, ...] | None:
    compiled = run.compiled
    value = "" if math.isnan(event.value) else f"{event.value:.4f}"
    if event.event_type == lay.EVENT_LOAD:
        was, now = (state_text(run, event.who, s) for s in (event.state_from, event.state_to))
        decided = _decided(run, event)
        delayed = lay.INHIBIT_NAMES[event.inhibit or event.kept]
        return ("load", compiled.load_ids[event.who], was, now, decided, delayed, value)
    if event.event_type == lay.EVENT_PROBE:
        was, now = lay.QUALITY_NAMES[event.state_from], lay.QUALITY_NAMES[event.state_to]
        return ("probe", compiled.probe_ids[event.who], was, now, "", "", value)
    if event.event_type == lay.EVENT_POWER:
        was, now = POWER[event.state_from], POWER[event.state_to]
        return ("power", "panel", was, now, "", "", "")
    if event.event_type == lay.EVENT_BOOT:
        slot = "defaults" if event.state_from < 0 else f"slot {'AB'[event.state_from]}"
        return ("boot", "panel", slot, f"record {event.state_to}", "", "", "")
    if event.event_type == lay.EVENT_TRIP:
        rule = compiled.rule_rows[event.rule].rule or ""
        now = "tripped" if event.state_to else "reset"
        by = run.author(event.author)
        return ("trip", compiled.load_ids[event.who], "", now, f"trip: {rule}", by, "")
    if event.event_type == lay.EVENT_MISSED:
        missed = lay.MISSED_NAMES[event.state_to]
        return ("missed", compiled.load_ids[event.who], "", missed, "", "", "")
    if event.event_type == lay.EVENT_MODE:
        mode = compiled.plan.modes[event.who]
        was, now = mode.values[event.state_from], mode.values[event.state_to]
        return ("mode", mode.id, was, now, run.author(event.author), "", "")
    name = next((name for name, row in compiled.conditions.items() if row == event.who), "")
    was, now = ("no" if event.state_from < 1 else "yes"), ("yes" if event.state_to else "no")
    return ("condition", name, was, now, "", "", "") if name else None


def _decided(run: Run, event: Event) -> str:
    rule = run.rule_row(event.decider)
    if rule is None:
        return "no power"
    decided = lay.PRIORITY_NAMES[rule.priority]
    if rule.priority == lay.PRIORITY_OVERRIDE:
        return f"{decided}: {run.author(event.decided_by)}"
    cause = run.rule_row(event.cited)
    named = (cause.rule or cause.probe) if cause is not None else None
    return f"{decided}: {named}" if named else decided


def lines_csv(run: Run) -> str:
    """Every change of a relay's line, one a row; an empty level is no power."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("time_utc", "load", "relay", "level"))
    for t_ms, line, level in run.lines.tolist():
        name = run.compiled.line_names[line]
        shown = "" if level == lay.NO_LEVEL else str(level)
        writer.writerow((_utc(t_ms), name.load, name.relay or name.role, shown))
    return out.getvalue()


def retained_lines(run: Run) -> str:
    """Every write into memory as a line of JSON: instant, slot, sequence number, cells by field."""
    fields_of = run.compiled.tables.fields
    text = []
    for (t_ms, slot, sequence), cells in zip(run.writes.tolist(), run.cells.tolist(), strict=True):
        fields = {
            name: cells[field.cell]
            if field.end - field.cell == 1
            else cells[field.cell : field.end]
            for name, field in zip(run.compiled.field_names, fields_of, strict=True)
        }
        row = {"time_utc": _utc(t_ms), "slot": "AB"[slot], "sequence": sequence, "fields": fields}
        text.append(json.dumps(row))
    return "".join(f"{line}\n" for line in text)


def _utc(t_ms: int) -> str:
    moment = datetime(1970, 1, 1, tzinfo=UTC) + timedelta(milliseconds=t_ms)
    return moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")
