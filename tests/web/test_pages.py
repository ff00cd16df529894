"""Pages and data over HTTP: who may what, what is refused and how, what is never stored."""

import json
import re

import pytest
from fastapi.routing import APIRoute
from httpx import Client
from tests.web.conftest import form_token
from tests.web.pages import H, draft, plain
from tests.web.sent import TUNING

from aldea.web.registry import BENCHES

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
    assert "A builder can do it" in answer.text
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


def test_state_reason_and_next_change_are_the_same_at_every_instant(signed):
    """What the timeline carries against what the instant is asked for, at edges and between."""
    client = signed("guest")
    timeline = client.get("/api/v1/houses/molino-alto/timeline", params={"hours": 24}).json()
    at = next(i for i, lane in enumerate(timeline["lanes"]) if lane["load"] == "dehumidifier")
    rows = timeline["lanes"][at]["rows"]
    assert len(rows) > 20
    instants = [r["s"] for r in rows] + [r["e"] - 1 for r in rows]
    for t in [i for i in instants if timeline["start"] <= i <= timeline["end"]][::7]:
        row = max((r for r in rows if r["s"] <= t), key=lambda r: r["s"])
        load = client.get("/api/v1/houses/molino-alto/at", params={"t": t}).json()["loads"][at]
        for name in ("why", "state", "until", "next_change"):
            assert row[name] == load[name]
        asked = client.get("/api/v1/houses/molino-alto/states", params={"t": t}).json()
        assert asked[at] == load


def test_a_long_window_brings_no_words_and_the_instant_gives_them(signed):
    client = signed("guest")
    page = client.get("/h/molino-alto", params={"hours": 720}).text
    data = json.loads(page.split('id="timeline-data">')[1].split("</script>")[0])
    assert data["asked"]
    assert len(page) < 500_000
    rows = data["lanes"][1]["rows"]
    assert len(rows) > 2000
    assert {*rows[0]} == {"s", "e", "on", "by"}
    short = client.get("/h/molino-alto", params={"hours": 24}).text
    assert not json.loads(short.split('id="timeline-data">')[1].split("</script>")[0])["asked"]


@pytest.mark.parametrize(
    "path",
    ["/h/nowhere", f"{H}/tune/boiler", f"{H}/calibrate/plinth_tape", f"{H}/certificates/99", "/x"],
)
def test_what_is_not_there_says_so(signed, path):
    answer = signed("guest").get(path)
    assert answer.status_code == 404
    assert re.search(r"(Choose|Enter) (a|one) ", answer.text)


@pytest.mark.parametrize("query", ["hours=x&end=y&at=z", "hours=1e99", "at=-5", "hours=-3&end=1"])
def test_an_odd_address_never_fails_a_page(signed, query):
    assert signed("guest").get(f"{H}?{query}").status_code == 200
    assert signed("guest").get(f"{TUNE}?{query}").status_code == 200


def token_of(client: Client) -> dict[str, str]:
    """The header that a change needs."""
    return {"x-form-token": form_token(client.get("/account").text)}


def test_what_a_refused_form_leaves_in_the_address_can_be_loaded_again(signed):
    """Each address that a form is sent to leads, when it is asked for, to a page."""
    client = signed("jon")
    named = {
        "slug": "molino-alto",
        "probe_id": "drying_rh",
        "load_id": "dehumidifier",
        "key": "tape",
        "subject": "manifold_tape",
        "direction": "undo",
        "action": "withdraw",
    }
    lost, asked = [], 0
    for bench in BENCHES:
        for route in (route for router in bench.routers for route in router.routes):
            assert isinstance(route, APIRoute)
            known = set(re.findall(r"\{(\w+)", route.path)) <= named.keys()
            if "POST" in (route.methods or ()) and known:
                asked += 1
                path = route.path.format(**named)
                answer = client.get(path, follow_redirects=True)
                if answer.status_code != 200:
                    lost.append(f"{answer.status_code} {path}")
    assert asked > 50
    assert lost == []


@pytest.mark.parametrize("token", ["x", "0" * 32, "a b"])
def test_a_change_with_another_form_token_changes_nothing(signed, token):
    """Not any token: that of this session."""
    client = signed("jon")
    before = draft(client)
    answer = client.post(f"{TUNE}/keep", data=TUNING, headers={"x-form-token": token})
    assert answer.status_code == 403
    assert "This page is old" in answer.text
    assert draft(client) == before


def test_house_asks_for_what_comes_next_where_the_record_ends(signed):
    """The rest comes after the page; of a load that the draft leaves alone, as Rule says it."""
    client = signed("guest")
    asked = re.findall(r'hx-get="([^"]*/ahead[?]load=(\w+)[^"]*)"', client.get(H).text)
    said = {
        load: re.findall(r"<span data-ahead>(.*)</span>", client.get(path).text)[0]
        for path, load in ((path.replace("&amp;", "&"), load) for path, load in asked)
    }
    for load, sentence in said.items():
        assert re.match(r"(At|Expected between|The next change) |Nothing is foreseen", sentence), (
            load
        )
    assert said["booster_pump"] in client.get(f"{H}/rule?load=booster_pump").text
    assert client.get(f"{H}/ahead?load=gone").status_code == 404


@pytest.mark.parametrize(("who", "role"), [("guest", "viewer"), ("ines", "householder")])
def test_who_may_not_build_is_told_what_they_may_do(signed, who, role):
    page = plain(signed(who).get(H).text)
    assert f"You are a {role} of this house: everything can be read" in page
    assert "Only a builder saves changes." in page
    assert "Only a builder saves changes." not in plain(signed("jon").get(H).text)
