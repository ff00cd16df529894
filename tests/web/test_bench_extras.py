"""The bench beside its pairs: own rows, many pasted pairs, spans, live readings, sisters."""

import re

import pytest
from tests.web.conftest import found_in
from tests.web.test_thermometer import house_of, taken_of
from tests.web.test_web import H

from aldea.demo.recorded import END_MS
from aldea.store.plans import read_draft

STUDIO, DRYING = f"{H}/calibrate/studio_temp", f"{H}/calibrate/drying_rh"
OWN = {"own_label_1": "Bath not stirred", "own_value_1": "0.6", "own_spread_1": "rectangular"}


def together(page):
    return float(found_in(r"<b>U = ([\d.]+)</b>", page))


def test_a_row_of_ones_own_widens_the_budget_and_is_signed(signed):
    client = signed("jon")
    before = together(client.get(f"{STUDIO}/budget").text)
    page = client.get(f"{STUDIO}/budget", params=OWN).text
    # 0.6 / √3 one sigma, doubled, added in squares.
    assert together(page) == pytest.approx((before**2 + (2 * 0.6 / 3**0.5) ** 2) ** 0.5, abs=0.002)
    assert "Bath not stirred" in page
    freedom = client.get(f"{STUDIO}/budget", params={**OWN, "own_freedom_1": "3"}).text
    k95 = float(found_in(r"95 % needs k = ([\d.]+)", freedom))
    assert k95 > 2.05, "few degrees of freedom ask for a wider factor"
    bench = client.get(STUDIO, params=OWN).text
    assert 'name="own_value_1" value="0.6"' in bench, "carried to where it is signed"
    signed_page = client.post(f"{STUDIO}/sign", data=OWN)
    assert signed_page.status_code == 303
    certificate = client.get(signed_page.headers["location"]).text
    assert "Bath not stirred" in certificate


@pytest.mark.parametrize(
    ("changed", "field", "said"),
    [
        ({"own_value_1": "-1"}, "own_value_1", "0 to 1000"),
        ({"own_value_1": "wide"}, "own_value_1", "a number"),
        ({"own_spread_1": "flat"}, "own_spread_1", "one of the list"),
        ({"own_freedom_1": "0"}, "own_freedom_1", "1 to"),
        ({"own_sensitivity_1": ""}, "own_sensitivity_1", "a number"),
    ],
)
def test_a_wrong_own_row_is_named_and_left_out(signed, changed, field, said):
    page = signed("guest").get(f"{DRYING}/budget", params={**OWN, **changed}).text
    assert said in found_in(rf'id="mend-{field}">([^<]+)<', page)
    assert ">Bath not stirred<" not in page


def test_many_pairs_are_taken_at_once_or_none(signed, module_database):
    client = signed("jon")
    count = len(taken_of(module_database, "rack_top"))
    sent = {"medium": "beside", "approach": "point", "reference_expanded": "0.2"}
    url = f"{H}/calibrate/rack_top/pasted"
    wrong = client.post(url, data={**sent, "pasted": "reference\tread\n20,1\t20,6\n40\t104.9"})
    assert wrong.status_code == 422
    assert "Line 2: " in found_in(r'id="mend-pasted">([^<]+)<', wrong.text)
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
    for text, said in (("", "1 to 200"), ("20 21", "readings alone"), ("20\nwarm", "row 2")):
        answer = client.post(url, data={**sent, "medium": "ice", "pasted": text})
        assert said in found_in(r'id="mend-pasted">([^<]+)<', answer.text)


def test_a_span_of_the_trace_has_its_mean_spread_and_slope(signed):
    client = signed("jon")
    span = {"span_from": END_MS - 3_600_000, "span_to": END_MS - 3_000_000}
    page = client.get(DRYING, params=span).text
    said = found_in(r"mean <b>([\d.]+)</b>, spread [\d.]+, .[\d.]+ %RH/min, \d+ readings", page)
    minutes = client.get(DRYING, params={"at": END_MS - 3_000_000, "soak_min": 10}).text
    assert said in minutes, "the same ten minutes, chosen the other way"
    nothing = client.get(DRYING, params={"span_from": END_MS - 3000, "span_to": END_MS - 2999}).text
    assert "Fewer than two readings" in nothing
    upside = client.get(DRYING, params={"span_from": END_MS, "span_to": END_MS - 999_999}).text
    assert "Dragged" not in upside


def test_readings_come_in_by_the_interface_and_are_seen_live(signed):
    client = signed("jon")
    url = "/api/v1/houses/molino-alto/readings"
    rows = [[END_MS - 60_000 * k, 21.5] for k in range(9, -1, -1)]
    assert client.post(url, json={"probe": "rack_foot", "rows": rows}).json() == {"stored": 10}
    assert client.post(url, json={"probe": "rack_foot", "rows": rows}).json() == {"stored": 0}
    page = client.get(f"{H}/calibrate/rack_foot", params={"live": "1"}).text
    assert "mean <b>21.50</b>, spread 0.00" in page
    assert 'hx-trigger="every 2s"' in page
    for probe, wrong in (("attic", rows), ("rack_foot", []), ("rack_foot", [[-5, 1.0]])):
        answer = client.post(url, json={"probe": probe, "rows": wrong})
        assert answer.status_code == 422, answer.text
    assert signed("guest").post(url, json={"probe": "rack_foot", "rows": rows}).status_code == 403


def test_a_line_is_carried_to_chosen_sisters_each_without_a_certificate(signed, module_database):
    client = signed("jon")
    url = f"{H}/calibrate/rack_top"
    for reading in ("0.30", "0.32"):
        point = {"medium": "ice", "approach": "point", "reading": reading}
        assert client.post(f"{url}/pairs", data=point).status_code == 303
    page = client.get(f"{url}/sisters").text
    assert "wants a check point of its own" in page
    version = found_in(r'name="version" value="(\d+)"', page)
    none = client.post(f"{url}/carry", data={"version": version})
    assert none.status_code == 422
    assert "at least one sister" in none.text
    sent = {"version": version, "to-rack_middle": "1", "to-drying_temp": "1"}
    assert client.post(f"{url}/carry", data=sent).status_code == 303
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    lines = {p.id: p.calibration for p in plan.probes}
    assert lines["rack_middle"].intercept != 0
    assert lines["rack_middle"].certificate is None
    assert lines["rack_foot"].intercept == 0, "not chosen"
    assert lines["drying_temp"].intercept == 0, "made another way: no sister"
    # Once it is signed its pairs are closed: the signed line is carried then.
    assert client.post(f"{url}/sign").status_code == 303
    assert re.search(r"Rack top: certificate \d+ stands", client.get(url).text)
    page = client.get(f"{url}/sisters").text
    assert re.search(r"as certificate \d+ says", page)
    sent = {"version": found_in(r'name="version" value="(\d+)"', page), "to-rack_foot": "1"}
    assert client.post(f"{url}/carry", data=sent).status_code == 303
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    lines = {p.id: p.calibration for p in plan.probes}
    assert lines["rack_top"].certificate is not None
    assert lines["rack_foot"].intercept == lines["rack_top"].intercept


def test_what_it_moves_says_how_often_a_day(signed):
    page = signed("guest").get(DRYING).text
    times = re.findall(r'whitespace-nowrap">([\d.]+) → ([\d.]+)</td>', page)
    assert len(times) == 2
    assert all(0 < float(t) < 50 for row in times for t in row)


def test_salt_and_probe_at_two_temperatures_are_corrected_and_warned_of(signed, module_database):
    client = signed("jon")
    salt = {"approach": "drier", "medium": "sodium_chloride", "temp_degc": "20", "reading": "74"}
    far = client.post(f"{DRYING}/pairs", data={**salt, "probe_degc": "23"})
    assert "3.0 K warmer than the salt" in found_in(r'id="mend-probe_degc">([^<]+)<', far.text)
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
    chip = r"(\d+) pairs taken"
    assert re.search(chip, whole.text)[1] == re.search(chip, before)[1]  # type: ignore[index]
    assert "pairs taken, 1 typed" in whole.text
    equation = r"true = [^<]+ × reading"
    assert re.search(equation, whole.text)
    if re.search(equation, before):
        assert re.search(equation, whole.text)[0] != re.search(equation, before)[0]  # type: ignore[index]
    assert client.post(f"{STUDIO}/preview", data={**point, "reading": "6"}).status_code == 204
    assert len(taken_of(module_database, "studio_temp")) == count, "nothing is stored"
