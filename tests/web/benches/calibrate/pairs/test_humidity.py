"""Humidity pairs through their page."""

import pytest
from tests.web.pages import H, draft, sign_form


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
    answer = client.post(f"{H}/calibrate/drying_rh/sign", data=sign_form(client, "drying_rh"))
    assert answer.status_code == 303
    page = client.get(answer.headers["location"]).text
    assert "a check pair confirms it" in page
    now = draft(client)
    calibration = now["plan"]["probes"][0]["calibration"]
    assert now["version"] == before + 1
    assert calibration["certificate"] == 1
    assert calibration["slope"] == pytest.approx(1.08, abs=0.01)
    assert client.post(f"{H}/calibrate/drying_rh/sign").status_code == 422, "no pairs are left"
