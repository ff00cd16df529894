"""The thermometer bench through its pages: every way to a point, refusals, what is signed."""

import re

import pytest
from tests.web.pages import H, found_in, taken_of

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
        "987.2 hPa here",
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
    assert "Record point" in client.get(WAY).text


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
    found = re.search(rf'id="fix-{field}"[^>]*>([^<]*)<', answer.text)
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
    assert "the slope is entered, not measured" in page
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
    page = client.get(way, params={"span_min": "30"}).text
    found = re.search(
        r"mean <b>([\d.]+)</b>, spread ([\d.]+), ([+−]?[\d.]+) °C/min, (\d+) read", page
    )
    assert found
    assert int(found[4]) >= 29
    assert "settled" in page
    taken = client.get(way, params={"span_min": "30", "reading": found[1]}).text
    assert re.search(rf'id="f-reading"[^>]*value="{found[1]}"', taken)
