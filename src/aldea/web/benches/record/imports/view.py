"""An import as a page shows it: where it is, what was counted, how its file is read."""

import math
from collections import Counter
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

from aldea.core.base.figures import short, thousands
from aldea.core.base.instants import offsets, span, stamp
from aldea.core.base.quantities import QUANTITIES
from aldea.core.plan.document import Plan, Probe
from aldea.core.words.verdicts import Verdict
from aldea.formats.log_options import (
    LOCAL_FORMATS,
    LogOptions,
    date_question,
    number_columns,
    usual_columns,
)
from aldea.formats.log_report import LogReport
from aldea.formats.log_units import PLANS_OWN, is_named, quantity_of_heading, speaks_for, units_of
from aldea.store.imports import ImportRun
from aldea.store.imports import State as RunState
from aldea.web.benches.record.imports.columns import NEW

DELIMITER_OPTIONS = ((",", "comma"), (";", "semicolon"), ("tab", "tab"))
DECIMAL_OPTIONS = ((".", "point"), (",", "comma"))
TIME_OPTIONS = (
    ("iso", "ISO 8601 with Z or offset"),
    ("epoch_s", "seconds since 1970"),
    ("epoch_ms", "milliseconds since 1970"),
    ("local", "wall-clock time"),
    ("serial", "spreadsheet day numbers"),
)
JOIN_OPTIONS = (("", "keep the stored readings"), ("yes", "replace the stored readings"))
LEAST_SPOKEN = 2.0  # a heading that names the quantity, or most of the probe's name
BUSY: tuple[RunState, ...] = ("checking", "storing", "withdrawing")
BUSY_WORDS = {"checking": "Counting", "storing": "Storing", "withdrawing": "Undoing it"}
STATE_WORDS = {
    "chosen": "not counted yet",
    "checking": "counting",
    "checked": "counted, not stored",
    "storing": "storing",
    "withdrawing": "undoing it",
    "withdrawn": "undone",
}
MAY_READ_AGAIN = ("chosen", "checked", "refused", "stopped")
AS_WRITTEN = {
    "%Y": "yyyy",
    "%m": "mm",
    "%d": "dd",
    "%H": "hh",
    "%M": "mm",
    "%S": "ss",
    "%I": "hh",
    "%p": "AM/PM",
}

AT_REST: dict[RunState, Verdict] = {
    "chosen": Verdict(
        state="owed",
        sentence="Nothing is stored yet.",
        rest="Check that time and value are right, then check the whole file.",
    ),
    "withdrawn": Verdict(
        state="owed",
        sentence="Undone.",
        rest="Its readings are removed; the readings it replaced are restored.",
    ),
    "refused": Verdict(
        state="fails", sentence="The log was not imported.", rest="Nothing is stored."
    ),
    "stopped": Verdict(state="owed", sentence="Stopped.", rest="Nothing is stored."),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Count:
    """A row of what was counted."""

    label: str
    count: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PreviewRow:
    """One of the first rows of the file, as wide as the widest."""

    cells: tuple[str, ...]
    heading: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherColumn:
    """A column of numbers that nobody reads yet, and the probe that its heading speaks for."""

    column: int
    heading: str
    sample: str
    probe: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Sibling:
    """An import of another column of the same file."""

    id: int
    heading: str
    probe: str
    state: str
    to_store: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportView:
    """Everything that the page of an import shows."""

    run: ImportRun
    verdict: Verdict
    busy: bool
    size: str
    probe_name: str
    heads: tuple[str, ...]
    rows: tuple[PreviewRow, ...]
    read: frozenset[int]
    counts: tuple[Count, ...]
    may_read_again: bool
    to_store: str
    chosen: dict[str, str]
    column_options: tuple[tuple[str, str], ...]
    date_options: tuple[tuple[str, str], ...]
    format_options: tuple[tuple[str, str], ...]
    unit_options: tuple[tuple[str, str], ...]
    unit_name: str
    spoken_for: tuple[str, str]
    others: tuple[OtherColumn, ...]
    siblings: tuple[Sibling, ...]
    probe_options: tuple[tuple[str, str], ...]
    date_asked: str
    store_columns: int
    store_readings: str
    tuned: str

    @property
    def title(self) -> str:
        """What the browser's tab says, also while another one is in front: how far it is."""
        state = STATE_WORDS.get(self.run.state, self.run.state).capitalize()
        if self.busy:
            state = f"{self.run.done_share * 100:.0f} % {state.lower()}"
        return f"{state} · {self.run.file_name}"


def import_view(
    run: ImportRun, rows: list[list[str]], plan: Plan, siblings: list[ImportRun]
) -> ImportView:
    """Finish what is known of an import; `rows` are the first of its file, none once it is gone.

    `siblings` are the imports of the same file, itself among them.
    """
    zone, probe = plan.house.time_zone, plan.probe(run.probe)
    columns = max(usual_columns(rows), 1)
    options = run.options
    named = {options.time_column: "time", options.value_column: "value"}
    if options.date_column is not None:
        named[options.date_column] = "date"
    report = run.report
    heading = rows[options.header_rows - 1] if 0 < options.header_rows <= len(rows) else []
    heads = tuple(
        heading[i].strip()[:40] or f"column {i + 1}" if i < len(heading) else f"column {i + 1}"
        for i in range(columns)
    )
    units = dict(units_of(plan, probe)) if probe else {}
    speaks = report.speaks_for if report else ""
    better = "" if speaks == PLANS_OWN else speaks
    column_options = tuple(
        (str(i), head if head.startswith("column ") else f"{i + 1}: {head}")
        for i, head in enumerate(heads)
    )
    return ImportView(
        run=run,
        verdict=_verdict(run),
        busy=run.state in BUSY,
        size=f"{thousands(round(run.size_bytes / 1000))} kB",
        probe_name=probe.name if probe else run.probe,
        heads=tuple(named.get(i, f"column {i + 1}") for i in range(columns)),
        rows=tuple(
            PreviewRow(
                cells=tuple((row + [""] * columns)[:columns]), heading=index < options.header_rows
            )
            for index, row in enumerate(rows)
        ),
        read=frozenset(named),
        counts=_counts(run, report, probe, zone)
        if report and run.state in ("checked", "stored")
        else (),
        may_read_again=run.state in MAY_READ_AGAIN and bool(rows),
        to_store=_to_store(run),
        chosen=_chosen(options),
        column_options=column_options,
        date_options=(("", "with the time"), *column_options),
        format_options=_format_options(*date_question(rows, options)),
        unit_options=tuple(units.items()),
        unit_name=units.get(options.unit, ""),
        spoken_for=(better, units.get(better, "")) if speaks else ("", ""),
        others=_others(plan, rows, siblings, options, heads),
        siblings=tuple(
            Sibling(
                id=one.id,
                heading=heads[one.options.value_column]
                if one.options.value_column < len(heads)
                else "",
                probe=p.name if (p := plan.probe(one.probe)) else one.probe,
                state=STATE_WORDS.get(one.state, one.state),
                to_store=_to_store(one) if one.state == "checked" else "",
            )
            for one in siblings
        )
        if len(siblings) > 1
        else (),
        probe_options=(
            ("", "not read"),
            *((p.id, p.name) for p in plan.probes),
            *((f"{NEW}{key}", f"a new probe: {kind.name}") for key, kind in QUANTITIES.items()),
        ),
        date_asked=date_question(rows, options)[0],
        tuned=next((rule.load for rule in plan.bands_on(run.probe)), ""),
        store_columns=sum(one.state == "checked" for one in siblings),
        store_readings=thousands(sum(_count(one) for one in siblings if one.state == "checked")),
    )


def _to_store(run: ImportRun) -> str:
    return thousands(_count(run)) if run.report else ""


def _count(run: ImportRun) -> int:
    known = 0 if run.options.replaces else run.known_before
    return run.report.readings - known if run.report else 0


def _format_options(question: str, both: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
    """The formats to choose from; where two fit, these, as the dates that they would be."""
    if not question:
        return tuple((pattern, _as_written(pattern)) for pattern in LOCAL_FORMATS)
    dates = []
    for pattern in both:
        day = datetime.strptime(question.upper(), pattern)  # noqa: DTZ007  a wall-clock time
        dates.append((pattern, f"{question} is {day.day} {day:%B %Y}"))
    return (("", "choose"), *dates)


def _others(
    plan: Plan,
    rows: list[list[str]],
    siblings: list[ImportRun],
    options: LogOptions,
    heads: tuple[str, ...],
) -> tuple[OtherColumn, ...]:
    """Columns of numbers that no import of the file reads, each with the probe it speaks for."""
    read = {one.options.value_column for one in siblings}
    taken = {one.probe for one in siblings}
    other_columns = []
    for column, (_, value) in number_columns(rows, options).items():
        if column in read or column >= len(heads):
            continue
        heading = heads[column]
        free = [p for p in plan.probes if p.id not in taken]
        kinds = Counter(p.quantity for p in free)
        # One of several probes of a quantity is meant only where the heading names it.
        meant = [p for p in free if kinds[p.quantity] == 1 or is_named(p, heading)]
        scores = {p.id: speaks_for(p, heading, value) for p in meant}
        best = max(scores, key=lambda probe: scores[probe], default="")
        if not best or scores[best] < LEAST_SPOKEN:
            quantity = quantity_of_heading(heading)
            best = f"{NEW}{quantity}" if quantity else ""
        taken.add(best)
        other_columns.append(
            OtherColumn(column=column, heading=heading, sample=short(value), probe=best)
        )
    return tuple(other_columns)


def _chosen(options: LogOptions) -> dict[str, str]:
    """The options as they stand in the form."""
    return {
        "delimiter": "tab" if options.delimiter == "\t" else options.delimiter,
        "decimal": options.decimal,
        "header_rows": str(options.header_rows),
        "time_column": str(options.time_column),
        "value_column": str(options.value_column),
        "time_kind": options.time_kind,
        "local_format": options.local_format if options.day_order_known else "",
        "zone": options.zone,
        "date_column": "" if options.date_column is None else str(options.date_column),
        "unit": options.unit,
        "missing": options.missing,
        "replaces": "yes" if options.replaces else "",
    }


def _as_written(pattern: str) -> str:
    for sign, word in AS_WRITTEN.items():
        pattern = pattern.replace(sign, word)
    return pattern


def _verdict(run: ImportRun) -> Verdict:
    """Where the import is, in a sentence."""
    report = run.report
    if run.state in BUSY:
        sentence = f"{BUSY_WORDS[run.state]}: {round(run.done_share * 100)} %."
        return Verdict(state="owed", sentence=sentence)
    if run.state == "checked" and report:
        verdict = f"{thousands(report.readings)} readings, one each {span(report.interval_s)}."
        return Verdict(state="owed", sentence=verdict, rest="Nothing is stored yet.")
    if run.state == "stored" and report:
        before = f"{thousands(report.readings - run.stored)} were there before."
        sentence = f"{thousands(run.stored)} readings stored."
        return Verdict(state="holds", sentence=sentence, rest=before)
    return AT_REST.get(run.state, AT_REST["stopped"])


def _counts(run: ImportRun, report: LogReport, probe: Probe | None, zone: str) -> tuple[Count, ...]:
    span_words = f"from {stamp(report.first_ms, zone)} to {stamp(report.last_ms, zone)}"
    gap = f"the longest {span(report.longest_gap_s)}" if report.gaps else ""
    allowed = f" (allowed {short(probe.range.low)} to {short(probe.range.high)})" if probe else ""
    rows = [
        ("Rows", report.rows, span_words),
        ("Empty", report.empty, "rows without a reading; left out"),
        ("Duplicates", report.duplicates, "the first reading of an instant is kept"),
        ("Jumps back in time", report.jumps_back, "sorted by time"),
        ("Gaps", report.gaps, gap or "none longer than three intervals"),
        ("Out of range", report.out_of_range, f"kept; the engine takes them for faults{allowed}"),
    ]
    counts = [Count(label=label, count=thousands(n), words=words) for label, n, words in rows]
    counts.append(
        Count(label="Lowest, highest", count=short(report.lowest), words=short(report.highest))
    )
    counts += _clock_changes(run.options, report)
    silent = probe.stale_after_s if probe else math.inf
    if report.interval_s > silent:
        words = (
            f"{probe.name if probe else ''} counts as stale after {span(silent)}: it becomes "
            f"stale between two rows. Set “Stale after” to three intervals at Lay out"
        )
        counts.append(Count(label="One each", count=span(report.interval_s), words=words))
    known = "instants on record before; " + (
        "the log’s readings replace them" if run.options.replaces else "left as they are"
    )
    counts.append(Count(label="There already", count=thousands(run.known_before), words=known))
    return tuple(counts)


def _clock_changes(options: LogOptions, report: LogReport) -> list[Count]:
    """Each change of the clock in the log, where its times are wall clocks."""
    if options.time_kind not in ("local", "serial"):
        return []
    rows = []
    steps = offsets(report.first_ms, report.last_ms, options.zone)
    for (_, before), (at_ms, after) in pairwise(steps):
        forward = after > before
        when = stamp(at_ms, options.zone)
        words = (
            f"{when}: forward, {report.moved_by_clock_change} readings in the gap, read with the "
            "offset before it"
            if forward
            else f"{when}: back, {report.repeated_hour} readings of the second hour, told by the "
            "order of rows"
        )
        rows.append(Count(label="Clock change", count="1", words=words))
    return rows
