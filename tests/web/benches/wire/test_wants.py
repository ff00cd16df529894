"""Several wants of one press or position: in their order, each taken out by itself."""

import re

from tests.web.pages import H, draft, version_of

CONTROLS = f"{H}/wire/controls"


def control(client, control_id: str):
    return next(c for c in draft(client)["plan"]["controls"] if c["id"] == control_id)


def post(client, action: str, **sent: str):
    page = client.get(CONTROLS).text
    token = page.split('name="form_token" value="', 1)[1].split('"', 1)[0]
    data = {"form_token": token, "version": version_of(page), **sent}
    return client.post(f"{CONTROLS}/{action}", data=data)


def test_a_press_has_two_wants_in_their_order_and_loses_one(signed):
    client = signed("jon")
    who = next(c["id"] for c in draft(client)["plan"]["controls"] if c["kind"] == "push_button")
    first = {"control": who, "press": "long", "does": "off", "target": "load:extractor"}
    second = {"control": who, "press": "long", "does": "on", "target": "load:store_fan"}
    assert post(client, "press", **first).status_code == 303
    assert post(client, "press", **second, then="yes").status_code == 303
    rows = [p for p in control(client, who)["presses"] if p["press"] == "long"]
    assert [(p["does"], p["load"]) for p in rows] == [("off", "extractor"), ("on", "store_fan")]
    page = client.get(f"{CONTROLS}?control={who}&field=presses&key=long").text
    assert re.search(r"<li>.*Turns Drying extractor off.*<li>.*Turns Store fan on", page, re.S)
    assert "Remove request 2" in page
    assert (
        post(client, "forget", control=who, field="presses", key="long", nth="0").status_code == 303
    )
    rows = [p for p in control(client, who)["presses"] if p["press"] == "long"]
    assert [p["load"] for p in rows] == ["store_fan"]
    assert post(client, "press", **first).status_code == 303, "without “and then” it replaces"
    rows = [p for p in control(client, who)["presses"] if p["press"] == "long"]
    assert [p["load"] for p in rows] == ["extractor"]


def test_a_seventh_want_of_one_button_is_refused_in_words(signed):
    client = signed("jon")
    who = next(c["id"] for c in draft(client)["plan"]["controls"] if c["kind"] == "push_button")
    sent = {"control": who, "press": "double", "does": "off", "target": "load:extractor"}
    answers = [post(client, "press", **sent, then="yes") for _ in range(8)]
    assert answers[-1].status_code == 422
    assert "6 actions of one button" in answers[-1].text
    assert len(control(client, who)["presses"]) == 6


def test_a_position_wants_a_second_thing_and_loses_it(signed):
    client = signed("jon")
    who = next(c for c in draft(client)["plan"]["controls"] if c["kind"] == "selector")
    key = who["positions"][-1]["pattern"]
    sent = {"control": who["id"], "field": "positions", "key": key}
    more = {"does": "on", "target": "load:store_fan", "ends": "position"}
    assert post(client, "want", **sent, **more, then="yes").status_code == 303
    kept = control(client, who["id"])["positions"][-1]
    assert kept["does"] == who["positions"][-1]["does"], "what it wanted stays"
    assert [(w["does"], w["load"], w["ends_by"]) for w in kept["also"]] == [
        ("on", "store_fan", "position")
    ]
    page = client.get(f"{CONTROLS}?control={who['id']}&field=positions&key={key}").text
    assert re.search(r"<li>.*to step 4.*<li>.*Turns Store fan on", page, re.S)
    assert "Drying extractor: Off when Rack top" in page, "what such an override cannot overrule"
    for unread in ("-1", "", "²", "9" * 30):
        assert post(client, "forget", **sent, nth=unread).status_code == 422, unread
    assert len(control(client, who["id"])["positions"]) == len(who["positions"]), "none is lost"
    assert post(client, "forget", **sent, nth="0").status_code == 303
    assert control(client, who["id"])["positions"][-1]["also"] == []


def test_a_press_that_is_added_never_takes_the_place_of_one_that_is_there(signed):
    client = signed("jon")
    page = client.get(f"{CONTROLS}?control=mode_button").text
    assert 'name="press"' not in page, "the mill's button has all three"
    assert "Add a press of Mode button" not in page
    gone = {"control": "mode_button", "field": "presses", "key": "double"}
    assert post(client, "forget", **gone).status_code == 303
    page = client.get(f"{CONTROLS}?control=mode_button").text
    offered = page.split('name="press"', 1)[1].split("</select>", 1)[0]
    assert re.findall(r"<option>(\w+)</option>", offered) == ["double"]
