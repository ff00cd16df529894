"""The examples of docs/formats.md are what Aldea reads and writes."""

import json
import re
from pathlib import Path

from tests.core.wiring.continuity import crossings

from aldea.core.calibrate.certificate import certificate_document
from aldea.core.calibrate.methods.registry import METHODS
from aldea.core.calibrate.pairs import Pair, TakenPair
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.text import read_plan
from aldea.core.wiring.findings import severe
from aldea.core.wiring.signals import signals
from aldea.demo.mill import mill_plan
from aldea.formats.board_csv import read_board_csv
from aldea.formats.csv_log import read_csv_log
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


def test_the_certificate_example_has_the_keys_of_a_signed_one():
    """Key for key, down into budget and pairs, what a bench signs."""
    plan = mill_plan()
    probe = next(p for p in plan.probes if p.id == "studio_temp")
    method = METHODS[probe.quantity]
    pair = Pair(
        reference=0.0,
        reading=0.4,
        approach="point",
        temp_degc=0.0,
        reference_expanded=0.04,
        medium="ice",
    )
    stated = method.defaults(probe)
    taken = [TakenPair(id=11, pair=pair, by="jon", taken_ms=0)]
    signed = certificate_document(probe, method.unit, method.fit([pair], stated), taken, stated)
    shown = json.loads(example("certificate"))
    assert shown.keys() - {"certificate"} == signed.keys()
    for key in ("probe", "line", "before"):
        assert shown[key].keys() == signed[key].keys()
    for key in ("budget", "pairs"):
        assert shown[key][0].keys() == signed[key][0].keys()
    assert shown["conditions"].keys() <= signed["conditions"].keys()
    assert shown["expanded_uncertainty"] == round(signed["expanded_uncertainty"], 2)
    assert (shown["unit"], shown["range"]) == (signed["unit"], signed["range"])


def test_the_examples_go_together(tmp_path):
    """The documented log, replayed through the documented plan, gives the documented events."""
    plan = read_plan(example("plan"))
    log = tmp_path / "log.csv"
    log.write_text(example("log"))
    options = guess_options(log.read_bytes(), plan.house.time_zone)
    trace, report = read_csv_log(log, options, plan.probes[0].range)
    assert report.empty == 1
    run = run_replay(
        compile_plan(plan),
        trace.samples(),
        start_ms=report.first_ms,
        end_ms=report.last_ms + 1000,
    )
    assert events_csv(run) == example("events")
