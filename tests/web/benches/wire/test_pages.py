"""Lay out and Wire over HTTP: what is refused and how, what is kept, who may."""

import json
import re
from html import unescape

import pytest
from benchmarks.large_house import large_house
from tests.core.houses import built
from tests.web.pages import H, draft, found_in, plain, plan_of, version_of

from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.plan.document import Plan
from aldea.core.plan.text import plan_text
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.findings import could_not_avoid
from aldea.web.benches.wire.panel import assigning

POSTS = (
    f"{H}/layout/part",
    f"{H}/layout/move",
    f"{H}/layout/remove",
    f"{H}/layout/never",
    f"{H}/layout/unsay",
    f"{H}/draft/undo",
    f"{H}/wire/assign",
    f"{H}/wire/assign/1/stop",
    f"{H}/wire/pin",
    f"{H}/wire/fix",
    f"{H}/wire/relays",
    f"{H}/wire/relay",
    f"{H}/wire/boards/copy",
    f"{H}/wire/boards/keep",
    f"{H}/wire/boards/remove",
    f"{H}/wire/parts",
    f"{H}/wire/controls/learn",
    f"{H}/wire/controls/forget",
)


SHEETS = (
    "/wire/door-sheet.pdf",
    "/wire/schedule.csv",
    "/wire/parts.csv",
    "/wire/boards/wifi_38.csv",
)


@pytest.mark.parametrize("path", POSTS)
def test_a_viewer_changes_nothing_also_by_address(signed, path):
    client = signed("guest")
    before = draft(client)
    answer = client.post(path, data={"version": str(before["version"]), "part": "load:skylight"})
    assert answer.status_code == 403
    assert draft(client) == before


@pytest.mark.parametrize("path", SHEETS)
def test_a_viewer_may_take_sheets_and_lists(signed, path):
    assert signed("guest").get(H + path).status_code == 200


@pytest.mark.parametrize(
    ("path", "sent", "said"),
    [
        ("layout/part", {"part_kind": "ghost"}, "place, load"),
        (
            "layout/part",
            {"part_kind": "place", "part_id": "panel", "within": "panel"},
            "one of the list",
        ),
        ("layout/part", {"part_kind": "load", "part_id": "skylight", "pulse_s": "0"}, "0.05 to 10"),
        (
            "layout/part",
            {"part_kind": "probe", "part_id": "cellar_rh", "address": "200"},
            "0 to 127",
        ),
        (
            "layout/part",
            {"part_kind": "place", "part_id": "loft", "level": "1.5"},
            "a whole number",
        ),
        ("layout/part", {"part_kind": "house", "time_zone": "Mill/Time"}, "time zone database"),
        ("layout/move", {"part": "load:skylight", "place": "attic"}, "a part of this plan"),
        ("layout/remove", {"part": "place:loft"}, "Loft skylight"),
        ("layout/remove", {"part": "probe:drying_rh"}, "Dehumidifier (demand)"),
        ("layout/never", {"part": "load:skylight", "number": "99"}, "Enter 0 to"),
        (
            "wire/pin",
            {"part": "relay:k5", "pin-relay:k5.coil": "board_a/XX"},
            "a pin of Board A",
        ),
        ("wire/pin", {"part": "x", "pin-relay:none.coil": ""}, "a line of this plan"),
        ("wire/pin", {"part": "x", "pin-gibberish": "board_a/P13"}, "a line of this plan"),
        ("wire/fix", {"finding": "no-such"}, "one that still stands"),
        ("wire/boards/copy", {"type": "wifi_38", "name": " "}, "a name for the board"),
        ("wire/boards/remove", {"type": "wifi_38"}, "a part of this plan"),
        (
            "wire/controls/learn",
            {"control": "drying_remote", "name": "x", "code": "zz"},
            "0–9, a–f",
        ),
        (
            "wire/controls/learn",
            {"control": "drying_remote", "name": "x", "code": "a3f1c0"},
            "a3f1c0 is already used",
        ),
        (
            "wire/controls/learn",
            {"control": "step_selector", "name": "x", "pattern": "000"},
            "again",
        ),
        (
            "wire/controls/learn",
            {"control": "step_selector", "name": "x", "pattern": "01"},
            "3 0s and 1s",
        ),
        (
            "wire/controls/press",
            {"control": "mode_button", "press": "long", "does": "step", "target": "load:extractor"},
            "0 to 15",
        ),
        ("wire/controls/press", {"control": "mode_button", "press": "thrice"}, "short, long"),
        (
            "wire/controls/press",
            {
                "control": "mode_button",
                "press": "long",
                "does": "on",
                "target": "load:extractor",
                "ends": "mode",
            },
            "acts in one mode only",
        ),
        (
            "wire/controls/press",
            {
                "control": "mode_button",
                "press": "long",
                "does": "on",
                "target": "load:extractor",
                "ends": "time",
                "for_s": "1e9",
            },
            "1 to 604800 s",
        ),
        (
            "wire/controls/fill",
            {"control": "step_selector", "scheme": "one_of_n", "names": "0,1,2,3,4"},
            "1 to 4 with 3 contacts",
        ),
        ("wire/controls/paste", {"control": "drying_remote", "codes": "xyz"}, "line 1"),
        (
            "wire/controls/want",
            {"control": "drying_remote", "field": "codes", "key": "0"},
            "is there",
        ),
        ("wire/controls/group", {"name": "All"}, "at least one load"),
        ("wire/controls/group", {"name": "A", "member-skylight": "1", "stagger_s": "x"}, "3600 s"),
    ],
)
def test_what_is_wrong_is_said_and_nothing_is_kept(signed, path, sent, said):
    client = signed("jon")
    before = draft(client)
    answer = client.post(f"{H}/{path}", data={"version": str(before["version"]), **sent})
    assert answer.status_code == 422, answer.text[:300]
    assert said in answer.text
    assert draft(client) == before


@pytest.mark.parametrize(
    ("sent", "kept", "said"),
    [
        ({"ends": "time", "for_s": "90,5"}, ("time", 90.5, False), "turns it on, for "),
        ({"ends": "automatic"}, ("automatic", None, False), "until it is returned to automatic"),
        ({"ends": "mode", "only": "drying_mode=by hand"}, ("automatic", None, True),
         "only while Drying is “by hand”, and no longer than that"),
        ({}, (None, None, False), "a long press: turns it on."),
    ],
)  # fmt: skip
def test_how_an_override_ends_is_kept_shown_and_told(signed, sent, kept, said):
    client = signed("jon")
    form = {"version": str(draft(client)["version"]), "control": "mode_button", "press": "long",
            "does": "on", "target": "load:extractor", **sent}  # fmt: skip
    assert client.post(f"{H}/wire/controls/press", data=form).status_code == 303
    control = next(c for c in draft(client)["plan"]["controls"] if c["id"] == "mode_button")
    press = next(p for p in control["presses"] if p["press"] == "long")
    assert (press["ends_by"], press["for_s"], press["ends_with_mode"]) == kept
    assert said in unescape(client.get(f"{H}/rule/failsafe?load=extractor").text)
    page = client.get(f"{H}/wire/controls")
    assert page.status_code == 200
    undo = {"version": str(draft(client)["version"]), "back": f"{H}/wire"}
    assert client.post(f"{H}/draft/undo", data=undo).status_code == 303


def test_a_hand_that_chooses_a_pin_twice_is_kept_and_told(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    sent = {"version": version, "part": "relay:k5", "pin-relay:k5.coil": "board_a/DO6"}
    assert client.post(f"{H}/wire/pin", data=sent).status_code == 303
    page = client.get(f"{H}/wire").text
    assert "DO6 is given twice." in page
    wiring = client.get("/api/v1/houses/molino-alto/wiring").json()
    assert "twice-board_a-DO6" in {f["key"] for f in wiring["findings"]}
    assert len({c["number"] for c in wiring["conductors"]}) == len(wiring["conductors"])
    undo = {"version": str(draft(client)["version"]), "back": f"{H}/wire?board=board_a"}
    answer = client.post(f"{H}/draft/undo", data=undo)
    assert answer.headers["location"] == f"{H}/wire?board=board_a"
    assert "DO6 is given twice." not in client.get(f"{H}/wire").text


@pytest.mark.parametrize("back", ["//evil.example", "https://evil.example/h/molino-alto/", "\\x"])
def test_undo_never_leads_elsewhere(signed, back):
    client = signed("jon")
    client.post(
        f"{H}/layout/move",
        data={
            "version": str(draft(client)["version"]),
            "part": "probe:stair_radar",
            "place": "loft",
        },
    )
    sent = {"version": str(draft(client)["version"]), "back": back}
    assert client.post(f"{H}/draft/undo", data=sent).headers["location"] == f"{H}/layout"


def test_two_builders_get_the_difference_and_lose_nothing(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    form = {"part_kind": "load", "part_id": "panel_heater", "version": version}
    assert client.post(f"{H}/layout/part", data={**form, "power_w": "1400"}).status_code == 303
    late = client.post(f"{H}/layout/part", data={**form, "power_w": "1200"})
    assert late.status_code == 409
    assert "while you were here" in late.text
    assert re.search(r"power, W</th>\s*<td[^>]*>1400</td>\s*<td[^>]*><b>1200", late.text)
    assert 'value="1200"' in late.text


def test_ten_thousand_probes_are_refused_with_the_path(signed):
    client = signed("jon")
    document = json.loads(plan_text(large_house()))
    document["probes"] = [
        {**document["probes"][0], "id": f"q{i}", "sensor": None} for i in range(10_000)
    ]
    count = client.get("/houses").text.count("/h/")
    files = {"plan": ("big.json", json.dumps(document).encode())}
    answer = client.post("/houses", files=files)
    assert answer.status_code == 422
    assert "/probes" in answer.text
    assert client.get("/houses").text.count("/h/") == count


def test_a_large_house_is_drawn_and_listed(signed):
    plan = large_house()
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    client = signed("jon")
    files = {"plan": ("large.json", plan_text(plan).encode())}
    assert client.post("/houses", files=files).status_code == 303
    for path in ("layout", "wire?board=b1", "wire?by=place", "wire/parts", "wire/circuits"):
        answer = client.get(f"/h/large-house/{path}")
        assert answer.status_code == 200, path
    assert client.get("/h/large-house").status_code == 200


def test_what_hangs_on_a_board_is_fed_by_it_and_by_no_supply(signed):
    """A board is born as a controller with a supply; as an expander it has a host instead."""
    client = signed("jon")

    def sent(**fields):
        version = str(draft(client)["version"])
        form = {"part_kind": "board", "version": version, **fields}
        answer = client.post(f"{H}/layout/part", data=form)
        assert answer.status_code == 303, answer.text

    sent(name="Expander", place="drying_room", board_type="wifi_38")
    born = next(b for b in draft(client)["plan"]["boards"] if b["name"] == "Expander")
    assert born["supply"]
    sent(part_id=born["id"], name="Expander", board_type="expander_16")
    sent(
        part_id=born["id"], name="Expander", board_type="expander_16", host="board_b", address="33"
    )
    made = next(b for b in draft(client)["plan"]["boards"] if b["name"] == "Expander")
    assert (made["supply"], made["host"], made["address"]) == (None, "board_b", 33)
    wires = client.get("/api/v1/houses/molino-alto/wiring").json()["conductors"]
    starts = {w["end"]: w["start"] for w in wires}
    assert starts["Expander:+3.3 V"] == "Board B:+3.3 V"
    sent(part_id=born["id"], name="Expander", board_type="wifi_38")
    again = next(b for b in draft(client)["plan"]["boards"] if b["name"] == "Expander")
    assert (again["supply"], again["host"], again["address"]) == (None, None, None)
    assert "Expander has no supply" in client.get(f"{H}/wire").text


def test_a_relay_form_that_met_another_change_shows_both_and_keeps_what_was_typed(signed):
    client = signed("jon")
    url = f"{H}/wire?part=relay:k5"
    page = client.get(url).text
    form = found_in(r'<form[^>]*id="relay-form"(.*?)</form>', page)
    fields = dict(re.findall(r'name="([a-z_0-9.:]+)"[^>]*?value="([^"]*)"', form))
    fields.pop("alike", None)
    for name, options in re.findall(r'<select[^>]*name="([^"]+)"[^>]*>(.*?)</select>', form, re.S):
        fields[name] = found_in(r'value="([^"]*)"[^>]*selected', options)
    assert client.post(f"{H}/wire/relay", data={**fields, "coil_ma": "71"}).status_code == 303
    answer = client.post(f"{H}/wire/relay", data={**fields, "coil_ma": "82"})
    assert answer.status_code == 409
    shown = plain(answer.text)
    assert re.search(r"coil, mA 71(\.0)? 82", shown), shown
    assert 'value="82"' in answer.text, "what was typed stands in its field"
    again = {**fields, "coil_ma": "82", "version": version_of(answer.text)}
    assert client.post(f"{H}/wire/relay", data=again).status_code == 303
    assert 'value="82"' in client.get(url).text
    wired = again | {"version": str(draft(client)["version"])}
    wired |= {"cable_m": "12", "cores": "3", "cable_kind": "screened"}
    assert client.post(f"{H}/wire/relay", data=wired).status_code == 303
    relay = next(r for r in draft(client)["plan"]["relays"] if r["cable_m"] == 12)
    assert relay["cable"] == {"cores": 3, "twisted": False, "screened": True}
    assert "3 cores, screened" in plain(client.get(f"{H}/wire?rows=all").text)


def test_hands_are_told_what_they_want_and_loads_are_grouped(signed):
    """A group, a long press for it, a dial filled at once, a position that wants a step, codes."""
    client = signed("jon")

    def sent(action: str, **fields: str) -> None:
        version = str(draft(client)["version"])
        answer = client.post(
            f"{H}/wire/controls/{action}",
            data={"version": version, **{key.replace("__", "-"): v for key, v in fields.items()}},
        )
        assert answer.status_code == 303, answer.text[:400]

    sent("group", name="Evening", member__extractor="1", member__skylight="1", stagger_s="2")
    sent("press", control="mode_button", press="long", does="off", target="group:evening")
    sent("press", control="mode_button", press="short", does="mode",
         target="mode:house_mode=away", only="drying_mode=by hand")  # fmt: skip
    sent("fill", control="step_selector", scheme="binary", names="0, I, II, III")
    sent(
        "want", control="step_selector", field="positions", key="010", does="step", step="2",
        target="load:extractor",
    )  # fmt: skip
    sent("paste", control="drying_remote", target="load:skylight", codes="c0de open\nc0df shut")
    sent("forget", control="drying_remote", field="codes", key="a3f1c0")
    plan = draft(client)["plan"]
    made = {"id": "evening", "name": "Evening", "members": ["extractor", "skylight"]}
    assert plan["groups"][1:] == [{**made, "stagger_s": 2.0}]
    controls = {control["id"]: control for control in plan["controls"]}
    presses = {press["press"]: press for press in controls["mode_button"]["presses"]}
    assert (presses["long"]["does"], presses["long"]["group"]) == ("off", "evening")
    short = presses["short"]
    assert (short["does"], short["mode"], short["value"]) == ("mode", "house_mode", "away")
    assert short["only"] == {"mode": "drying_mode", "value": "by hand"}
    dial = {p["name"]: p for p in controls["step_selector"]["positions"]}
    assert list(dial) == ["0", "I", "II", "III"]
    assert (dial["II"]["pattern"], dial["II"]["step"]) == ("010", 2)
    codes = {c["code"]: c["load"] for c in controls["drying_remote"]["codes"]}
    assert codes == {"a3f1c4": "extractor", "c0de": "skylight", "c0df": "skylight"}
    page = client.get(f"{H}/wire/controls").text
    assert "step 1, 3, 4 cannot be reached here" in page
    assert "Evening" in page
    sent("ungroup", group="evening")
    assert len(draft(client)["plan"]["groups"]) == 1


def test_assigning_says_which_findings_it_could_not_avoid(signed, module_database):
    client = signed("jon")
    sent = {"version": str(draft(client)["version"]), "all": "yes", "board": "board_a"}
    answer = client.post(f"{H}/wire/assign", data=sent)
    assert re.fullmatch(rf"{H}/wire\?assigning=\d+&board=board_a", answer.headers["location"])
    told = plain(found_in(r'id="dealt">(.*?)</div>', client.get(answer.headers["location"]).text))
    assert told.startswith("Pins assigned")
    rung = could_not_avoid(plan_of(module_database))
    assert [f.head for f in rung[:5] if f.head not in told] == []
    assert (f"And {len(rung) - 5} more" in told) == (len(rung) > 5)
    assert bool(rung) == ("No free pin" in told)
    assert 'id="dealt"' not in client.get(f"{H}/wire").text


def test_pins_that_take_long_are_told_and_stopped_from_the_page(signed, monkeypatch):
    monkeypatch.setattr(assigning, "SECONDS_IN_PLACE", 0.0)
    client = signed("jon")

    def made(plan: Plan) -> str:
        files = {"plan": ("house.json", plan_text(plan).encode())}
        answer = client.post("/houses", files=files)
        return str(answer.headers["location"]).removesuffix("/record")

    busy, home = made(built([ContactSensor()] * 1900, 0, ["wifi_38"] * 100)), made(large_house())
    at_work = client.post(f"{busy}/wire/assign").headers["location"]  # the other waits behind it
    first = client.post(f"{home}/wire/assign").headers["location"]
    number = found_in(r"assigning=(\d+)", first)
    again = client.post(f"{home}/wire/assign")
    assert again.status_code == 409
    assert "Wait for the result, or stop it" in again.text
    page = client.get(f"{home}/wire").text
    assert f"{home}/wire/assign/{number}?" in page, "whoever looks at Wire sees that it is going on"
    told = client.get(f"{home}/wire/assign/{number}", headers={"hx-request": "true"})
    assert "Stop" in told.text
    assert "hx-redirect" not in told.headers
    stopped = client.post(f"{home}/wire/assign/{number}/stop").headers["location"]
    assert "Stopped. No pin was changed." in client.get(stopped).text
    told = client.get(f"{home}/wire/assign/{number}", headers={"hx-request": "true"})
    assert told.headers["hx-redirect"].endswith(f"assigning={number}")
    assert "Stopped" not in client.get(f"{home}/wire").text
    other = found_in(r"assigning=(\d+)", at_work)
    client.post(f"{busy}/wire/assign/{other}/stop")
    assert signed("guest").get(f"{home}/wire/assign/{number}").status_code == 404
