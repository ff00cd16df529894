"""The Tune bench: answers that store nothing, refusals, two tabs."""

import json
import re

import pytest
from tests.web.pages import H, draft
from tests.web.sent import TUNING

TUNE = f"{H}/tune/dehumidifier"


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        ("on", "damp", "a number"),
        ("on", "140", "0 to 100"),
        ("on", "nan", "0 to 100"),
        ("off", "63", "below the on mark 62"),
        ("min_off_min", "-3", "0 to 1440"),
        ("silent_state", "maybe", "one of the list"),
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
    if field not in ("silent_state", "return_policy"):
        assert f'value="{typed}"' in page
    assert draft(client) == before


def test_the_answer_moves_with_the_marks_and_stores_nothing(signed):
    client = signed("guest")
    before = draft(client)
    closings = []
    for off in ("59.8", "50"):
        page = client.post(f"{TUNE}/answer", data={**TUNING, "on": "60", "off": off}).text
        row = re.search(r'data-cost="Closings a day".*?<b>([\d.]+)</b>', page, re.S)
        assert row
        closings.append(float(row[1]))
    assert closings[0] > closings[1] > 0
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
    assert "power cut, put in from 08:00 to 08:30" in page
    assert "probe silent, put in from 13:00 to 15:00" in page
    data = json.loads(page.split('id="rail-data">')[1].split("</script>")[0])
    ranks = {row["rank"] for row in data["lanes"][0]["rows"]}
    assert {0, 3} <= ranks


def test_two_tabs_cannot_overwrite_each_other_unseen(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    first = client.post(f"{TUNE}/keep", data={**TUNING, "on": "63.5", "version": version})
    assert first.status_code == 303
    second = client.post(f"{TUNE}/keep", data={**TUNING, "on": "64.5", "version": version})
    assert second.status_code == 409
    assert "while you were here" in second.text
    assert 'value="64.5"' in second.text
    assert draft(client)["plan"]["claims"][0]["condition"]["on"] == 63.5
