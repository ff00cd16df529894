"""A certificate that no longer stands says so itself: on its page, its sheet and its label."""

import subprocess
from dataclasses import replace

import pytest
from tests.web.benches.calibrate.certificates.test_due import DAY_MS, ONE
from tests.web.pages import H, draft, sign_form

from aldea.core.plan.tuning import calibrated
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS
from aldea.web.benches.calibrate.certificates.due import due_list
from aldea.web.benches.calibrate.certificates.standing import not_standing

MILL = mill_plan()
CITED = calibrated(
    MILL,
    "drying_rh",
    next(p for p in MILL.probes if p.id == "drying_rh").calibration.model_copy(
        update={"basis": "certificate", "certificate": 1}
    ),
)
TWO = replace(ONE, number=2, at_ms=END_MS + 10 * DAY_MS)
ELSEWHERE = replace(ONE, document={**ONE.document, "circuit": "0123456789abcdef"})


@pytest.mark.parametrize(
    ("certificate", "signed", "days", "plan", "word"),
    [
        (ONE, [ONE], 1, CITED, None),
        (ONE, [ONE, TWO], 20, CITED, "superseded"),
        (ONE, [ONE], 366, CITED, "expired"),
        (ONE, [ONE], 1, MILL, "not applied"),
        (ELSEWHERE, [ELSEWHERE, TWO], 400, CITED, "void"),
        (replace(ONE, probe="gone"), [ONE], 1, CITED, "probe removed"),
    ],
)
def test_why_a_certificate_does_not_stand(certificate, signed, days, plan, word):
    why = not_standing(plan, certificate, signed, END_MS + days * DAY_MS)
    assert (why.word if why else None) == word


def test_certificates_of_another_circuit_and_of_the_same_week_tell_no_drift():
    later = replace(
        TWO,
        at_ms=END_MS + 365 * DAY_MS,
        due_ms=END_MS + 730 * DAY_MS,
        document={**ONE.document, "line": {"slope": 1.08, "intercept": -4.0}},
    )
    now_ms = END_MS + 366 * DAY_MS

    def drift(first, second):
        rows = due_list(CITED, [first, second], now_ms).rows
        return next(row.drift for row in rows if row.probe == "drying_rh")

    assert drift(ONE, later).startswith("+0.50 %RH a year")
    assert drift(ELSEWHERE, later) == "needs a second certificate"
    assert drift(replace(ONE, at_ms=later.at_ms - 59 * DAY_MS), later).startswith("needs one")


def words_on(client, path):
    if not path.endswith(".pdf"):
        return client.get(path).text
    sheet = client.get(path).content
    return subprocess.run(
        ["pdftotext", "-layout", "-", "-"], input=sheet, capture_output=True, check=True
    ).stdout.decode()


def test_superseded_and_void_stand_on_page_sheet_and_label(signed):
    client = signed("jon")
    bench = f"{H}/calibrate/drying_rh"
    papers = []
    for _ in range(2):
        for medium, reading in (("magnesium_chloride", "33.5"), ("sodium_chloride", "75.6")):
            pair = {"approach": "drier", "medium": medium, "temp_degc": "20", "reading": reading}
            assert client.post(f"{bench}/pairs", data=pair).status_code == 303
        done = client.post(f"{bench}/sign", data={**sign_form(client, "drying_rh"), "why": "Test."})
        assert done.status_code == 303, done.text
        page = done.headers["location"]
        papers.append([page, f"{page}.pdf", f"{page}/label.pdf"])
        assert not [p for p in papers[-1] if "superseded" in words_on(client, p).lower()]
    assert [p for p in papers[0] if "superseded" not in words_on(client, p).lower()] == []
    assert "certificate 2" in words_on(client, papers[0][0])
    changed = {"part_kind": "probe", "part_id": "drying_rh", "cable_m": "7.5"}
    answer = client.post(
        f"{H}/layout/part", data={**changed, "version": str(draft(client)["version"])}
    )
    assert answer.status_code == 303
    assert [p for row in papers for p in row if "void" not in words_on(client, p).lower()] == []
    headline = client.get(bench).text
    assert "is void" in headline
    assert "stands, ±" not in headline
