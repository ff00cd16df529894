"""The curve page: points in any unit, what it refuses, and the plan that takes the curve."""

import math
import re

import pytest
from tests.web.conftest import found_in
from tests.web.test_thermometer import house_of
from tests.web.test_web import H

from aldea.core.plan.sensors import Thermistor
from aldea.store.plans import read_draft

POINTS = "0,0\t32650\n25\t10000\n50\t3603"
CURVE = f"{H}/curve/studio_temp"


def plain(page):
    return re.sub(r"<[^>]+>", " ", page)


@pytest.mark.parametrize(
    "sent",
    [
        {"points": POINTS},
        {"points": "0 32.65\n25 10\n50 3.603", "ohm_unit": "kiloohm"},
        {"points": "32 32650\n77 10000\n122 3603", "temp_unit": "degf"},
        {"points": "0 3134.9\n25 2047.5\n50 1084.7", "ohm_unit": "counts"},
    ],
    ids=["ohm", "kiloohm", "fahrenheit", "counts"],
)
def test_points_in_any_unit_give_the_same_curve(signed, sent):
    page = plain(signed("guest").get(CURVE, params=sent).text)
    beta = float(found_in(r"B (\d+\.\d) K", page))
    assert beta == pytest.approx(3889.6, abs=2)
    c = float(found_in(r"C (-?\d\.\d+e-\d+)", page))
    assert c == pytest.approx(8.563e-08, rel=0.02)
    assert "Take it" not in page, "who only looks takes nothing"


@pytest.mark.parametrize(
    ("sent", "field", "said"),
    [
        ({"points": "0 32.65\n25 10"}, "points", "look like kΩ"),
        ({"points": "32 32650\n77 10000"}, "points", "look like °F"),
        ({"points": "0 32650\n25 cold"}, "points", "line 2"),
        ({"points": "0 32650"}, "points", "2 or more"),
        ({"points": "0 10000\n25 20000"}, "points", "less resistance when warmer"),
        ({"points": "0 9000\n25 20", "ohm_unit": "counts"}, "points", "0 to 4095"),
        ({"points": POINTS, "near_degc": "warm"}, "near_degc", "a number"),
        ({"points": POINTS, "loss_mw_per_k": "0"}, "loss_mw_per_k", "0.05 to 1000"),
        ({"points": "1 2\n" * 1600}, "points", "up to 6000"),
    ],
)
def test_a_wrong_field_is_named_and_kept(signed, sent, field, said):
    answer = signed("guest").get(CURVE, params=sent)
    assert answer.status_code == 422
    found = re.search(rf'id="mend-{field}"[^>]*>([^<]*)<', answer.text)
    assert found
    assert said in found[1]
    kept = sent[field].strip()
    assert kept[:12].split("\n")[0] in answer.text


def test_a_point_that_cannot_be_is_said(signed):
    page = signed("jon").get(CURVE, params={"points": "2 14080\n22 5300\n58 1285"}).text
    assert "the third coefficient is negative" in page
    assert "Take it" not in page


def test_the_plan_takes_the_curve_for_a_chosen_set(signed, module_database):
    client = signed("jon")
    page = client.get(CURVE, params={"points": POINTS}).text
    version = found_in(r'name="version" value="(\d+)"', page)
    sent = {"points": POINTS, "temp_unit": "degc", "ohm_unit": "ohm", "version": version}
    rows = re.findall(r'name="to-(\w+)".*?whitespace-nowrap">(.[\d.]+) K at 20 °C', page)
    assert {"studio_temp", "cellar_temp", "rack_top"} <= {name for name, _ in rows}
    none = client.post(f"{CURVE}/take", data=sent)
    assert none.status_code == 422
    assert "at least one thermistor" in none.text
    answer = client.post(
        f"{CURVE}/take", data={**sent, "to-studio_temp": "1", "to-cellar_temp": "1"}
    )
    assert answer.status_code == 303, answer.text
    after = client.get(answer.headers["location"]).text
    assert "the plan’s curve misses" in after
    assert "Z" in client.get(f"{H}/layout").text
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    for probe_id in ("studio_temp", "cellar_temp"):
        sensor = next(p.sensor for p in plan.probes if p.id == probe_id)
        assert isinstance(sensor, Thermistor)
        assert sensor.beta_k == pytest.approx(3889.6, abs=2)
        assert sensor.r25_ohm == pytest.approx(9940, abs=30)
        assert sensor.curve is not None
        a, b, c = sensor.curve
        ln = math.log(10_000)
        assert 1 / (a + b * ln + c * ln**3) - 273.15 == pytest.approx(25, abs=0.001)
    assert "(the plan: three coefficients)" in after
    assert "the plan’s curve misses no point by more than 0.00 K" in after
    stale = client.post(f"{CURVE}/take", data={**sent, "to-studio_temp": "1"})
    assert stale.status_code == 422, "another version was read"


def test_a_viewer_takes_no_curve(signed):
    answer = signed("guest").post(f"{CURVE}/take", data={"points": POINTS, "to-studio_temp": "1"})
    assert answer.status_code == 403
