"""The Tune bench: answers that store nothing, refusals, two tabs."""

import json
import re

import pytest
from sqlalchemy import update
from tests.web.pages import H, draft, found_in, house_of, plain
from tests.web.sent import TUNING

from aldea.core.base.instants import MS_PER_DAY
from aldea.demo.recorded import END_MS
from aldea.store.tables import house as houses

pytestmark = pytest.mark.watched
TUNE = f"{H}/tune/dehumidifier"


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        ("on", "damp", "a number"),
        ("on", "140", "0 to 100"),
        ("on", "nan", "0 to 100"),
        ("off", "63", "below the on threshold 62"),
        ("min_off_min", "-3", "0 to 1440"),
        ("fault_state", "maybe", "one of the list"),
        ("return_policy", "last", "a written reason"),
    ],
)
def test_a_wrong_field_is_named_and_keeps_what_was_typed(signed, field, typed, said):
    client = signed("jon")
    before = draft(client)
    form = {**TUNING, field: typed, "version": str(before["version"])}
    for path, status in ((f"{TUNE}/keep", 422), (f"{TUNE}/answer", 200)):
        answer = client.post(path, data=form)
        assert answer.status_code == status
        assert said in answer.text
    page = client.post(f"{TUNE}/keep", data=form).text
    if field not in ("fault_state", "return_policy"):
        assert f'value="{typed}"' in page
    assert draft(client) == before


def test_the_answer_moves_with_the_marks_and_stores_nothing(signed):
    client = signed("guest")
    before = draft(client)
    starts = []
    for off in ("59.8", "50"):
        page = client.post(f"{TUNE}/answer", data={**TUNING, "on": "60", "off": off}).text
        row = re.search(r'data-cost="Starts a day".*?<b[^>]*>([\d.]+)</b>', page, re.S)
        assert row
        starts.append(float(row[1]))
    assert starts[0] > starts[1] > 0
    assert draft(client) == before


def test_faults_put_in_are_shown(signed):
    form = {
        **TUNING,
        "cut_on": "1",
        "cut_at": "2025-11-13T08:00",
        "cut_min": "30",
        "silence_on": "1",
        "silence_at": "2025-11-13T13:00",
        "silence_min": "120",
    }
    page = signed("guest").post(f"{TUNE}/answer", data=form).text
    assert "power cut, added from 08:00 to 08:30" in page
    assert "no reading, added from 13:00 to 15:00" in page
    data = json.loads(page.split('id="timeline-data">')[1].split("</script>")[0])
    priorities = {row["by"] for row in data["lanes"][0]["rows"]}
    assert {0, 3} <= priorities


def test_two_tabs_cannot_overwrite_each_other_unseen(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    first = client.post(f"{TUNE}/keep", data={**TUNING, "on": "63.5", "version": version})
    assert first.status_code == 303
    second = client.post(f"{TUNE}/keep", data={**TUNING, "on": "64.5", "version": version})
    assert second.status_code == 409
    assert "while you were here" in second.text
    assert 'value="64.5"' in second.text
    assert draft(client)["plan"]["rules"][0]["condition"]["on_threshold"] == 63.5


def test_figures_are_of_the_span_that_is_chosen_and_say_what_of_it_was_recorded(signed):
    client = signed("guest")

    def told(over: str) -> str:
        page = client.post(f"{TUNE}/answer", data={**TUNING, "over": over}).text
        return plain(found_in(r'class="chip[^>]*>(.*?)</', page))

    whole, week, day = (told(over) for over in ("31", "7", "1"))
    assert "30 recorded days, 13 Oct to 13 Nov 2025 (96 %)" in whole, (
        "the log begins later and has holes"
    )
    assert "7.0 recorded days, 6 Nov to 13 Nov 2025" in week
    assert "1.0 recorded days, 12 Nov to 13 Nov 2025" in day
    refused = client.post(f"{TUNE}/answer", data={**TUNING, "over": "900"}).text
    assert "one of the list" in refused


def test_events_are_those_of_the_marks_on_the_page(signed):
    client = signed("guest")
    texts = [
        client.post(f"{TUNE}/events.csv", data={**TUNING, "on": "60", "off": off}).text
        for off in ("59.8", "50")
    ]
    switched = [
        [row for row in text.splitlines() if ",dehumidifier,off,on," in row] for text in texts
    ]
    assert len(switched[0]) > len(switched[1]) > 3
    wrong = client.post(f"{TUNE}/events.csv", data={**TUNING, "on": "damp"})
    assert wrong.status_code == 422
    assert 'value="damp"' in wrong.text


def test_an_old_log_is_shown_with_where_it_ends(signed, module_database):
    """Half a year later nothing is recorded in the last month: the pages show what there is."""

    def clock_at(now_ms: int) -> None:
        mine = houses.c.id == house_of(module_database)
        with module_database.begin() as connection:
            connection.execute(update(houses).where(mine).values(now_ms=now_ms))

    client = signed("guest")
    clock_at(END_MS + 180 * MS_PER_DAY)
    try:
        page = client.get(TUNE).text
        assert "30 recorded days, 13 Oct to 13 Nov 2025" in plain(page)
        assert "the record ends 13 Nov 2025, 19:4" in page
        assert "the record ends 13 Nov 2025" in client.get(H).text
        rule = client.get(f"{H}/rule?load=dehumidifier").text
        assert "Nothing is recorded" not in rule
    finally:
        clock_at(END_MS)
    assert "the record ends" not in client.get(TUNE).text


def test_without_readings_in_the_chosen_days_there_are_no_figures(signed):
    """A log that ended before them gave “0.0 starts a day, 0.0 h a week, 0 s recorded”."""
    window = {"over": "window", "window_h": "24", "window_end": str(END_MS - 400 * MS_PER_DAY)}
    page = signed("guest").post(f"{TUNE}/answer", data={**TUNING, **window}).text
    words = plain(page)
    assert "nothing is recorded in the chosen days" in words
    costs = re.findall(r'data-cost="([^"]+)".*?<b[^>]*>([^<]*)</b>', page, re.S)
    assert {name for name, _ in costs} >= {"Starts a day", "On, hours a day", "Energy, kWh a day"}
    assert {figure for _, figure in costs} == {"–"}


def test_energy_is_the_entered_power_for_the_time_on(signed):
    """By the page's own hours: 0.28 kW (or what is entered) times the hours a day."""
    client = signed("guest")
    page = client.post(f"{TUNE}/answer", data=TUNING).text
    costs = dict(re.findall(r'data-cost="([^"]+)".*?<b[^>]*>([^<]*)</b>', page, re.S))
    watts = next(x for x in draft(client)["plan"]["loads"] if x["id"] == "dehumidifier")["power_w"]
    by_hand = watts / 1000 * float(costs["On, hours a day"])
    assert float(costs["Energy, kWh a day"]) == pytest.approx(by_hand, abs=0.06)
