"""Sheet, page and engine: what they say of a lost probe and of the maximum on time happens."""

import pytest

from aldea.core.base.instants import MS_PER_DAY, span
from aldea.core.engine import layout as lay
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.rehearsal import as_recorded, rehearse
from aldea.core.words.lost_probe import fault_rule, lost_probe_words, probes_read
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days
from aldea.web.benches.wire.sheets.view import make_sheet

MILL = as_recorded(mill_plan())
FROM_MS = START_MS + 10 * MS_PER_DAY
WATCHED_MS = 4 * 3_600_000
STATES = {"off": 0, "shut": 0, "on": 1, "open": 1}
LOADS = [load.id for load in MILL.loads]


@pytest.fixture(scope="module")
def traces():
    return {row.probe: row.trace for row in recorded_days()}


@pytest.mark.parametrize("load_id", LOADS)
def test_a_probe_that_falls_silent_brings_what_the_sheet_says(load_id, traces):
    """Each probe silent for four hours: the state of its rule, or of a trip or interlock."""
    load = MILL.load(load_id)
    assert load is not None
    for probe in probes_read(MILL, load):
        rule = fault_rule(MILL, load, probe)
        if rule is None:
            continue
        known = MILL.probe(probe)
        assert known is not None
        span_ms = (FROM_MS, FROM_MS + WATCHED_MS)
        run = rehearse(
            MILL, traces, start_ms=FROM_MS - MS_PER_DAY, end_ms=FROM_MS + WATCHED_MS,
            faults=Faults(silences=((probe, *span_ms),)),
        )  # fmt: skip
        due_ms = FROM_MS + round(1000 * (known.stale_after_s + rule.after_s)) + 1000
        then = [s for s in run.stretches[load_id] if s.end_ms > due_ms]
        assert then
        state = STATES.get(rule.wanted.want, rule.wanted.level)
        for stretch in then:
            assert stretch.priority <= lay.PRIORITY_FAULT, (probe, stretch)
            if stretch.priority == lay.PRIORITY_FAULT and load.kind != "pulse_drive":
                assert stretch.inhibit or stretch.state == state, (probe, stretch)


@pytest.mark.parametrize("load_id", LOADS)
def test_no_run_of_the_record_is_longer_than_the_sheet_says(load_id, traces):
    load = MILL.load(load_id)
    assert load is not None
    for row in make_sheet(MILL, ()).rows:
        if row.load != load.name:
            continue
        assert row.longest == ("no limit" if load.max_on_s is None else span(load.max_on_s))
        assert row.probe_lost == lost_probe_words(MILL, load)
    if load.max_on_s is None or load.kind == "pulse_drive":
        return
    run = rehearse(MILL, traces, start_ms=START_MS, end_ms=END_MS)
    began_ms = None
    for stretch in run.stretches[load_id]:
        if stretch.state == 0:
            began_ms = None
            continue
        began_ms = stretch.start_ms if began_ms is None else began_ms
        assert stretch.end_ms - began_ms <= 1000 * (load.max_on_s + 1)


def test_the_cells_of_the_mill_s_sheet():
    """Recomputed by hand from the rules of the mill house."""
    rows = {row.load: row for row in make_sheet(MILL, ()).rows}
    assert rows["Cellar cooler"].longest == "4 h"
    assert rows["Cellar cooler"].probe_lost == "Off after 15 min"
    lost = rows["Studio panel heater"].probe_lost
    assert "Studio thermistor: Off after 30 s" in lost
    assert "Studio air, Studio solvent hint: Off after 15 min" in lost
    valve = rows["Cistern inlet valve"].probe_lost
    tapes = "Plinth tape, Floor drain tape"
    assert valve == f"Manifold tape: Shut after 5 min; {tapes}: Shut after 15 min"
    assert rows["Booster pump"].probe_lost == "Off after 15 min"
