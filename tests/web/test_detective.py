"""The detective's page: suspects, refusals at their field, one correction carried to sisters."""

import re

import pytest
from tests.web.test_web import H, draft

PAGE = f"{H}/detective/studio_temp"
ASKED = {"counts": "2506", "known_degc": "18,5", "expanded_k": "0.8"}


def sensors(client) -> dict[str, float]:
    probes = draft(client)["plan"]["probes"]
    return {
        p["id"]: p["sensor"]["fixed_ohm"] for p in probes if p["sensor"]["kind"] == "thermistor"
    }


def test_suspects_come_in_order_and_say_what_to_measure(signed):
    page = signed("guest").get(PAGE, params={**ASKED, "known_degc": "20"}).text
    assert "4.9 K off" in page
    table = page.split('id="suspects"')[1].split("</table>")[0]
    left = [float(x.replace("−", "-")) for x in re.findall(r'"n">([+−]?[\d.]+) K<', table)]
    assert len(left) >= 5
    assert [abs(x) for x in left] == sorted(abs(x) for x in left)
    assert "Measure the reference pin" in table


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        ("counts", "many", "a number"),
        ("counts", "4095", "the sensor is open or shorted"),
        ("known_degc", "400", "−40 to 120".replace("−", "-")),
        ("expanded_k", "0", "0.001 to 20"),
    ],
)
def test_a_wrong_field_is_named_and_kept(signed, field, typed, said):
    answer = signed("guest").get(PAGE, params={**ASKED, field: typed})
    assert answer.status_code == 422
    assert said in answer.text
    assert f'value="{typed}"' in answer.text


def test_a_probe_that_is_no_thermistor_says_so(signed):
    answer = signed("guest").get(f"{H}/detective/drying_rh")
    assert answer.status_code == 404
    assert "made as a thermistor" in answer.text


def test_one_correction_goes_to_a_chosen_set_at_once(signed):
    client = signed("jon")
    before = sensors(client)
    version = str(draft(client)["version"])
    sent = {**ASKED, "version": version, "key": "fixed_ohm", "value": "8200"}
    none = client.post(f"{PAGE}/carry", data=sent)
    assert none.status_code == 422
    assert "at least one thermistor" in none.text
    for key, value in (("bits", "10"), ("fixed_ohm", "-5"), ("side", "upside")):
        wrong = {**sent, "key": key, "value": value, "to-studio_temp": "1"}
        assert client.post(f"{PAGE}/carry", data=wrong).status_code == 422
    assert sensors(client) == before
    both = {**sent, "to-studio_temp": "1", "to-cellar_temp": "1"}
    done = client.post(f"{PAGE}/carry", data=both)
    assert done.status_code == 303
    assert "counts=2506" in done.headers["location"]
    assert sensors(client) == {**before, "studio_temp": 8200.0, "cellar_temp": 8200.0}
    undo = {"version": str(draft(client)["version"]), "back": f"{H}/layout"}
    client.post(f"{H}/draft/undo", data=undo)
    assert sensors(client) == before


def test_a_viewer_carries_nothing(signed):
    client = signed("guest")
    sent = {**ASKED, "version": "2", "key": "fixed_ohm", "value": "8200", "to-studio_temp": "1"}
    assert client.post(f"{PAGE}/carry", data=sent).status_code == 403
