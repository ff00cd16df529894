"""The recorded days of the mill house: as its plants make them, and as its rules answer them."""

import numpy as np
import pytest

from aldea.core.engine import layout as lay
from aldea.core.rehearse.rehearsal import as_recorded, rehearse
from aldea.demo.kept_days import kept_days
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, made_course, recorded_days

pytestmark = pytest.mark.repeats


@pytest.fixture(scope="module")
def course():
    return made_course()


def test_the_kept_days_are_what_the_plants_make(course):
    kept = kept_days()
    assert set(course.traces) < set(kept)
    for probe, trace in course.traces.items():
        assert np.array_equal(kept[probe].t_ms, trace.t_ms), probe
        assert np.abs(kept[probe].raw - trace.raw).max() < 1e-9, probe


def test_log_and_rules_belong_together(course):
    """Revision 1 replayed on the log does what it did while the log was made, change for change."""
    traces = {row.probe: row.trace for row in recorded_days()}
    again = rehearse(mill_plan(), traces, start_ms=START_MS, end_ms=END_MS)
    sides = []
    for run in (course.run, again.run):
        # The last minute of the log came in after the last step of the plants.
        late = run.rows[:, lay.E_T_MS] < END_MS - 60_000
        sides.append(run.rows[(run.rows[:, lay.E_TYPE] == lay.EVENT_LOAD) & late])
    assert len(sides[0]) > 1000
    assert np.array_equal(*sides)


def test_every_load_works_and_every_level_is_heard(course):
    run = course.run
    rows = run.rows[run.rows[:, lay.E_TYPE] == lay.EVENT_LOAD]
    ran = {run.compiled.load_ids[who] for who in rows[rows[:, lay.E_TO] != 0][:, lay.E_WHO]}
    assert ran == {load.id for load in mill_plan().loads}
    priorities = {run.compiled.rule_rows[k].priority for k in rows[:, lay.E_DECIDER] if k >= 0}
    named = {lay.PRIORITY_NAMES[priority] for priority in priorities}
    assert named == {"trip", "interlock", "fault", "schedule", "demand", "default_state"}
    assert not as_recorded(mill_plan()).controls
