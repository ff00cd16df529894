"""Two tabs on one part: what each changed stays, and what was typed never vanishes."""

import pytest
from tests.web.pages import H, draft
from tests.web.test_every_field import form_of

PART = (f"{H}/layout?part=load:extractor", "part-form", f"{H}/layout/part")
RULE = (f"{H}/rule?load=extractor&rule=ex_steam", "rule-form", f"{H}/rule/rule")
SPARE = (f"{H}/layout?part=load:store_fan", "part-form", f"{H}/layout/part")


def opened(client, page: str, form_id: str) -> dict[str, str]:
    return form_of(client.get(page).text, form_id)


def load_of(client) -> dict[str, object]:
    found: dict[str, object] = next(
        one for one in draft(client)["plan"]["loads"] if one["id"] == "extractor"
    )
    return found


def test_keeping_mine_over_theirs_leaves_their_other_fields(signed):
    """They set the watts, I the name: over it goes my name alone."""
    client = signed("jon")
    page, form_id, where = PART
    mine = opened(client, page, form_id)
    theirs = {**mine, "power_w": "26", "feed": "F9"}
    assert client.post(where, data=theirs).status_code == 303
    met = client.post(where, data={**mine, "name": "My extractor", "feed": "F7"})
    assert met.status_code == 409
    again = form_of(met.text, form_id)
    begun = met.text.split('name="begun_at" value="', 1)[1].split('"', 1)[0]
    assert client.post(where, data={**again, "begun_at": begun}).status_code == 303
    kept = load_of(client)
    assert (kept["name"], kept["power_w"], kept["feed"]) == ("My extractor", 26.0, "F7")


def test_keeping_a_rule_over_theirs_leaves_their_threshold(signed):
    client = signed("jon")
    page, form_id, where = RULE
    mine = opened(client, page, form_id)
    thresholds = [name for name in mine if name.startswith("c_") and mine[name]]
    theirs_field, my_field = "name", "note"
    assert {theirs_field, my_field} <= set(mine), thresholds
    assert client.post(where, data={**mine, theirs_field: "Their name"}).status_code == 303
    met = client.post(where, data={**mine, my_field: "My note"})
    assert met.status_code == 409
    begun = met.text.split('name="begun_at" value="', 1)[1].split('"', 1)[0]
    again = {**form_of(met.text, form_id), "begun_at": begun}
    assert client.post(where, data=again).status_code == 303
    kept = next(c for c in draft(client)["plan"]["rules"] if c["id"] == "ex_steam")
    assert (kept["name"], kept["note"]) == ("Their name", "My note")


@pytest.mark.parametrize("what", ["load", "rule"])
def test_what_was_removed_meanwhile_is_shown_as_typed_and_put_in_again(signed, what):
    client = signed("jon")
    page, form_id, where = SPARE if what == "load" else RULE
    mine = {**opened(client, page, form_id), "name": "Typed long and well"}
    version = str(draft(client)["version"])
    token = mine["form_token"]
    if what == "load":
        sent = {"part": "load:store_fan"}
        gone = client.post(
            f"{H}/layout/remove", data={"form_token": token, "version": version, **sent}
        )
    else:
        gone = client.post(
            f"{H}/rule/remove",
            data={
                "form_token": token,
                "version": version,
                "rule": "ex_steam",
                "load": "extractor",
            },
        )
    assert gone.status_code == 303, gone.text[:500]
    met = client.post(where, data=mine)
    assert met.status_code == 409
    assert "was removed while you were here" in met.text
    assert "Typed long and well" in met.text
    assert client.post(where, data=form_of(met.text, form_id)).status_code == 303
    plan = draft(client)["plan"]
    rows = plan["loads"] if what == "load" else plan["rules"]
    assert [row for row in rows if row["name"] == "Typed long and well"]
