"""Reading logs: every way they are written, every fault counted or named."""

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from aldea.core.base.errors import LogFileError
from aldea.core.plan.document import Range
from aldea.formats import csv_log
from aldea.formats.csv_log import read_csv_log
from aldea.formats.events_csv import safe_cell
from aldea.formats.log_options import LOCAL_FORMATS, LogOptions, guess_options

RH = Range(low=0.0, high=100.0)
T0 = datetime(2025, 11, 1, 12, 0, tzinfo=UTC)


def read(tmp_path: Path, text: str | bytes, **options):
    path = tmp_path / "log.csv"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    guessed = guess_options(path.read_bytes(), "Europe/Madrid")
    return read_csv_log(path, replace(guessed, **options), RH)


def written(kind: str, t_ms: int) -> str:
    moment = datetime.fromtimestamp(t_ms / 1000, UTC)
    if kind == "iso":
        return moment.isoformat().replace("+00:00", "Z")
    if kind == "epoch_s":
        return str(t_ms // 1000)
    if kind == "epoch_ms":
        return str(t_ms)
    return moment.strftime(kind)


@settings(max_examples=60, suppress_health_check=list(HealthCheck))
@given(
    kind=st.sampled_from(["iso", "epoch_s", "epoch_ms", *LOCAL_FORMATS]),
    style=st.sampled_from([(",", "."), (";", ","), (";", "."), ("\t", ","), ("\t", ".")]),
    values=st.lists(st.integers(0, 1000), min_size=1, max_size=30),
    extra=st.booleans(),
)
def test_whatever_is_written_is_read_back(tmp_path, kind, style, values, extra):
    """Any delimiter, decimal sign, kind of time, with or without another column."""
    delimiter, decimal = style
    start = round(T0.timestamp() * 1000) + 15 * 86_400_000  # the 16th: day and month differ
    t_ms = [start + 60_000 * i for i in range(len(values))]
    lines = [delimiter.join(["when", "note", "rh"] if extra else ["when", "rh"])]
    for t, v in zip(t_ms, values, strict=True):
        cells = [written(kind, t), f"{v / 10:.1f}".replace(".", decimal)]
        lines.append(delimiter.join([cells[0], "ok", cells[1]] if extra else cells))
    trace, report = read(tmp_path, "\n".join(lines) + "\n", zone="UTC")
    assert trace.t_ms.tolist() == t_ms
    assert trace.raw.tolist() == [v / 10 for v in values]
    assert report.rows == len(values)


def test_faults_are_counted_and_nothing_is_hidden(tmp_path):
    start = round(T0.timestamp())
    rows = [(start + 10 * i, f"{50 + i % 3}") for i in range(100)]
    rows.insert(40, (start + 10 * 5, "51"))  # a jump back onto a known instant
    rows[60] = (rows[60][0], "")
    rows[70] = (rows[70][0], "140")
    rows = rows[:80] + rows[90:]
    text = "t,rh\n" + "\n".join(f"{t},{v}" for t, v in rows) + "\n"
    trace, report = read(tmp_path, text)
    assert (report.rows, report.empty, report.duplicates) == (91, 1, 1)
    assert (report.jumps_back, report.out_of_range) == (1, 1)
    assert report.gaps == 1
    assert report.longest_gap_s == 110.0
    assert report.readings == len(trace) == 89
    assert (np.diff(trace.t_ms) > 0).all()


@pytest.mark.parametrize(
    ("text", "where", "allowed"),
    [
        ("t,rh\n2025-11-01T12:00:00Z,5x\n", "line 2, column 2", "decimal point"),
        (
            "t,rh\n2025-11-01T12:00:00Z,5\n2025-13-01T12:00:00Z,5\n",
            "line 3, column 1",
            "a time such as",
        ),
        ("t,rh\n2025-11-01T12:00:00Z,5\n2025-11-01T12:00:10Z,5,6\n", "line 3", "2, as in"),
        (b"t,rh\n2025-11-01T12:00:00Z,\xff5\n", "line 2", "UTF-8"),
        ("t,rh\n2025-11-01T12:00:00Z,inf\n", "line 2, column 2", "finite"),
        ("1760000000,5\n1760000009,5\n17,5\n", "line 3, column 1", "2000 to 2100"),
        ("hello\nworld\n", "line 1", "at least a time and a value"),
        ("", "line 1", "at least a time and a value"),
        ("t,rh\n1760000000,\n", "file", "at least one reading"),
    ],
)
def test_a_broken_log_names_line_and_column(tmp_path, text, where, allowed):
    with pytest.raises(LogFileError) as refused:
        read(tmp_path, text)
    assert refused.value.where == where
    assert allowed in refused.value.allowed


def test_the_line_is_right_far_into_a_file_of_many_blocks(tmp_path, monkeypatch):
    monkeypatch.setattr(csv_log, "BLOCK_BYTES", 700)
    start = round(T0.timestamp())
    lines = [f"{start + i},{i % 90}" for i in range(3000)]
    good, _ = read(tmp_path, "t,rh\n" + "\n".join(lines))
    assert len(good) == 3000
    lines[2345] = f"{start + 2345},wet"
    with pytest.raises(LogFileError, match="line 2347, column 2: got 'wet'"):
        read(tmp_path, "t,rh\n" + "\n".join(lines))


def test_clock_changes_of_wall_clock_times(tmp_path):
    text = "t;rh\n2025-03-30 01:59:50;50\n2025-03-30 02:30:00;51\n2025-10-26 02:30:00;52\n"
    trace, report = read(tmp_path, text)
    moments = [datetime.fromtimestamp(t / 1000, UTC) for t in trace.t_ms.tolist()]
    assert report.moved_by_clock_change == 1
    assert moments == [
        datetime(2025, 3, 30, 0, 59, 50, tzinfo=UTC),
        datetime(2025, 3, 30, 1, 30, tzinfo=UTC),  # the offset before the gap
        datetime(2025, 10, 26, 0, 30, tzinfo=UTC),  # the first of the two
    ]


def test_options_that_cannot_be_are_named():
    for change, where in (
        ({"decimal": ",", "delimiter": ","}, "decimal"),
        ({"value_column": 0}, "value column"),
        ({"time_column": 7}, "time column"),
        ({"zone": "../../etc"}, "zone"),
    ):
        with pytest.raises(LogFileError) as refused:
            replace(LogOptions(), **change).checked(2)
        assert refused.value.where == where


@pytest.mark.parametrize("text", ["=1+1", "+1", "-1", "@x", "\tx"])
def test_no_cell_is_a_formula(text):
    assert safe_cell(text).startswith("'")
