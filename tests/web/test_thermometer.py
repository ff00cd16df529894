"""The thermometer bench through its pages: every way to a point, refusals, what is signed."""

import re
import subprocess

import pytest
from tests.web.conftest import found_in
from tests.web.test_web import H

from aldea.store.accounts import Account
from aldea.store.calibrations import certificate, certificates, open_pairs, sign
from aldea.store.houses import house_for
from aldea.store.plans import read_draft

WAY = f"{H}/calibrate/cellar_temp"
POINTS = [
    (
        {"medium": "ice", "salt_g_per_kg": "1", "reading": "0.2"},
        -0.0635,
        "1 g/kg of salt lowers it by 0.06 K",
    ),
    ({"medium": "ice", "reading": "0,42"}, 0.0001, "0.04"),
    (
        {"medium": "boiling", "sea_level_hpa": "1023", "altitude_m": "300", "reading": "99.9"},
        99.246,
        "987.1 hPa here",
    ),
    (
        {"medium": "beside", "reference": "21.3", "reference_expanded": "0.2", "reading": "21.9"},
        21.3,
        "",
    ),
    (
        {
            "medium": "between",
            "reference_expanded": "0.2",
            "first_degc": "27.4",
            "first_cm": "3",
            "second_degc": "26.5",
            "second_cm": "5",
            "reading": "27.7",
        },
        27.0625,
        "27.4 °C at 3 cm",
    ),
]  # fmt: skip


def house_of(database):
    with database.begin() as connection:
        house, _ = house_for(connection, "molino-alto", Account(id=1, name="jon"))
    return house.id


def taken_of(database, probe):
    with database.begin() as connection:
        return [row.pair for row in open_pairs(connection, house_of(database), probe)]


@pytest.mark.parametrize(("sent", "reference", "noted"), POINTS, ids=lambda x: str(x)[:22])
def test_a_point_is_taken_by_every_way(signed, module_database, sent, reference, noted):
    client = signed("jon")
    answer = client.post(f"{WAY}/pairs", data={"approach": "point", **sent})
    assert answer.status_code == 303, answer.text
    pair = taken_of(module_database, "cellar_temp")[-1]
    assert pair.reference == pytest.approx(reference, abs=0.03)
    assert pair.medium == sent["medium"]
    if pair.detail:
        assert noted in pair.detail
    assert "Take point" in client.get(WAY).text


@pytest.mark.parametrize(
    ("sent", "field", "said"),
    [
        ({"medium": "beside", "reference": "21", "reference_expanded": "0.2", "reading": "69.8"},
         "reading", "69.8 °F is 21.00 °C"),
        ({"medium": "beside", "reference": "21", "reference_expanded": "0.2", "reading": "294"},
         "reading", "294 K is 20.85 °C"),
        ({"medium": "ice", "reading": "cold"}, "reading", "a number"),
        ({"medium": "ice", "reading": "nan"}, "reading", "−100 to 500"),
        ({"medium": "snow", "reading": "0"}, "medium", "one of the list"),
        ({"medium": "beside", "reference": "400", "reference_expanded": "0.2", "reading": "20"},
         "reference", "150"),
        ({"medium": "boiling", "sea_level_hpa": "1.013", "altitude_m": "300", "reading": "99"},
         "sea_level_hpa", "870 to 1085 hPa"),
        ({"medium": "between", "reference_expanded": "0.2", "first_degc": "20", "first_cm": "0",
          "second_degc": "21", "second_cm": "0", "reading": "20"}, "first_cm", "not both zero"),
    ],
)  # fmt: skip
def test_a_wrong_field_is_named_and_what_was_typed_stays(signed, sent, field, said):
    answer = signed("jon").post(f"{WAY}/pairs", data={"approach": "point", **sent})
    assert answer.status_code == 422
    found = re.search(rf'id="mend-{field}"[^>]*>([^<]*)<', answer.text)
    assert found, field
    assert said.replace("−", "-") in found[1].replace("−", "-")
    typed = sent[field]
    assert f'value="{typed}"' in answer.text or field == "medium"


def test_one_temperature_says_what_it_cannot_show(signed, module_database):
    client = signed("jon")
    way = f"{H}/calibrate/courtyard_temp"
    nothing = client.get(way).text
    assert "An ice bath gives the offset" in nothing
    for reading in ("0.31", "0.33"):
        sent = {"approach": "point", "medium": "ice", "reading": reading}
        assert client.post(f"{way}/pairs", data=sent).status_code == 303
    page = client.get(way).text
    assert "Slope not shown" in page
    assert "the slope is stated, not shown" in page
    # Further from the point it is worth less.
    said = [
        float(found_in(r"What the ±([\d.]+) is made of", client.get(way, params=p).text))
        for p in (stated(reach_k="5"), stated(reach_k="60"))
    ]
    assert said[1] > said[0] * 1.5


def stated(**changed):
    base = {
        "contact_k": "0.1", "position_k": "0", "self_heating_k": "0", "drift_k_per_year": "0.05",
        "reach_k": "10", "gain_pct": "1", "resolution_k": "0.1", "lasts_months": "12",
    }  # fmt: skip
    return {**base, **changed}


def test_the_mean_of_a_settled_trace_becomes_the_reading(signed):
    client = signed("jon")
    way = f"{H}/calibrate/drying_temp"
    page = client.get(way, params={"soak_min": "30"}).text
    found = re.search(
        r"mean <b>([\d.]+)</b>, spread ([\d.]+), ([+−]?[\d.]+) °C/min, (\d+) read", page
    )
    assert found
    assert int(found[4]) >= 29
    assert "settled" in page
    taken = client.get(way, params={"soak_min": "30", "reading": found[1]}).text
    assert re.search(rf'id="f-reading"[^>]*value="{found[1]}"', taken)


def test_what_is_signed_is_applied_printed_and_due(signed, module_database):
    client = signed("jon")
    answer = client.post(f"{H}/calibrate/studio_temp/sign", data=stated())
    assert answer.status_code == 303, answer.text
    where = answer.headers["location"]
    page = client.get(where).text
    assert "±0.25 °C" in page
    assert "27.4 °C at 3 cm" in page
    sheet = client.get(f"{where}.pdf").content
    text = subprocess.run(
        ["pdftotext", "-layout", "-", "-"], input=sheet, capture_output=True, check=True
    ).stdout.decode()
    assert "between two" in text
    assert "±0.25 °C" in text
    assert client.get(f"{where}/label.pdf").content.startswith(b"%PDF-")
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    calibration = next(p.calibration for p in plan.probes if p.id == "studio_temp")
    assert calibration.basis == "certificate"
    assert calibration.slope * 22.0 + calibration.intercept == pytest.approx(21.35, abs=0.05)
    assert "Studio thermistor" in client.get(f"{H}/certificates").text


OLD = {
    "format": "aldea-certificate/1",
    "probe": {"id": "drying_rh", "name": "Drying room RH", "quantity": "relative_humidity"},
    "line": {"slope": 1.05, "intercept": -3.0},
    "expanded_uncertainty_rh_pct": 1.44,
    "coverage_factor": 2,
    "factor_95": 2.01,
    "range_rh_pct": [33.1, 75.4],
    "temp_degc": [20.0, 20.0],
    "verdict": "not_shown",
    "conditions": {"resolution_rh_pct": 0.1},
    "budget": [
        {
            "label": "Salt points",
            "value": 0.2,
            "distribution": "expanded_k2",
            "sensitivity": 1.0,
            "standard_uncertainty_rh_pct": 0.123,
            "ground": "table",
        }
    ],
    "pairs": [
        {
            "pair": 1,
            "salt": "sodium_chloride",
            "approach": "wetter",
            "temp_degc": 20.0,
            "reference_rh_pct": 75.47,
            "reading_rh_pct": 74.3,
            "residual_rh_pct": 0.21,
            "taken_by": "jon",
            "taken_ms": 0,
        }
    ],
    "before": {},
}


def test_a_certificate_of_the_first_format_reads_as_it_was_signed(signed, module_database):
    house = house_of(module_database)
    with module_database.begin() as connection:
        number = sign(
            connection, house, "drying_rh", OLD, pair_ids=[], by=Account(id=1, name="jon"),
            at_ms=1_700_000_000_000, due_ms=1_760_000_000_000,
        ).number  # fmt: skip
        kept = certificate(connection, house, number)
        assert kept.document["format"] == "aldea-certificate/1"
        assert len(certificates(connection, house)) >= 1
    page = signed("guest").get(f"{H}/certificates/{number}").text
    for said in ("±1.44 %RH", "33.1 to 75.4 %RH", "Sodium chloride", "75.5", "74.3", "0.123"):
        assert said.lower() in page.lower(), said
    assert signed("guest").get(f"{H}/certificates").status_code == 200
