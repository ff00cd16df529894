"""Pages and data over HTTP: who may what, what is refused and how, what is never stored."""

import io
import json
import re
import time
from typing import Any

import pytest
from httpx import Client
from tests.serving import served
from tests.web.conftest import form_token
from tests.web.sent import READ_OPTIONS, TUNING

from aldea.core.plan.codec import plan_text, read_plan
from aldea.demo.load import PASSWORD
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS

H = "/h/molino-alto"
TUNE = f"{H}/tune/dehumidifier"
CHANGES = (
    f"{H}/calibrate/drying_rh/pairs",
    f"{H}/calibrate/drying_rh/pairs/1/withdraw",
    f"{H}/calibrate/drying_rh/sign",
    f"{TUNE}/keep",
    f"{H}/record/publish",
    f"{H}/record/readings",
    f"{H}/record/readings/1/check",
    f"{H}/record/readings/1/store",
    f"{H}/record/readings/1/stop",
)


def draft(client) -> dict[str, Any]:
    found: dict[str, Any] = client.get("/api/v1/houses/molino-alto/plan").json()
    return found


@pytest.mark.parametrize("path", ["", "/calibrate/drying_rh", "/tune/dehumidifier", "/record"])
def test_every_bench_answers_with_strict_headers(signed, path):
    answer = signed("guest").get(H + path)
    assert answer.status_code == 200
    policy = answer.headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert not re.search(r"\sstyle=", answer.text), "no inline style gets through the policy"
    assert not re.search(r"<script(?![^>]*(src=|application/json))", answer.text)


@pytest.mark.parametrize("role", ["guest", "ines"])
@pytest.mark.parametrize("path", CHANGES)
def test_who_does_not_build_changes_nothing_also_by_address(signed, role, path):
    client = signed(role)
    before = draft(client)
    answer = client.post(path, data={**TUNING, "version": "2", "reason": "x"})
    assert answer.status_code == 403
    assert "a builder" in answer.text
    assert draft(client) == before


def test_nobody_gets_in_unsigned(client):
    client.cookies.clear()
    assert client.get(H).headers["location"] == "/sign-in?next=/h/molino-alto"
    answer = client.get("/api/v1/houses/molino-alto/plan")
    assert answer.status_code == 401
    assert answer.headers["content-type"] == "application/problem+json"
    assert client.post(f"{TUNE}/keep", data=TUNING).status_code == 303


def test_a_change_needs_the_form_token_and_this_site(signed):
    client = signed("jon")
    token = client.headers.pop("x-form-token")
    assert client.post(f"{TUNE}/keep", data={**TUNING, "version": "2"}).status_code == 403
    sent = {**TUNING, "version": "2", "form_token": token}
    for headers in ({"origin": "http://elsewhere.example"}, {"sec-fetch-site": "cross-site"}):
        assert client.post(f"{TUNE}/keep", data=sent, headers=headers).status_code == 403


def test_sign_in_never_leads_elsewhere(client):
    client.cookies.clear()
    for path in ("//evil.example", "https://evil.example", "/\\evil.example"):
        page = client.get("/sign-in", params={"next": path}).text
        assert 'name="next_path" value="/"' in page


def test_a_wrong_password_keeps_the_name(client):
    client.cookies.clear()
    token = form_token(client.get("/sign-in").text)
    answer = client.post("/sign-in", data={"name": "Oriol", "password": "no", "form_token": token})
    assert answer.status_code == 422
    assert 'value="oriol"' in answer.text


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


def test_state_reason_and_next_change_are_the_same_at_every_instant(signed):
    """What the rail carries against what the instant is asked for, at edges and between."""
    client = signed("guest")
    rail = client.get("/api/v1/houses/molino-alto/rail", params={"hours": 24}).json()
    rows = rail["lanes"][0]["rows"]
    assert len(rows) > 20
    instants = [r["s"] for r in rows] + [r["e"] - 1 for r in rows]
    for t in [i for i in instants if rail["start"] <= i <= rail["end"]][::7]:
        row = max((r for r in rows if r["s"] <= t), key=lambda r: r["s"])
        load = client.get("/api/v1/houses/molino-alto/at", params={"t": t}).json()["loads"][0]
        for key, name in (("why", "why"), ("state", "state"), ("next", "next_change")):
            assert row[key] == load[name]


def wait_for(client, path: str, *states: str) -> str:
    page = ""
    for _ in range(200):
        page = client.get(f"{path}?part=progress").text
        if any(state in page for state in states):
            return str(page)
        time.sleep(0.1)
    raise AssertionError(page)


def upload(client, text: bytes, probe: str = "courtyard_rh") -> str:
    answer = client.post(
        f"{H}/record/readings", data={"probe": probe}, files={"log": ("log.csv", io.BytesIO(text))}
    )
    assert answer.status_code == 303, answer.text
    return str(answer.headers["location"])


def test_an_import_is_counted_before_anything_is_stored(signed):
    client = signed("jon")
    start = END_MS // 1000 - 40 * 86_400
    text = "t,rh\n" + "".join(f"{start + 10 * i},{50 + i % 9}\n" for i in range(5000))
    path = upload(client, text.encode())
    assert client.post(f"{path}/check", data=READ_OPTIONS).status_code == 303
    page = wait_for(client, path, "Store")
    assert "5 000 readings" in page
    assert client.post(f"{path}/store").status_code == 303
    wait_for(client, path, "readings stored")
    again = upload(client, text.encode())
    client.post(f"{again}/check", data=READ_OPTIONS)
    assert "5 000" in wait_for(client, again, "There already")
    assert client.post(f"{again}/store").status_code == 303
    assert "0 readings stored" in wait_for(client, again, "readings stored")


def test_a_broken_log_is_refused_whole_with_line_and_column(signed):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n1760000010,wet\n")
    client.post(f"{path}/check", data=READ_OPTIONS)
    page = wait_for(client, path, "refused whole")
    assert "line 3, column 2: got &#39;wet&#39;" in page
    assert client.post(f"{path}/store").status_code == 409


def test_options_are_refused_at_their_field(signed):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n")
    for field, value in (("zone", "Mill/Time"), ("value_column", "0"), ("header_rows", "x")):
        answer = client.post(f"{path}/check", data={**READ_OPTIONS, field: value})
        assert answer.status_code == 422
        assert f'id="mend-{field}"' in answer.text


def test_a_plan_goes_out_and_comes_into_a_fresh_house_as_the_identical_document(signed):
    client = signed("jon")
    exported = client.get(f"{H}/record/plan.json").content
    answer = client.post("/houses", files={"plan": ("plan.json", exported)})
    assert answer.status_code == 303
    fresh = answer.headers["location"].removesuffix("/record")
    assert fresh == "/h/molino-alto-2"
    assert client.get(f"{fresh}/record/plan.json").content == exported
    assert client.get(f"{fresh}/tune/dehumidifier").status_code == 200, "an honest empty state"
    assert read_plan(exported).house.name == "Molino Alto"


def test_a_wrong_plan_file_is_refused_whole(signed):
    client = signed("jon")
    before = client.get("/houses").text.count("<tr>")
    text = plan_text(mill_plan()).replace('"min_on_s"', '"min_on_min"', 1)
    answer = client.post("/houses", files={"plan": ("plan.json", text)})
    assert answer.status_code == 422
    assert "/loads/0/min_on_min" in answer.text
    assert client.get("/houses").text.count("<tr>") == before


def test_a_pair_is_refused_at_its_field_and_the_rest_stays(signed):
    client = signed("jon")
    form = {"approach": "drier", "medium": "sodium_chloride", "temp_degc": "20"}
    answer = client.post(f"{H}/calibrate/drying_rh/pairs", data={**form, "reading": "740"})
    assert answer.status_code == 422
    assert "0 to 100 %RH" in answer.text
    assert 'value="740"' in answer.text


def test_signing_stores_the_certificate_and_applies_it_to_the_draft(signed):
    client = signed("jon")
    before = draft(client)["version"]
    answer = client.post(f"{H}/calibrate/drying_rh/sign")
    assert answer.status_code == 303
    page = client.get(answer.headers["location"]).text
    assert "a check pair confirms it" in page
    now = draft(client)
    calibration = now["plan"]["probes"][0]["calibration"]
    assert now["version"] == before + 1
    assert calibration["certificate"] == 1
    assert calibration["slope"] == pytest.approx(1.08, abs=0.01)
    assert client.post(f"{H}/calibrate/drying_rh/sign").status_code == 422, "no pairs are left"


def test_publishing_needs_a_reason_and_the_version_that_was_read(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    blank = client.post(f"{H}/record/publish", data={"version": version, "reason": " "})
    assert blank.status_code == 422
    sent = {"version": version, "reason": "wider", "despite": "neither is connected yet"}
    bare = client.post(f"{H}/record/publish", data={**sent, "despite": ""})
    assert bare.status_code == 422
    assert "2 unmended things at Wire" in bare.text
    old = client.post(f"{H}/record/publish", data={"version": "1", "reason": "why not"})
    assert old.status_code == 409
    assert "why not" in old.text
    assert client.post(f"{H}/record/publish", data=sent).status_code == 303
    page = client.get(f"{H}/record").text
    assert "wider Published despite DO11 is high before the start; Floor drain tape" in page
    assert "neither is connected yet" in page


@pytest.mark.parametrize(
    "path",
    ["/h/nowhere", f"{H}/tune/boiler", f"{H}/calibrate/plinth_tape", f"{H}/certificates/99", "/x"],
)
def test_what_is_not_there_says_so(signed, path):
    answer = signed("guest").get(path)
    assert answer.status_code == 404
    assert "allowed:" in answer.text


@pytest.mark.parametrize("query", ["hours=x&end=y&at=z", "hours=1e99", "at=-5", "hours=-3&end=1"])
def test_an_odd_address_never_fails_a_page(signed, query):
    assert signed("guest").get(f"{H}?{query}").status_code == 200
    assert signed("guest").get(f"{TUNE}?{query}").status_code == 200


def test_while_the_engine_compiles_the_page_says_so(module_database, tmp_path):
    """A server whose engine is not ready: pages say so and come again, data answers 503."""
    with served(module_database, tmp_path, ready=False) as base, Client(base_url=base) as client:
        token = form_token(client.get("/sign-in").text)
        client.post("/sign-in", data={"name": "jon", "password": PASSWORD, "form_token": token})
        for path in (H, TUNE):
            answer = client.get(path)
            assert answer.status_code == 503
            assert "The engine is compiling itself." in answer.text
            assert "data-reload-s" in answer.text
        data = client.get("/api/v1/houses/molino-alto/rail")
        assert data.status_code == 503
        assert data.json()["status"] == 503
