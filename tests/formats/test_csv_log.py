"""Reading logs: every way they are written, every fault counted or named."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from aldea.core.base.errors import LogFileError
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.document import Range
from aldea.demo.mill import mill_plan
from aldea.formats import csv_log
from aldea.formats.csv_log import read_csv_log
from aldea.formats.log_options import LOCAL_FORMATS, LogOptions, guess_options, shared
from aldea.formats.log_units import Spoken

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
        ("t,rh\n2025-11-01T12:00:00Z,inf\n", "line 2, column 2", "a number with a decimal point"),
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
    with pytest.raises(LogFileError, match="line 2347, column 2: Found “wet”"):
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


def utc(trace):
    return [datetime.fromtimestamp(t / 1000, UTC) for t in trace.t_ms.tolist()]


AUTUMN = [datetime(2025, 10, 26, 0, 0, tzinfo=UTC) + timedelta(minutes=10 * i) for i in range(18)]


@pytest.mark.parametrize("newest_first", [False, True])
@pytest.mark.parametrize("block_bytes", [64, 1_000_000])
def test_a_repeated_hour_is_told_by_the_order_of_rows(
    tmp_path, monkeypatch, newest_first, block_bytes
):
    """Wall clocks of Madrid from 02:00 to 03:50, in which 02:00 to 02:50 come twice."""
    monkeypatch.setattr(csv_log, "BLOCK_BYTES", block_bytes)
    rows = [(m.astimezone(ZoneInfo("Europe/Madrid")), i) for i, m in enumerate(AUTUMN)]
    lines = [f"{wall:%Y-%m-%d %H:%M:%S};{value if value % 4 else 'nan'}" for wall, value in rows]
    if newest_first:
        lines.reverse()
    trace, report = read(tmp_path, "t;rh\n" + "\n".join(lines) + "\n")
    kept = [i for i in range(18) if i % 4]
    assert utc(trace) == [AUTUMN[i] for i in kept]
    assert trace.raw.tolist() == kept
    assert report.repeated_hour == len([i for i in kept if 6 <= i < 12])
    assert report.duplicates == 0


NIGHT = [datetime(2026, 10, 24, 23, 0, tzinfo=UTC) + timedelta(minutes=i) for i in range(240)]


def minutely(tmp_path, moments, newest_first=False):
    """A log of Madrid's autumn night of 2026, in which the hour from 00:00 UTC comes twice."""
    lines = [f"{m.astimezone(ZoneInfo('Europe/Madrid')):%Y-%m-%d %H:%M:%S};50" for m in moments]
    if newest_first:
        lines.reverse()
    return read(tmp_path, "t;rh\n" + "\n".join(lines) + "\n")


@pytest.mark.parametrize("newest_first", [False, True])
@pytest.mark.parametrize("place", [61, 70, 118, 121, 170, 179])
def test_two_rows_out_of_order_are_no_turn_of_the_clock(tmp_path, place, newest_first):
    """Of 02:10 and 02:11 exchanged, 49 minutes were lost and 49 misplaced."""
    swapped = [*NIGHT]
    swapped[place], swapped[place + 1] = swapped[place + 1], swapped[place]
    trace, report = minutely(tmp_path, swapped, newest_first)
    assert utc(trace) == NIGHT
    assert (report.repeated_hour, report.duplicates) == (60, 0)


@pytest.mark.parametrize("newest_first", [False, True])
def test_a_gap_over_the_turn_is_one_gap(tmp_path, newest_first):
    """The last before it 02:39, the next after it 02:45 of the second hour: forward, yet later."""
    kept = NIGHT[:100] + NIGHT[165:]
    trace, report = minutely(tmp_path, kept, newest_first)
    assert utc(trace) == kept
    assert report.repeated_hour == 15


def test_a_night_without_its_second_hour_has_none(tmp_path):
    """The logger stood still from 02:30 on: the hour after it is no repetition."""
    kept = NIGHT[:90] + NIGHT[180:]
    kept[70], kept[71] = kept[71], kept[70]
    trace, report = minutely(tmp_path, kept)
    assert utc(trace) == sorted(kept)
    assert report.repeated_hour == 0


def test_an_hour_that_does_not_go_back_is_the_first(tmp_path):
    trace, report = read(tmp_path, "t;rh\n2025-10-26 02:10:00;50\n2025-10-26 02:40:00;51\n")
    assert utc(trace)[0] == datetime(2025, 10, 26, 0, 10, tzinfo=UTC)
    assert report.repeated_hour == 0


@pytest.mark.parametrize(
    ("text", "first"),
    [
        ("date,time,rh\n2025-11-13,18:42:05,50\n", "18:42:05"),
        ("n,date,time,rh\n1,13.11.2025,18:42,50\n", "18:42:00"),
        ("date;time;rh\n11/13/2025;6:42:05 PM;50\n", "18:42:05"),
        ("t,rh\n11/13/2025 06:42:05 pm,50\n", "18:42:05"),
        ("t,rh\n2025-11-13 12:01 AM,50\n", "00:01:00"),
        ("t,rh\n2025-11-13T18:42+0000,50\n", "18:42:00"),
        ("t,rh\n2025-11-13 19:42:05.5 +01:00,50\n", "18:42:05"),
        ("t,rh\n2025-11-13T20:42:05+02,50\n", "18:42:05"),
    ],
)
def test_times_in_two_columns_by_twelve_hours_and_with_offsets(tmp_path, text, first):
    path = tmp_path / "log.csv"
    path.write_text(text)
    guessed = guess_options(path.read_bytes(), "UTC", lambda heading, _value: heading == "rh")
    trace, _ = read_csv_log(path, guessed, RH)
    assert f"{utc(trace)[0]:%H:%M:%S}" == first
    assert trace.raw.tolist() == [50.0]


@pytest.mark.parametrize(
    ("text", "allowed"),
    [
        ("t,rh\n1970-01-01T00:00:00Z,50\n", "for 2000 to 2100"),
        ("t,rh\n2025-11-13 18:42:00,50\n1999-01-01 00:00:00,51\n", "for 2000 to 2100"),
        ("date,time,rh\n2025-11-13,18:42:05,50\n2025-11-14,25:00:00,51\n", "a wall-clock time"),
    ],
)
def test_a_refusal_names_the_real_cause(tmp_path, text, allowed):
    with pytest.raises(LogFileError, match=r"line [23], column") as refused:
        read(tmp_path, text)
    assert allowed in refused.value.sentence


def test_words_for_a_missing_reading_are_a_field(tmp_path):
    text = "t,rh\n1700000000,50\n1700000010,offline\n1700000020,51\n"
    with pytest.raises(LogFileError, match="offline"):
        read(tmp_path, text)
    _, report = read(tmp_path, text, missing="Offline, --", value_column=1)
    assert (report.readings, report.empty) == (2, 1)


def judged(tmp_path, key: str, values: list[float], probe_id: str = "studio_temp"):
    plan = mill_plan()
    probe = plan.probe(probe_id)
    assert probe is not None
    path = tmp_path / "log.csv"
    path.write_text("t,v\n" + "".join(f"{1_700_000_000 + i},{v}\n" for i, v in enumerate(values)))
    spoken = Spoken(plan, probe, key)
    return read_csv_log(path, LogOptions(time_kind="epoch_s"), probe.range, spoken=spoken)


def test_units_are_asked_about_and_converted(tmp_path):
    """212 °F is 100 °C by definition, 32 °F is 0 °C; 291.15 K is 18 °C."""
    hot = [70.0 + i for i in range(20)]
    assert judged(tmp_path, "", hot)[1].speaks_for == "degf"
    trace, report = judged(tmp_path, "degf", [212.0, 32.0, 64.4])
    assert trace.raw.tolist() == pytest.approx([100.0, 0.0, 18.0])
    assert report.speaks_for == ""
    assert judged(tmp_path, "", [291.0 + i / 10 for i in range(20)])[1].speaks_for == "kelvin"
    assert judged(tmp_path, "degf", [17.0, 18.0])[1].speaks_for == "", "they could be either"
    wet = [0.31, 0.44, 0.52]
    trace, _ = judged(tmp_path, "fraction", wet, "drying_rh")
    assert trace.raw.tolist() == pytest.approx([31.0, 44.0, 52.0])


def test_counts_go_through_the_divider_of_the_plan(tmp_path):
    plan = mill_plan()
    probe = plan.probe("studio_temp")
    assert probe is not None
    assert isinstance(probe.sensor, Thermistor)
    # At 25 °C the sensor is R25; equal to a fixed resistor of the same ohms it is half the scale.
    full = 4095
    share = probe.sensor.r25_ohm / (probe.sensor.r25_ohm + probe.sensor.fixed_ohm)
    if probe.sensor.side == "sensor_high":
        share = 1 - share
    trace, report = judged(tmp_path, "counts", [full * share, full * share, 0.0])
    assert trace.raw[0] == pytest.approx(25.0, abs=0.01)
    assert (report.readings, report.empty) == (2, 1), "no thermistor gives 0 counts"
    assert judged(tmp_path, "", [1900.0, 2000.0, 2100.0])[1].speaks_for == "counts"


def test_the_column_is_proposed_that_heading_and_range_speak_for():
    head = b"when,battery,temp_c,humidity\n2025-11-13T18:42:00Z,3.7,18.4,61\n"

    def wanted(heading: str, value: float) -> float:
        return float("hum" in heading) + float(0 <= value <= 100)

    assert guess_options(head, "UTC").value_column == 1
    assert guess_options(head, "UTC", wanted).value_column == 3


def test_words_for_no_reading_hold_for_all_columns_of_a_file_but_numbers_do_not():
    own = LogOptions(missing="nan, -")
    of = LogOptions(missing="no signal, -99, NaN, 8888")
    assert shared(own, of).missing_words == {"", "nan", "-", "no signal"}
