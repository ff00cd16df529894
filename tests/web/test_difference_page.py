"""The difference of two thermometers through its page."""

import re

import pytest
from tests.web.conftest import found_in
from tests.web.test_web import H

PAGE = f"{H}/difference/drying_temp"
PAIRS = "20.0\t20.31\n20.1\t20.39\n20,2\t20,52\n20.3\t20.60"


def test_the_common_part_leaves_nothing_in_a_difference(signed):
    client = signed("guest")
    sent = {"other": "studio_temp", "pairs": PAIRS, "own_1_k": "0.1", "own_2_k": "0.12"}
    rows = {}
    for common in ("0", "0.6"):
        page = client.get(PAGE, params={**sent, "common_k": common}).text
        assert "Studio thermistor reads +0.305 K" in page
        rows[common] = re.findall(r"<b>(±[\d.]+ K)</b>", page)
    assert rows["0"][0] == rows["0.6"][0] == "±0.156 K"
    assert rows["0.6"][1] != rows["0"][1]


@pytest.mark.parametrize(
    ("sent", "field", "said"),
    [
        ({"pairs": "20 20.1\n20 20.2"}, "pairs", "3 pairs"),
        ({"pairs": "20 20.1\n20 warm"}, "pairs", "line 2"),
        ({"pairs": PAIRS, "own_1_k": "0"}, "own_1_k", "0.001 to 20"),
        ({"pairs": PAIRS, "common_k": "-1"}, "common_k", "0 to 20"),
    ],
)
def test_a_wrong_field_is_named_and_kept(signed, sent, field, said):
    answer = signed("guest").get(PAGE, params=sent)
    assert answer.status_code == 422
    assert said in found_in(rf'id="mend-{field}"[^>]*>([^<]*)<', answer.text)
    assert sent["pairs"].splitlines()[0] in answer.text


def test_what_is_no_thermometer_says_so(signed):
    client = signed("guest")
    assert client.get(f"{H}/difference/drying_rh").status_code == 404
    assert "not compared yet" in client.get(PAGE, params={"other": "drying_temp"}).text
