"""The due list, and certificates on paper with a code that a scanner reads back."""

import re
import subprocess
from dataclasses import replace

import pytest
from tests.web.pages import H, sign_form

from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS
from aldea.store.calibrations import Certificate
from aldea.web.benches.calibrate.certificates.due import due_list
from aldea.web.benches.calibrate.certificates.routes import square_code

DAY_MS = 86_400_000
ONE = Certificate(
    number=1,
    probe="drying_rh",
    document={
        "line": {"slope": 1.08, "intercept": -4.5},
        "expanded_uncertainty": 1.3,
        "range": [33.0, 75.0],
    },
    sha256="ab" * 32,
    signed_by="jon",
    at_ms=END_MS,
    due_ms=END_MS + 365 * DAY_MS,
)


# Of the house's many rules only the dehumidifier's: one probe that needs a certificate.
PLAN = mill_plan().model_copy(update={"rules": mill_plan().rules[:1]})


@pytest.mark.parametrize(
    ("days", "state", "words"),
    [(200, "holds", "covers 165 d"), (350, "owed", "due in 15 d"), (400, "fails", "overdue")],
)
def test_what_is_due_comes_first_and_says_since_when(days, state, words):
    found = due_list(PLAN, [ONE], END_MS + days * DAY_MS)
    assert found.rows[0].state == state
    assert words in found.rows[0].words
    assert found.verdict.state == state
    assert found.rows[0].drift == "needs a second certificate"


def test_a_probe_that_a_rule_reads_and_nobody_certified_is_owed():
    found = due_list(PLAN, [], END_MS)
    assert [(row.name, row.numbers) for row in found.rows] == [("Drying room RH", ())]
    assert "a rule reads it" in found.verdict.sentence


def test_every_probe_that_a_rule_reads_is_on_the_list():
    names = {row.name for row in due_list(mill_plan(), [], END_MS).rows}
    assert {"Drying room RH", "Studio thermistor", "Cellar RH", "Manifold tape"} <= names


def test_drift_and_forecast_stand_beside_the_newest():
    later = replace(
        ONE,
        number=2,
        at_ms=END_MS + 365 * DAY_MS,
        due_ms=END_MS + 730 * DAY_MS,
        document={**ONE.document, "line": {"slope": 1.08, "intercept": -4.0}},
    )
    row = due_list(PLAN, [ONE, later], END_MS + 366 * DAY_MS).rows[0]
    assert row.numbers == (2, 1)
    assert row.drift.startswith("+0.50 %RH a year at 54 (from two")
    assert "2029" in row.leaves, "2.6 years after November 2026"


def test_the_code_is_ours_and_has_no_style():
    svg = square_code("molino-alto", ONE, "Europe/Madrid")
    assert svg.startswith("<svg")
    assert "style=" not in svg
    other = square_code("molino-alto", replace(ONE, number=2), "Europe/Madrid")
    assert other != svg


def test_a_signed_certificate_is_printed_whole(signed, tmp_path):
    client = signed("jon")
    conditions = {"gradient_k": "0.2", "drift_rh_pct_per_year": "0.5", "lasts_months": "12"}
    sent = {**conditions, "resolution_rh_pct": "0.1"}
    answer = client.post(
        f"{H}/calibrate/drying_rh/sign", data=sign_form(client, "drying_rh") | sent
    )
    assert answer.status_code == 303
    path = answer.headers["location"]
    page = client.get(path).text
    assert "Print it" in page
    for name, words in (
        (f"{path}.pdf", ("Magnesium chloride", "true =", "Hysteresis", "SHA-256")),
        (f"{path}/label.pdf", ("Drying room RH", "certificate 1", "due")),
    ):
        file = tmp_path / "paper.pdf"
        file.write_bytes(client.get(name).content)
        text = subprocess.run(
            ["pdftotext", "-layout", str(file), "-"], capture_output=True, text=True, check=True
        ).stdout
        for word in words:
            assert word in text, name
    assert re.search(r"covers \d+ d", client.get(f"{H}/certificates").text)
    assert client.get(f"{H}/certificates/99.pdf").status_code == 404
