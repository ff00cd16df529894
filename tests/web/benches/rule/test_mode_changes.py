"""A mode that schedules and conditions set: written in its form, told, refused, taken out."""

from tests.web.pages import H, draft, fix_of, plain

HOUSE = f"{H}/rule/house"
NIGHT = {"change0_when": "schedule:night_block", "change0_value": "away",
         "change0_end_value": "at home", "change0_after_power_cut": "set"}  # fmt: skip
AWAY = {"change1_when": "condition:cold_out", "change1_value": "away", "change1_end_value": "",
        "change1_after_power_cut": "keep"}  # fmt: skip


def sent(client, part_id="presence", **fields):
    form = {"part_kind": "mode", "part_id": part_id, "name": "Presence",
            "values": "at home, away", "start": "", "retained": "yes",
            "version": str(draft(client)["version"]), **fields}  # fmt: skip
    return client.post(HOUSE, data=form)


def put_in(client, part_id="", **fields):
    """The named condition, and the mode, from nothing."""
    if not any(c["id"] == "cold_out" for c in draft(client)["plan"]["conditions"]):
        cold = {"part_kind": "condition", "part_id": "", "name": "Cold out", "c_kind": "below",
                "c_probe": "courtyard_temp", "c_value": "3", "c_hysteresis": "1",
                "version": str(draft(client)["version"])}  # fmt: skip
        assert client.post(HOUSE, data=cold).status_code == 303
    there = any(m["id"] == "presence" for m in draft(client)["plan"]["modes"])
    return sent(client, part_id="presence" if there else "", **fields)


def the_mode(client):
    return next(m for m in draft(client)["plan"]["modes"] if m["id"] == "presence")


def test_a_mode_set_by_a_schedule_and_a_condition_from_its_form_to_its_sentence(signed):
    client = signed("jon")
    first = {"part_kind": "mode", "values": "at home, away"}
    blank = client.post(f"{HOUSE}/fields", data=first).text
    assert 'name="change0_when"' in blank
    assert 'name="change0_value"' not in blank
    chosen = client.post(f"{HOUSE}/fields", data={**first, **NIGHT}).text
    assert all(f'name="{key}"' in chosen for key in (*NIGHT, "change1_when"))
    assert put_in(client, **NIGHT, **AWAY).status_code == 303
    mode = the_mode(client)
    assert [c["when"].get("schedule") or c["when"]["condition"] for c in mode["changes"]] == [
        "night_block", "cold_out",
    ]  # fmt: skip
    assert [c["after_power_cut"] for c in mode["changes"]] == ["set", "keep"]
    words = plain(client.get(f"{H}/rule/sentences").text)
    assert "to at home when it ends; set to away again where it is in force after a power" in words
    assert "becomes true." in words
    page = plain(client.get(f"{HOUSE}?part=schedule:night_block").text)
    assert "Presence (mode)" in page
    # What sets a mode is not taken out from under it; then the row is emptied, and it can be.
    gone = {"part_kind": "schedule", "part_id": "night_block"}
    version = str(draft(client)["version"])
    assert client.post(f"{HOUSE}/remove", data={**gone, "version": version}).status_code == 422
    assert sent(client, **{**NIGHT, "change0_when": ""}, **AWAY).status_code == 303
    assert [c["when"]["kind"] for c in the_mode(client)["changes"]] == ["named"]


def test_a_value_renamed_while_a_schedule_sets_it_is_renamed_there(signed):
    client = signed("jon")
    put_in(client, **NIGHT)
    assert sent(client, values="home, away", start="at home", **NIGHT).status_code == 303
    mode = the_mode(client)
    assert (mode["start"], mode["changes"][0]["end_value"]) == ("home", "home")


def test_what_is_wrong_is_said_at_its_row(signed):
    client = signed("jon")
    version = draft(client)["version"]
    nothing = {**NIGHT, "change0_value": "", "change0_end_value": ""}
    assert "here or at the end" in fix_of(sent(client, "", **nothing).text, "change0_value")
    wrong = sent(client, "", **{**NIGHT, "change0_value": "dusk"}).text
    assert "at home, away" in fix_of(wrong, "change0_value")
    of_none = sent(client, "", **{**NIGHT, "change0_when": "schedule:none"}).text
    assert "Choose one of the list." in fix_of(of_none, "change0_when")
    # "away" reads a mode: it is no choice here, and refused where it is sent all the same.
    assert 'value="condition:away"' not in client.get(f"{HOUSE}?part=mode:").text
    circle = sent(client, "", **{**NIGHT, "change0_when": "condition:away"}).text
    assert "Choose one of the list." in fix_of(circle, "change0_when")
    assert draft(client)["version"] == version
