"""What is signed: applied, printed, due; and read as it was signed."""

import json
import re
import subprocess

import pytest
from sqlalchemy import insert
from tests.web.pages import H, found_in, house_of, plain, sign_form

from aldea.store import tables as t
from aldea.store.calibrations import certificate, certificates
from aldea.store.drafts import read_draft

pytestmark = pytest.mark.watched


def stated(**changed):
    base = {
        "contact_k": "0.1", "position_k": "0", "self_heating_k": "0", "drift_k_per_year": "0.05",
        "reach_k": "10", "gain_pct": "1", "resolution_k": "0.1", "lasts_months": "12",
    }  # fmt: skip
    return {**base, **changed}


def test_what_is_signed_is_applied_printed_and_due(signed, module_database):
    client = signed("jon")
    answer = client.post(
        f"{H}/calibrate/studio_temp/sign", data=sign_form(client, "studio_temp") | stated()
    )
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
        number = 41
        connection.execute(
            insert(t.certificate).values(
                house_id=house, number=number, probe="drying_rh", document=json.dumps(OLD),
                sha256="0" * 64, signed_by=1, at_ms=1_700_000_000_000, due_ms=1_760_000_000_000,
            )
        )  # fmt: skip
        kept = certificate(connection, house, number)
        assert kept.document["format"] == "aldea-certificate/1"
        assert len(certificates(connection, house)) >= 1
    page = signed("guest").get(f"{H}/certificates/{number}").text
    for said in ("±1.44 %RH", "33.1 to 75.4 %RH", "Sodium chloride", "75.5", "74.3", "0.123"):
        assert said.lower() in page.lower(), said
    assert signed("guest").get(f"{H}/certificates").status_code == 200


def test_a_certificate_has_two_dated_stages(signed):
    """On the bench when it is signed; in place once, by one comparison; the due list knows both."""
    client = signed("jon")
    url = f"{H}/calibrate/drying_rh"
    made = client.post(f"{url}/sign", data=sign_form(client, "drying_rh"))
    page = made.headers["location"]
    shown = client.get(page).text
    assert "not checked yet" in plain(found_in(r'id="in-place">(.*?)</dd>', shown))
    assert "on the bench; not checked in place" in plain(client.get(f"{H}/certificates").text)
    refused = client.post(f"{page}/in-place", data={"reference": "wet", "reading": "60"})
    assert refused.status_code == 422
    assert 'id="fix-reference"' in refused.text
    assert 'value="60"' in refused.text, "what was typed stays"
    line = re.search(r"true = (−?[\d.]+) \+ ([\d.]+) × reading", plain(shown))
    assert line
    intercept, slope = float(line[1].replace("−", "-")), float(line[2])
    sent = {"reference": "60", "reference_expanded": "1.5", "reading": "58.2"}
    assert client.post(f"{page}/in-place", data=sent).status_code == 303
    told = plain(found_in(r'id="in-place">(.*?)</dd>', client.get(page).text))
    off = intercept + slope * 58.2 - 60
    assert f"{abs(off):.1f} %RH off at 60.0 %RH" in told, (told, off)
    assert ("it is valid" in told) == ("it is not valid" not in told)
    assert client.post(f"{page}/in-place", data=sent).status_code == 409, "once"
    assert 'id="check-in-place"' not in client.get(page).text
    assert (
        "not checked in place"
        not in plain(client.get(f"{H}/certificates").text)
        .split("Drying room RH", 1)[1]
        .split("Studio", 1)[0]
    )
    assert client.get(f"{page}.pdf").content.startswith(b"%PDF-")
    assert signed("guest").post(f"{page}/in-place", data=sent).status_code == 403
