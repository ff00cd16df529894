"""Odd fields of Lay out and Controls: refused in words, and nothing is kept."""

import pytest
from tests.web.pages import H, draft

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
