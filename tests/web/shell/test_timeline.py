"""Lanes and ticks of the timeline."""

from datetime import UTC, datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.base.instants import ms_of
from aldea.core.rehearse.rehearsal import rehearse
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days
from aldea.web.shell.lanes import lane_blocks
from aldea.web.shell.ticks import time_ticks
from aldea.web.shell.timeline import make_timeline
from aldea.web.shell.window import HOUR_MS, Window

MADRID = "Europe/Madrid"


@pytest.fixture(scope="module")
def rehearsal():
    trace = recorded_days()[0].trace
    return rehearse(mill_plan(), {"drying_rh": trace}, start_ms=START_MS, end_ms=END_MS)


def window(hours: float, end_ms: int = END_MS) -> Window:
    return Window(
        start_ms=end_ms - round(hours * HOUR_MS), end_ms=end_ms, at_ms=end_ms, now_ms=END_MS
    )


@settings(max_examples=40)
@given(hours=st.sampled_from([3, 6, 12, 24, 48]), back_h=st.integers(0, 600))
def test_a_lane_is_on_for_as_long_as_the_timeline_says(rehearsal, hours, back_h):
    """The tall blocks of a lane cover the share of the window in which the load was on."""
    shown = window(hours, END_MS - back_h * HOUR_MS)
    stretches = rehearsal.stretches["dehumidifier"]
    blocks = [b for b in lane_blocks(stretches, shown) if b.height > 6]
    covered = sum(float(b.width.rstrip("%")) for b in blocks)
    on_ms = sum(
        max(0, min(s.end_ms, shown.end_ms) - max(s.start_ms, shown.start_ms))
        for s in stretches
        if s.state
    )
    share = 100 * on_ms / (shown.end_ms - shown.start_ms)
    # Pulses are never drawn thinner than they can be seen: wider by that much at the most.
    assert share - 0.01 <= covered <= share + 0.17 * len(blocks) + 0.01


@pytest.mark.parametrize("hours", [168, 720])
def test_long_spans_draw_the_share_of_time_on(rehearsal, hours):
    shown = window(hours)
    stretches = rehearsal.stretches["dehumidifier"]
    blocks = lane_blocks(stretches, shown)
    area = sum(b.height * float(b.width.rstrip("%")) for b in blocks) / (13 * 0.92 * 100)
    on_ms = sum(
        max(0, min(s.end_ms, shown.end_ms) - max(s.start_ms, shown.start_ms))
        for s in stretches
        if s.state
    )
    assert area == pytest.approx(on_ms / (shown.end_ms - shown.start_ms), abs=0.03)


def test_ticks_are_whole_hours_of_the_house_also_over_a_clock_change():
    """26 October 2025 has 25 hours; every label is still a whole hour, each instant once."""
    end = ms_of(datetime(2025, 10, 26, 12, 0, tzinfo=UTC))
    ticks = time_ticks(window(24, end), MADRID)
    assert all(tick.text.endswith(":00") or tick.strong for tick in ticks)
    assert len({tick.x for tick in ticks}) == len(ticks)
    timeline = make_timeline(mill_plan(), None, window(24, end), "Replay")
    assert timeline.zone_note == "the clock went back 1 h in this span"
    assert all(lane.decided_by for lane in timeline.lanes), "an empty lane says why"
    assert timeline.planned_note == ""
    loads = tuple(load.model_copy(update={"stage": "planned"}) for load in mill_plan().loads)
    planned = mill_plan().model_copy(update={"loads": loads})
    assert (
        "10 loads planned" in make_timeline(planned, None, window(24, end), "Replay").planned_note
    )
