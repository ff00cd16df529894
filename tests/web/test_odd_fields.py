"""Odd fields of Lay out and Controls: refused in words, and nothing is kept."""

import pytest
from tests.web.pages import H, draft, found_in

LONG = "x" * 81
ODD = [
    ("wire/controls/group", {"name": LONG, "member-skylight": "1"}),
    ("wire/controls/group", {"name": "a\x01b", "member-skylight": "1"}),
    ("wire/controls/learn", {"control": "drying_remote", "name": LONG, "code": "abcd"}),
    ("wire/controls/fill", {"control": "step_selector", "scheme": "binary", "names": LONG}),
    ("wire/controls/paste", {"control": "drying_remote", "codes": "abcd a\u202eb"}),
    (
        "wire/controls/press",
        {"control": "mode_button", "press": "short", "does": "on", "target": "load:Bad Id!"},
    ),
    ("layout/copy", {"part": "board:board_b", "word": "x", "others": "a\x07b"}),
    ("layout/copy", {"part": "board:nope", "word": "", "others": "b"}),
    ("layout/copy", {"part": "board:rack_inputs", "word": "", "others": "b"}),
    ("layout/carry", {"part": "board:board_b"}),
    ("wire/controls/ungroup", {"group": "nope"}),
    ("layout/part", {"part_kind": "probe", "part_id": "cellar_rh", "cores": "1e30"}),
    ("layout/part", {"part_kind": "probe", "several": "radar", "sensor_kind": "bus", "name": "N"}),
    ("layout/part", {"part_kind": "probe", "part_id": "cellar_rh", "address": "NaN"}),
    ("layout/part", {"part_kind": "load", "part_id": "store_fan", "volts": "1e400"}),
]


@pytest.mark.parametrize(("path", "sent"), ODD)
def test_what_cannot_be_is_refused_and_nothing_is_kept(signed, path, sent):
    client = signed("jon")
    before = draft(client)
    answer = client.post(f"{H}/{path}", data={"version": str(before["version"]), **sent})
    assert 400 <= answer.status_code < 500, answer.text[:300]
    assert draft(client) == before


@pytest.mark.parametrize(
    "sent",
    [
        {"part_kind": "probe", "part_id": "", "quantity": "nonsense", "sensor_kind": "x"},
        {"part_kind": "load", "part_id": "", "kind": "valve", "name": "V"},
        {"part_kind": "board", "part_id": "board_b", "board_type": "mux_16"},
        {"part_kind": "control", "part_id": "", "kind": "touch_pad"},
    ],
)
def test_a_form_is_made_anew_for_what_is_chosen_and_stores_nothing(signed, sent):
    client = signed("guest")
    before = draft(client)
    answer = client.post(f"{H}/layout/form", data=sent)
    assert answer.status_code == 200
    assert 'name="name"' in answer.text
    assert draft(client) == before


def test_a_form_made_anew_is_read_as_what_it_was_made_for(signed):
    """A new probe of another quantity, made in a way that the first form did not offer."""
    client = signed("jon")
    typed = {"part_kind": "probe", "name": "Hatch", "quantity": "distance", "place": "loft"}
    form = client.post(f"{H}/layout/form", data={**typed, "sensor_kind": "echo"}).text
    made_for = found_in(r'name="form_of" value="([^"]*)"', form)
    assert made_for == "distance|echo"
    sent = {**typed, "sensor_kind": "echo", "occupied_below_m": "0.4", "form_of": made_for}
    version = str(draft(client)["version"])
    assert client.post(f"{H}/layout/part", data={**sent, "version": version}).status_code == 303
    probe = next(p for p in draft(client)["plan"]["probes"] if p["id"] == "hatch")
    assert (probe["quantity"], probe["sensor"]["kind"]) == ("distance", "echo")
    assert (probe["range"]["high"], probe["sensor"]["occupied_below_m"]) == (6.0, 0.4)
    client.post(f"{H}/draft/undo", data={"version": str(draft(client)["version"])})


def test_without_scripts_another_quantity_brings_its_own_range(signed):
    """The form is the old one then: its range is that of the quantity before, and is not taken."""
    client = signed("jon")
    sent = {"part_kind": "probe", "name": "Damp", "quantity": "relative_humidity", "place": "loft",
            "low": "-30", "high": "80", "form_of": "air_temperature|",
            "version": str(draft(client)["version"])}  # fmt: skip
    assert client.post(f"{H}/layout/part", data=sent).status_code == 303
    probe = next(p for p in draft(client)["plan"]["probes"] if p["id"] == "damp")
    assert probe["range"] == {"low": 0.0, "high": 100.0}
    client.post(f"{H}/draft/undo", data={"version": str(draft(client)["version"])})
