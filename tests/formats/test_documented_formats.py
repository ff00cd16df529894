"""The examples of docs/formats.md are what Aldea reads and writes."""

import re
from pathlib import Path

from tests.core.wire.continuity import crossings

from aldea.core.engine.program import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.codec import read_plan
from aldea.core.wire.findings import severe
from aldea.core.wire.signals import signals
from aldea.formats.board_csv import read_board_csv
from aldea.formats.csv_log import read_log
from aldea.formats.events_csv import events_csv
from aldea.formats.log_options import guess_options

DOC = (Path(__file__).resolve().parents[2] / "docs/formats.md").read_text()


def example(name: str) -> str:
    found = re.search(rf"<!-- tested: {name} -->\n```\w+\n(.*?)```", DOC, re.S)
    assert found, name
    return found[1]


def test_the_wiring_example_is_whole():
    """It reads, every signal has its pin, and nothing severe is wrong with it."""
    plan = read_plan(example("wiring"))
    assert {row.signal for row in plan.assignments} == {s.id for s in signals(plan)}
    assert severe(plan) == ()
    assert crossings(plan) == []


def test_the_pin_table_example_is_read():
    pins = read_board_csv(example("pins").encode())
    assert [p.name for p in pins] == ["IO36", "IO0", "RX0"]
    assert pins[1].decides_boot
    assert pins[2].programming


def test_the_examples_go_together(tmp_path):
    """The documented log, replayed through the documented plan, gives the documented events."""
    plan = read_plan(example("plan"))
    log = tmp_path / "log.csv"
    log.write_text(example("log"))
    options = guess_options(log.read_bytes(), plan.house.time_zone)
    trace, report = read_log(log, options, plan.probes[0].range)
    assert report.empty == 1
    run = run_replay(
        compile_plan(plan),
        trace.samples(),
        start_ms=report.first_ms,
        end_ms=report.last_ms + 1000,
    )
    assert events_csv(run) == example("events")
