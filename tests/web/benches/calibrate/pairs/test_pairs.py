"""The bench beside its pairs: many pasted pairs, spans, and the fit as it is typed."""

import re

import pytest
from tests.web.pages import H, found_in, taken_of

from aldea.demo.recorded import END_MS

STUDIO, DRYING = f"{H}/calibrate/studio_temp", f"{H}/calibrate/drying_rh"


def test_many_pairs_are_taken_at_once_or_none(signed, module_database):
    client = signed("jon")
    count = len(taken_of(module_database, "rack_top"))
    sent = {"medium": "beside", "approach": "point", "reference_expanded": "0.2"}
    url = f"{H}/calibrate/rack_top/pasted"
    wrong = client.post(url, data={**sent, "pasted": "reference\tread\n20,1\t20,6\n40\t104.9"})
    assert wrong.status_code == 422
    assert "Line 2: " in found_in(r'id="fix-pasted">([^<]+)<', wrong.text)
    assert "°F" in wrong.text
    assert "40\t104.9" in wrong.text, "what was pasted stays"
    assert len(taken_of(module_database, "rack_top")) == count
    done = client.post(url, data={**sent, "pasted": "reference\tread\n20,1\t20,6\n40\t40.8"})
    assert done.status_code == 303
    ice = client.post(url, data={**sent, "medium": "ice", "pasted": "0.31\n0.29\n0.3"})
    assert ice.status_code == 303
    pairs = taken_of(module_database, "rack_top")
    assert [(p.medium, p.reading) for p in pairs] == [
        ("beside", 20.6),
        ("beside", 40.8),
        ("ice", 0.31),
        ("ice", 0.29),
        ("ice", 0.3),
    ]
    for text, said in (("", "1 to 200"), ("20 21", "readings alone"), ("20\nwarm", "line 2")):
        answer = client.post(url, data={**sent, "medium": "ice", "pasted": text})
        assert said in found_in(r'id="fix-pasted">([^<]+)<', answer.text)


def test_a_span_of_the_trace_has_its_mean_spread_and_slope(signed):
    client = signed("jon")
    span = {"span_from": END_MS - 3_600_000, "span_to": END_MS - 3_000_000}
    page = client.get(DRYING, params=span).text
    said = found_in(r"mean <b>([\d.]+)</b>, spread [\d.]+, .[\d.]+ %RH/min, \d+ readings", page)
    minutes = client.get(DRYING, params={"at": END_MS - 3_000_000, "span_min": 10}).text
    assert said in minutes, "the same ten minutes, chosen the other way"
    nothing = client.get(DRYING, params={"span_from": END_MS - 3000, "span_to": END_MS - 2999}).text
    assert "Fewer than two readings" in nothing
    upside = client.get(DRYING, params={"span_from": END_MS, "span_to": END_MS - 999_999}).text
    assert "Dragged" not in upside


def test_what_it_moves_says_how_often_a_day(signed):
    page = signed("guest").get(DRYING).text
    times = re.findall(r'whitespace-nowrap">([\d.]+) → ([\d.]+)</td>', page)
    assert len(times) == 4, "the dehumidifier and the extractor, as it was and as it would be"
    assert all(0 < float(t) < 50 for row in times for t in row)


def test_salt_and_probe_at_two_temperatures_are_corrected_and_warned_of(signed, module_database):
    client = signed("jon")
    salt = {"approach": "drier", "medium": "sodium_chloride", "temp_degc": "20", "reading": "74"}
    far = client.post(f"{DRYING}/pairs", data={**salt, "probe_degc": "23"})
    assert "3.0 K warmer than the salt" in found_in(r'id="fix-probe_degc">([^<]+)<', far.text)
    assert client.post(f"{DRYING}/pairs", data={**salt, "probe_degc": "20.5"}).status_code == 303
    pair = taken_of(module_database, "drying_rh")[-1]
    # e = 75.47 % of 23.37 hPa; at 20.5 °C saturation is 24.10 hPa.
    assert pair.reference == pytest.approx(73.17, abs=0.03)
    assert "probe and salt at two temperatures" in client.get(DRYING).text


def test_the_fit_follows_a_pair_that_is_being_typed(signed, module_database):
    client = signed("jon")
    before = client.get(STUDIO).text
    count = len(taken_of(module_database, "studio_temp"))
    point = {"medium": "beside", "approach": "point", "reference": "60", "reading": "62"}
    whole = client.post(f"{STUDIO}/preview", data={**point, "reference_expanded": "0.2"})
    assert whole.status_code == 200
    chip = r"(\d+) pairs recorded"
    assert re.search(chip, whole.text)[1] == re.search(chip, before)[1]  # type: ignore[index]
    assert "pairs recorded, 1 typed" in whole.text
    equation = r"true = [^<]+ × reading"
    assert re.search(equation, whole.text)
    if re.search(equation, before):
        assert re.search(equation, whole.text)[0] != re.search(equation, before)[0]  # type: ignore[index]
    assert client.post(f"{STUDIO}/preview", data={**point, "reading": "6"}).status_code == 204
    assert len(taken_of(module_database, "studio_temp")) == count, "nothing is stored"
