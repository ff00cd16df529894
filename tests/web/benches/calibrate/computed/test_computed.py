"""Each figure of a bench leads to its formula; what leads nowhere is no computed figure."""

import re

import pytest
from tests.web.benches.calibrate.recordings.recorded import bench_at
from tests.web.benches.calibrate.recordings.test_recordings import TYPED
from tests.web.pages import H, found_in, plain, sign_form

# What was counted, typed or stated, and stands on the page as it is.
STATED = {
    "Recorded", "Far out", "Lost echoes left out", "Fixed resistor", "Divider’s supply",
    "Converter", "Across the far end", "Excitation", "Probe", "Range", "Valid for", "Evidence",
    "Sensor", "Two-wire bus", "Single wire",
}  # fmt: skip
FACT = re.compile(r"<dt[^>]*>(.*?)</dt>", re.DOTALL)
TITLE = re.compile(r'<h2>((?:(?!</h2>).)*)</h2>\s*<div class="scroll', re.DOTALL)
LINK = re.compile(r'/computed#([a-z-]+)"[^>]*>')
KEYS = re.compile(r"<dialog.*?</dialog>", re.DOTALL)


def formulas(client) -> set[str]:
    return set(re.findall(r'<li class="figures" id="([^"]+)"', client.get(f"{H}/computed").text))


def check(page: str, known: set[str]) -> set[str]:
    """Every figure's words on a page are linked to a formula, or stated; returns the formulas."""
    page = KEYS.sub("", page)
    titles = [title for title in TITLE.findall(page) if not title.strip().startswith("Pairs")]
    words = [*FACT.findall(page), *titles]
    led = {found[1] for word in words if (found := LINK.search(word))}
    assert led <= known
    assert {plain(word) for word in words if not LINK.search(word)} <= STATED
    return led


@pytest.mark.parametrize(("key", "subject"), TYPED)
def test_each_figure_of_a_recordings_bench_leads_to_its_formula(signed, key, subject):
    client = signed("jon")
    answer = client.post(f"{bench_at(key, subject)}/work", data=TYPED[key, subject])
    assert answer.status_code == 200, answer.text[:500]
    led = check(answer.text, formulas(client))
    assert led or key == "addresses"


def test_each_row_of_a_budget_and_the_promise_lead_to_theirs(signed):
    client = signed("jon")
    known = formulas(client)
    for probe, kind in (("drying_rh", "humidity"), ("drying_temp", "thermometer")):
        page = client.get(f"{H}/calibrate/{probe}").text
        if 'id="cert"' in page:
            assert f"{kind}-expanded" in check(page, known)
        rows = re.search(
            r'id="budget-rows".*?</table>',
            client.get(f"{H}/calibrate/{probe}/budget").text,
            re.DOTALL,
        )
        for row in re.findall(r"<tr>\s*<td>(.*?)</td>", rows[0], re.DOTALL) if rows else ():
            assert LINK.search(row), row
    signed_now = client.post(f"{H}/calibrate/drying_rh/sign", data=sign_form(client, "drying_rh"))
    page = client.get(signed_now.headers["location"]).text
    number = found_in(r"/certificates/(\d+)", page)
    page = client.get(f"{H}/certificates/{number}").text
    assert len(set(LINK.findall(page)) & known) >= 3


def test_each_figure_of_tune_leads_to_its_formula(signed):
    client = signed("jon")
    page = client.get(f"{H}/tune/dehumidifier").text
    costs = re.findall(r'data-cost="([^"]+)">(.*?)</div>', page, re.DOTALL)
    assert len(costs) == 5
    known = formulas(client)
    assert len({found[1] for _, row in costs if (found := LINK.search(row))} & known) == 5
