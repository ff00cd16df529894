"""Schedules and modes: each schedule with sentence, users and strips; an edge is moved there."""

import re
from datetime import datetime

from tests.web.pages import H, draft, plain, plan_of

from aldea.core.base.instants import ms_of_local
from aldea.core.plan.schedules import EVERY_DAY, Moments, Schedule, SunEdge, Window
from aldea.demo.mill import mill_plan
from aldea.web.benches.rule.schedule_overview import next_edges_words, schedule_strips

HOUSE = f"{H}/rule/house"
PLAN = mill_plan()
ZONE = PLAN.house.time_zone


def at(year, month, day, hour=12, minute=0):
    return ms_of_local(datetime(year, month, day, hour, minute), ZONE)  # noqa: DTZ001


def strips(*schedules, at_ms):
    plan = PLAN.model_copy(update={"schedules": schedules, "rules": (), "modes": ()})
    return schedule_strips(plan, at_ms), next_edges_words(plan, at_ms)


def test_days_alike_share_a_row_and_a_window_reaches_into_the_next_day():
    night = Schedule(id="n", name="Night", windows=(
        Window(days=EVERY_DAY[:5], start="22:30", end="07:00"),
        Window(days=("sat", "sun"), start="23:30", end="07:00")))  # fmt: skip
    (strip,), words = strips(night, at_ms=at(2025, 11, 13, 19, 42))
    assert [(row.days, row.today) for row in strip.rows] == [("Mon–Fri", True), ("Sat, Sun", False)]
    (bar,) = strip.rows[0].bars
    # 22:30 is 1350 min, 07:00 of the next day 1860 min, three minutes to a unit
    assert (bar.x, bar.width, bar.starts, bar.ends) == (450.0, 170.0, "22:30", "07:00")
    assert [(e.field, e.minute, e.text) for e in strip.rows[1].edges] == [
        ("w1_start", 1410, "23:30"), ("w1_end", 1860, "07:00"),
    ]  # fmt: skip
    assert (strip.state, strip.in_force) == ("begins at 22:30", False)
    assert words == "“Night” begins at 22:30 and “Night” ends on Fri at 07:00."


def test_the_wall_clock_of_a_strip_stands_when_the_clock_changes():
    """26 October 2025 has 25 h: a window from 01:00 to 05:00 lasts five, drawn as every day."""
    early = Schedule(id="e", name="Early", windows=(Window(start="01:00", end="05:00"),))
    (strip,), _ = strips(early, at_ms=at(2025, 10, 25))
    (row,) = strip.rows
    assert (row.days, row.bars[0].starts, row.bars[0].ends) == ("every day", "01:00", "05:00")


def test_sun_edges_share_a_row_moments_have_no_edges_and_special_dates_are_told():
    dusk = Schedule(id="d", name="Dusk", windows=(
        Window(start=SunEdge(at="sunset", offset_min=-20), end="23:00"),))  # fmt: skip
    kettle = Schedule(id="k", name="Kettle", moments=(Moments(at=("06:30",)),), for_s=600.0,
                      except_dates=("2025-12-25",))  # fmt: skip
    never = Schedule(id="x", name="Never")
    (one, two, three), _ = strips(dusk, kettle, never, at_ms=at(2025, 11, 13))
    assert [row.days for row in one.rows] == ["every day"]
    assert one.rows[0].edges[0].text == "sunset −20"
    assert two.rows[0].edges == ()
    assert "Not on 2025-12-25." in two.special
    assert (three.state, three.hours) == ("not within a week", "No hours yet.")


def test_an_edge_is_moved_in_the_overview_and_everything_else_stays(signed, module_database):
    client = signed("jon")
    page = client.get(HOUSE).text
    assert 'data-part="night_block" data-field="w0_start"' in " ".join(page.split())
    assert "used by" in plain(page)
    before = plan_of(module_database)
    version = str(draft(client)["version"])
    sent = {"part_id": "night_block", "field": "w0_start", "text": "22:00", "version": version}
    assert client.post(f"{HOUSE}/edge", data=sent).status_code == 303
    after = plan_of(module_database)
    was, now = (next(s for s in p.schedules if s.id == "night_block") for p in (before, after))
    assert (was.windows[0].start, now.windows[0].start) == ("22:30", "22:00")
    start = {"start": was.windows[0].start}
    assert now.windows[0].model_copy(update=start) == was.windows[0]
    assert now.model_copy(update={"windows": was.windows}) == was
    assert [s for s in after.schedules if s.id != "night_block"] == [
        s for s in before.schedules if s.id != "night_block"
    ]


def test_what_is_no_edge_no_time_or_an_old_draft_is_refused(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    good = {"part_id": "night_block", "field": "w0_start", "text": "21:00", "version": version}
    for wrong, status in (
        ({"text": "soon"}, 422), ({"text": "07:00"}, 422),
        ({"field": "w9_start"}, 422),
        ({"field": "name"}, 422), ({"part_id": "gone"}, 422),
        ({"part_id": ""}, 422), ({"version": "1"}, 409),
    ):  # fmt: skip
        answer = client.post(f"{HOUSE}/edge", data={**good, **wrong})
        assert answer.status_code == status, wrong
        assert 'role="alert"' in answer.text
    assert str(draft(client)["version"]) == version
    viewer = signed("guest")
    assert "data-field=" not in re.sub(r"<form.*?</form>", "", viewer.get(HOUSE).text)
    assert viewer.post(f"{HOUSE}/edge", data=good).status_code == 403
