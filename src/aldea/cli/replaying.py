"""`aldea replay` and `aldea check`: a plan file and logs in, what it does and what is wrong out."""

import sys
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime
from pathlib import Path

from aldea.core.base.errors import InputError, PlanError
from aldea.core.base.figures import figure, thousands, years
from aldea.core.base.instants import MS_PER_DAY, ms_of, stamp
from aldea.core.devices.finding import Finding
from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.engine.replay import Run
from aldea.core.engine.scans import in_python
from aldea.core.physics.memory_life import ASSUMED_ENDURANCE, SLOTS, memory_years
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.rehearsal import as_recorded, replay_faulty
from aldea.core.wiring.findings import findings
from aldea.formats.calendar_ics import dates_of_ics, ics_of
from aldea.formats.csv_log import read_csv_log
from aldea.formats.events_csv import events_csv, lines_csv, retained_lines
from aldea.formats.log_options import HEAD_BYTES, LogOptions, head_rows
from aldea.formats.log_report import LogReport
from aldea.formats.log_units import Spoken, options_for, unit_in_log, units_of
from aldea.native.engine import load_engine
from aldea.store.settings import Settings

WRONG, RIGHT = 1, 0
LEVELS = {"open": 0, "closed": 1}


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What was typed at the terminal."""

    plan: Path
    logs: tuple[str, ...]
    out: Path | None
    probe: str
    zone: str
    columns: tuple[str, ...]
    units: tuple[str, ...]
    plain: bool
    last: str
    cuts: tuple[str, ...]
    silences: tuple[str, ...]
    stuck: tuple[str, ...]
    beyond: tuple[str, ...]
    contacts: tuple[str, ...]
    clocks: tuple[str, ...]
    walls: tuple[str, ...]
    boots: bool
    lines: Path | None
    retained: Path | None


def _readable(path: Path) -> Path:
    if not path.is_file():
        raise InputError(str(path), got="no such file", allowed="a file that can be read")
    return path


def _read_by(compiled: CompiledPlan) -> tuple[str, ...]:
    contacts = (name.partition(":")[2] for name in compiled.input_ids if name.startswith("probe:"))
    return tuple(dict.fromkeys((*compiled.probe_ids, *contacts)))


def _probe_of(plan: Plan, compiled: CompiledPlan, wanted: str) -> Probe:
    read = _read_by(compiled)
    if not wanted and len(read) == 1:
        wanted = read[0]
    chosen = plan.probe(wanted) if wanted else None
    if chosen is None or wanted not in read:
        raise InputError(
            "--probe",
            got=repr(wanted) if wanted else "nothing",
            allowed=" or ".join(read) or "a plan with rules",
            fix="Write PROBE=FILE before each log.",
        )
    return chosen


def _instant_ms(text: str, where: str) -> int:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as exc:
        raise InputError(where, got=repr(text), allowed="2025-11-13T18:42:00Z") from exc
    if moment.tzinfo is None:
        raise InputError(where, got=repr(text), allowed="a time with Z or an offset")
    return ms_of(moment)


def _span(text: str, where: str) -> tuple[int, int]:
    start, slash, end = text.partition("/")
    if not slash:
        raise InputError(where, got=repr(text), allowed="FROM/TO, two times with Z or an offset")
    return _instant_ms(start, where), _instant_ms(end, where)


def _traces(wanted: Asked, plan: Plan, compiled: CompiledPlan) -> dict[str, Trace]:
    columns, units = _by_probe(wanted.columns), _by_probe(wanted.units)
    traces: dict[str, Trace] = {}
    for text in wanted.logs:
        name, equals, path = text.partition("=")
        if not equals:
            name, path = wanted.probe, text
        probe = _probe_of(plan, compiled, name)
        with _readable(Path(path)).open("rb") as source:
            head = source.read(HEAD_BYTES)
        zone = wanted.zone or plan.house.time_zone
        options = options_for(head, zone, probe)
        heads = head_rows(head, options.delimiter, options.header_rows)[-1:] or [[]]
        column = columns.get(probe.id, columns.get("", ""))
        if column:
            options = replace(options, value_column=_column(column, heads[0]))
            options = replace(options, unit=unit_in_log(probe, column, None))
        named = units.get(probe.id, units.get("", ""))
        unit = _unit(named, plan, probe) if named else options.unit
        trace, report = read_csv_log(
            Path(path), options, probe.range, spoken=Spoken(plan, probe, unit)
        )
        traces[probe.id] = trace
        print(
            f"aldea: {_took(plan, probe, path, options, heads[0], unit, report)}", file=sys.stderr
        )
    return traces


def _by_probe(texts: tuple[str, ...]) -> dict[str, str]:
    """What is said of each probe's log; under no name what is said of all."""
    rows = [text.rpartition("=") for text in texts]
    return {probe: value for probe, _, value in rows}


def _column(text: str, heading: list[str]) -> int:
    """A column by its number, from 1, or by its heading."""
    if text.isdecimal():
        return int(text) - 1
    names = [name.strip().casefold() for name in heading]
    if text.strip().casefold() not in names:
        raise InputError(
            "--column", got=repr(text), allowed=" or ".join(filter(None, names)) or "a number"
        )
    return names.index(text.strip().casefold())


def _unit(text: str, plan: Plan, probe: Probe) -> str:
    units = units_of(plan, probe)
    known = {word.casefold(): key for key, name in units for word in (key, name) if word}
    if text and text.casefold() not in known:
        allowed = " or ".join(key or name for key, name in units)
        raise InputError("--unit", got=repr(text), allowed=allowed)
    return known.get(text.casefold(), "")


def _took(
    plan: Plan,
    probe: Probe,
    path: str,
    options: LogOptions,
    heading: list[str],
    unit: str,
    report: LogReport,
) -> str:
    """What was taken of a log: which column, in which unit, by which clock, from when to when."""
    at = options.value_column
    named = f" “{heading[at].strip()}”" if at < len(heading) and heading[at].strip() else ""
    unit_name = dict(units_of(plan, probe))[unit]
    clock = f"wall clock of {options.zone}" if options.time_kind in ("local", "serial") else "UTC"
    zone = plan.house.time_zone
    first, last = stamp(report.first_ms, zone), stamp(report.last_ms, zone)
    text = (
        f"{probe.id}: {report.readings} readings of {path}, column {at + 1}{named}, "
        f"{unit_name}, {clock}, {first} to {last}"
    )
    if report.speaks_for:
        text += f"; most lie out of range, try --unit {probe.id}={report.speaks_for}"
    return text


def _faults(wanted: Asked, compiled: CompiledPlan) -> Faults:
    known = _read_by(compiled)

    def of_probes(texts: tuple[str, ...], where: str) -> list[tuple[str, int, int]]:
        probes = []
        for text in texts:
            name, _, span = text.partition("/")
            if name not in known:
                raise InputError(where, got=repr(name), allowed=" or ".join(known) or "a probe")
            probes.append((name, *_span(span, where)))
        return probes

    contacts = []
    for text in wanted.contacts:
        name, _, rest = text.partition("=")
        level, _, span = rest.partition("/")
        if level not in LEVELS:
            raise InputError("--contact", got=repr(text), allowed="PROBE=open/FROM/TO, or =closed/")
        rows = of_probes((f"{name}/{span}",), "--contact")
        contacts += [(*row, LEVELS[level]) for row in rows]
    return Faults(
        silences=tuple(of_probes(wanted.silences, "--silent")),
        stuck=tuple(of_probes(wanted.stuck, "--stuck")),
        beyond=tuple(of_probes(wanted.beyond, "--beyond")),
        contacts=tuple(contacts),
        clocks=tuple(_span(text, "--clock-unknown") for text in wanted.clocks),
        cuts=tuple(_span(text, "--cut") for text in wanted.cuts),
        throws=tuple(_throw(text) for text in wanted.walls),
    )


def _throw(text: str) -> tuple[str, int]:
    load, slash, at = text.partition("/")
    if not slash:
        raise InputError("--wall", got=repr(text), allowed="LOAD/AT, a time with Z or an offset")
    return load, _instant_ms(at, "--wall")


def replay_files(wanted: Asked) -> None:
    """Replay logs through a plan and write its events, and lines and memory where asked for."""
    plan = read_plan(_readable(wanted.plan).read_bytes())
    compiled = compile_plan(as_recorded(plan))
    traces = _traces(wanted, plan, compiled)
    first_ms = min(int(trace.t_ms[0]) for trace in traces.values())
    last_ms = max(int(trace.t_ms[-1]) for trace in traces.values())
    start_ms = first_ms - first_ms % plan.scan_period_ms
    end_ms = _instant_ms(wanted.last, "--last") if wanted.last else last_ms
    faults = _faults(wanted, compiled)
    if not wanted.plain:
        load_engine(Settings().engine)
    run = replay_faulty(
        compiled,
        traces,
        faults,
        start_ms=start_ms,
        end_ms=max(end_ms, start_ms + plan.scan_period_ms),
        boots=wanted.boots,
        scans=in_python if wanted.plain else None,
    )
    _write(wanted, run)
    if wanted.out is not None:
        readings = sum(len(trace) for trace in traces.values())
        print(
            f"aldea: {readings} readings, {len(run.rows)} events to {wanted.out}", file=sys.stderr
        )
    if wanted.retained is not None:
        print(f"aldea: {_memory_words(run)}", file=sys.stderr)


def _memory_words(run: Run) -> str:
    """How often memory was written, and how long it lasts so."""
    days = (run.end_ms - run.start_ms) / MS_PER_DAY
    a_day = len(run.writes) / days
    life = years(memory_years(SLOTS, ASSUMED_ENDURANCE, a_day))
    return (
        f"{len(run.writes)} writes into memory, {figure(a_day)} a day: {life} at "
        f"{thousands(ASSUMED_ENDURANCE)} writes a slot (estimated)"
    )


def _write(wanted: Asked, run: Run) -> None:
    text = events_csv(run)
    if wanted.out is None:
        sys.stdout.write(text)
    else:
        wanted.out.write_text(text, encoding="utf-8")
    if wanted.lines is not None:
        wanted.lines.write_text(lines_csv(run), encoding="utf-8")
    if wanted.retained is not None:
        wanted.retained.write_text(retained_lines(run), encoding="utf-8")


def check_file(path: Path) -> int:
    """Print what is wrong with a plan, worst first; 1 where anything is severe or does not fit."""
    try:
        plan = read_plan(_readable(path).read_bytes())
        compile_plan(plan)
    except PlanError as refused:
        print(f"refused: {refused}")
        return WRONG
    by_weight = sorted(findings(plan), key=lambda finding: WEIGHTS.index(finding.weight))
    for line in _lines(by_weight):
        print(line)
    print(f"aldea: {len(by_weight)} findings", file=sys.stderr)
    return WRONG if any(finding.weight == "severe" for finding in by_weight) else RIGHT


WEIGHTS = ("severe", "warning", "open")


def _lines(findings: list[Finding]) -> Iterator[str]:
    for finding in findings:
        fix = f" {finding.fix}" if finding.fix else ""
        yield f"{finding.weight}: {finding.at}: {finding.head} {finding.why}{fix}"


def calendar_file(
    path: Path, schedule_id: str, *, first: str, last: str, take: Path | None
) -> None:
    """Print a schedule as iCalendar; with `take` the plan with a calendar's dates in it."""
    plan = read_plan(_readable(path).read_bytes())
    schedule = next((row for row in plan.schedules if row.id == schedule_id), None)
    if schedule is None:
        there = ", ".join(row.id for row in plan.schedules)
        raise InputError(
            "schedule",
            got=repr(schedule_id),
            allowed=f"one of {there}" if there else "a plan with schedules",
        )
    zone, begins = plan.house.time_zone, _date(first, "--first")
    if take is None:
        sys.stdout.write(ics_of(schedule, zone=zone, first=begins).decode())
        return
    raw = _readable(take).read_bytes()
    dates, left_out = dates_of_ics(raw, zone=zone, first=begins, last=_date(last, "--last"))
    for words in left_out:
        print(f"aldea: {words}", file=sys.stderr)
    taken = schedule.model_copy(update={"dates": dates})
    rows = tuple(taken if row.id == schedule_id else row for row in plan.schedules)
    sys.stdout.write(plan_text(plan.model_copy(update={"schedules": rows})))


def _date(text: str, where: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as exc:
        raise InputError(where, got=repr(text), allowed="a date such as 2026-03-29") from exc
