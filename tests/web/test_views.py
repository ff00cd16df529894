"""What pages show, computed: the rail's window and lanes, the section, the form fields, paths."""

from datetime import UTC, datetime
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.plan.document import House, Place, Plan
from aldea.core.rehearse.rehearsal import rehearse
from aldea.core.words.figures import figure, signed, years
from aldea.core.words.times import ms_of, near, span
from aldea.demo.mill import NOW, mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days
from aldea.web.forms import Fields
from aldea.web.views.plot import Scale, trace_path
from aldea.web.views.rail import HOUR_MS, Window, lane_blocks, make_rail, time_ticks, window_of
from aldea.web.views.section import make_section

MADRID = "Europe/Madrid"
odd = st.one_of(st.none(), st.integers(-(10**15), 10**15))


@given(hours=st.one_of(st.none(), st.floats(-5, 1e6)), end=odd, at=odd, first=odd)
def test_a_window_is_always_whole_and_holds_the_scrubber(hours, end, at, first):
    """Whatever an address asks for: not past now, from one hour to a month, scrubber inside."""
    window = window_of(now_ms=END_MS, hours=hours, end_ms=end, at_ms=at, first_ms=first)
    assert window.start_ms < window.end_ms <= END_MS
    assert 1 <= window.hours <= 744
    assert window.start_ms <= window.at_ms <= window.end_ms


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
    timeline = rehearsal.timelines["dehumidifier"]
    blocks = [b for b in lane_blocks(timeline, shown) if b.height > 6]
    covered = sum(float(b.width.rstrip("%")) for b in blocks)
    on_ms = sum(
        max(0, min(s.end_ms, shown.end_ms) - max(s.start_ms, shown.start_ms))
        for s in timeline
        if s.state
    )
    share = 100 * on_ms / (shown.end_ms - shown.start_ms)
    # Pulses are never drawn thinner than they can be seen: wider by that much at the most.
    assert share - 0.01 <= covered <= share + 0.17 * len(blocks) + 0.01


@pytest.mark.parametrize("hours", [168, 720])
def test_long_spans_draw_the_share_of_time_on(rehearsal, hours):
    shown = window(hours)
    timeline = rehearsal.timelines["dehumidifier"]
    blocks = lane_blocks(timeline, shown)
    area = sum(b.height * float(b.width.rstrip("%")) for b in blocks) / (13 * 0.92 * 100)
    on_ms = sum(
        max(0, min(s.end_ms, shown.end_ms) - max(s.start_ms, shown.start_ms))
        for s in timeline
        if s.state
    )
    assert area == pytest.approx(on_ms / (shown.end_ms - shown.start_ms), abs=0.03)


def test_ticks_are_whole_hours_of_the_house_also_over_a_clock_change():
    """26 October 2025 has 25 hours; every label is still a whole hour, each instant once."""
    end = ms_of(datetime(2025, 10, 26, 12, 0, tzinfo=UTC))
    ticks = time_ticks(window(24, end), MADRID)
    assert all(tick.text.endswith(":00") or tick.strong for tick in ticks)
    assert len({tick.x for tick in ticks}) == len(ticks)
    rail = make_rail(mill_plan(), None, window(24, end), "Replay", {})
    assert rail.zone_note == "the clock went back 1 h in this span"
    assert all(lane.note for lane in rail.lanes), "an empty lane says why"


def overlaps(a, b) -> bool:
    sideways = min(a.right, b.right) - max(a.x, b.x)
    upright = min(a.bottom, b.bottom) - max(a.y, b.y)
    return bool(min(sideways, upright) > 0.2)


@given(
    walls=st.lists(st.floats(2, 9), min_size=1, max_size=6),
    levels=st.integers(1, 5),
    lowest=st.integers(-3, 2),
)
def test_no_room_of_the_section_covers_another(walls, levels, lowest):
    places = []
    for level in range(lowest, lowest + levels):
        x = 0.0
        for index, width in enumerate(walls):
            places.append(
                Place(
                    id=f"p{level + 10}_{index}",
                    name="Room",
                    kind="room",
                    level=level,
                    from_m=x,
                    to_m=x + width,
                )
            )
            x += width
    plan = Plan(
        format="aldea-plan/1",
        house=House(name="Any", time_zone="UTC"),
        places=tuple(places),
        probes=(),
        loads=(),
        claims=(),
    )
    section = make_section(plan)
    assert len(section.rooms) == len(places)
    for a, b in combinations(section.rooms, 2):
        assert not overlaps(a, b)
    for room in section.rooms:
        assert room.width > 0
        assert section.left <= room.x
        assert room.right <= section.right + 0.2
        assert section.top <= room.y + 0.2
        assert room.bottom <= section.bottom + 0.2


def test_the_mill_has_the_stair_over_both_floors():
    section = make_section(mill_plan())
    rooms = {room.place.id: room for room in section.rooms}
    assert rooms["stair_hall"].y == rooms["print_studio"].y
    assert rooms["stair_hall"].bottom == pytest.approx(rooms["weir_flat"].bottom)
    assert section.ground_y < rooms["root_cellar"].y


@pytest.mark.parametrize(
    ("typed", "value"),
    [("62", 62.0), (" 62,5 ", 62.5), ("−3", -3.0), ("1e1", 10.0)],
)
def test_numbers_are_read_as_people_type_them(typed, value):
    assert Fields({"on": typed}).number("on", low=-5, high=100) == value


@pytest.mark.parametrize("typed", ["", "x", "nan", "inf", "-inf", "1e999", "101"])
def test_what_is_no_number_inside_the_limits_is_refused(typed):
    fields = Fields({"on": typed})
    fields.number("on", low=0, high=100, unit="%RH")
    assert "0 to 100 %RH" in fields.errors["on"]


def test_a_moment_is_the_house_s_wall_clock():
    fields = Fields({"at": "2025-11-13T19:42", "odd": "soon", "zoned": "2025-11-13T19:42+01:00"})
    assert fields.moment_ms("at", MADRID) == ms_of(NOW)
    assert fields.moment_ms("odd", MADRID) is None
    assert fields.moment_ms("zoned", MADRID) is None
    assert set(fields.errors) == {"odd", "zoned"}


@given(st.lists(st.floats(0, 100), min_size=2, max_size=200))
def test_a_path_stays_inside_its_axes_and_keeps_the_extremes(values):
    t_ms = np.arange(len(values), dtype=np.int64) * 1000
    y = Scale(low=0, high=100, pixel_low=300, pixel_high=10)
    path = trace_path(
        t_ms, np.array(values), start_ms=0, end_ms=len(values) * 1000, width=90, y=y, gap_ms=5000
    )
    ys = [float(point.split(" ")[1]) for point in path.lstrip("M").split("L")]
    assert min(ys) == pytest.approx(y(max(values)), abs=0.06)
    assert max(ys) == pytest.approx(y(min(values)), abs=0.06)


@given(st.floats(-1e6, 1e6), st.integers(0, 3))
def test_figures_have_a_true_minus_and_no_minus_zero(value, places):
    text = figure(value, places)
    assert "-" not in text
    assert float(text.replace("−", "-")) == pytest.approx(value, abs=0.51 * 10**-places)
    assert not text.startswith("−0") or any(c in "123456789" for c in text)
    assert signed(value, places).lstrip("+") == text


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(45, "45 s"), (150, "2 min 30 s"), (900, "15 min"), (7500, "2 h 5 min"), (273_600, "3 d 4 h")],
)
def test_spans_in_words(seconds, text):
    assert span(seconds) == text


def test_instants_of_another_day_name_the_day():
    assert near(END_MS, END_MS, MADRID) == "19:42"
    assert near(END_MS, END_MS - 86_400_000, MADRID) == "Thu 13 Nov 19:42"
    assert years(float("inf")) == "no wear"
    assert years(1232.0) == "over 100"
