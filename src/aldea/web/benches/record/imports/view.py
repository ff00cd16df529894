"""An import as a page shows it: where it is, what was counted, how its file is read."""

from dataclasses import dataclass

from aldea.core.base.figures import short, thousands
from aldea.core.base.instants import span, stamp
from aldea.core.plan.document import Probe
from aldea.core.words.verdicts import Verdict
from aldea.formats.log_options import LOCAL_FORMATS, LogOptions, usual_columns
from aldea.formats.log_report import LogReport
from aldea.store.imports import ImportRun
from aldea.store.imports import State as RunState

DELIMITER_OPTIONS = ((",", "comma"), (";", "semicolon"), ("tab", "tab"))
DECIMAL_OPTIONS = ((".", "point"), (",", "comma"))
TIME_OPTIONS = (
    ("iso", "ISO 8601 with Z or offset"),
    ("epoch_s", "seconds since 1970"),
    ("epoch_ms", "milliseconds since 1970"),
    ("local", "wall-clock time"),
)
BUSY: tuple[RunState, ...] = ("checking", "storing")
MAY_READ_AGAIN = ("chosen", "checked", "refused", "stopped")
AS_WRITTEN = {"%Y": "yyyy", "%m": "mm", "%d": "dd", "%H": "hh", "%M": "mm", "%S": "ss"}


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
    format_options: tuple[tuple[str, str], ...]


def import_view(
    run: ImportRun, rows: list[list[str]], probe: Probe | None, zone: str
) -> ImportView:
    """Finish what is known of an import; `rows` are the first of its file, none once it is gone."""
    columns = max(usual_columns(rows), 1)
    options = run.options
    named = {options.time_column: "time", options.value_column: "value"}
    report = run.report
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
        to_store=thousands(report.readings - run.known_before) if report else "",
        chosen=_chosen(options),
        column_options=tuple((str(i), f"column {i + 1}") for i in range(columns)),
        format_options=tuple((pattern, _as_written(pattern)) for pattern in LOCAL_FORMATS),
    )


def _chosen(options: LogOptions) -> dict[str, str]:
    """The options as they stand in the form."""
    return {
        "delimiter": "tab" if options.delimiter == "\t" else options.delimiter,
        "decimal": options.decimal,
        "header_rows": str(options.header_rows),
        "time_column": str(options.time_column),
        "value_column": str(options.value_column),
        "time_kind": options.time_kind,
        "local_format": options.local_format,
        "zone": options.zone,
    }


def _as_written(pattern: str) -> str:
    for sign, word in AS_WRITTEN.items():
        pattern = pattern.replace(sign, word)
    return pattern


def _verdict(run: ImportRun) -> Verdict:
    """Where the import is, in a sentence."""
    done, report = f"{round(run.done_share * 100)} %.", run.report
    if run.state == "chosen":
        rest = "See whether time and value are right, then count."
        return Verdict(mark="owed", sentence="Nothing is stored yet.", rest=rest)
    if run.state in BUSY:
        word = "Counting" if run.state == "checking" else "Storing"
        return Verdict(mark="owed", sentence=f"{word}: {done}")
    if run.state == "checked" and report:
        found = f"{thousands(report.readings)} readings, one each {span(report.interval_s)}."
        return Verdict(mark="owed", sentence=found, rest="Nothing is stored yet.")
    if run.state == "stored" and report:
        before = f"{thousands(report.readings - run.stored)} were there before."
        sentence = f"{thousands(run.stored)} readings stored."
        return Verdict(mark="holds", sentence=sentence, rest=before)
    if run.state == "refused":
        sentence = "The log is refused whole."
        return Verdict(mark="fails", sentence=sentence, rest="Nothing is stored.")
    return Verdict(mark="owed", sentence="Stopped.", rest="Nothing is stored.")


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
    if report.moved_by_clock_change:
        moved = str(report.moved_by_clock_change)
        words = "read with the offset before it"
        counts.append(Count(label="In the spring gap", count=moved, words=words))
    known = "instants on record before; left as they are"
    counts.append(Count(label="There already", count=thousands(run.known_before), words=known))
    return tuple(counts)
