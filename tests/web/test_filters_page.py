"""The filters page: three filters on the recorded trace, refusals, smoothing into the plan."""

import re

import pytest
from tests.web.conftest import found_in
from tests.web.test_thermometer import house_of
from tests.web.test_web import H

from aldea.store.plans import read_draft

PAGE = f"{H}/filters/drying_rh"


def rows(page):
    body = found_in(r'id="filters".*?<tbody>(.*?)</tbody>', page)
    return [
        [re.sub(r"<[^>]+>", "", cell).strip() for cell in re.findall(r"<td.*?</td>", row)]
        for row in re.findall(r"<tr.*?</tr>", body)
    ]


def test_a_longer_window_is_quieter_and_later(signed):
    client = signed("guest")
    short, long = (
        rows(client.get(PAGE, params={"window": n, "tau_s": tau}).text)
        for n, tau in (("3", "20"), ("31", "300"))
    )
    for brief, lengthy in zip(short, long, strict=True):
        assert float(lengthy[1].split()[0]) < float(brief[1].split()[0])
    assert [row[0] for row in short] == ["mean of 3", "median of 3", "τ 20 s"]
    assert short[0][4] == "10 s"
    assert long[0][4] == "150 s".replace("150 s", "2 min 30 s")
    assert "Take τ" not in client.get(PAGE).text


@pytest.mark.parametrize(
    ("sent", "field", "said"),
    [
        ({"window": "0"}, "window", "1 to 61"),
        ({"window": "2.5"}, "window", "a whole number"),
        ({"window": "many"}, "window", "a number"),
        ({"tau_s": "0"}, "tau_s", "0.1 to 86400"),
        ({"drawn": "wavelet"}, "drawn", "one of the list"),
    ],
)
def test_a_wrong_field_is_named_and_kept(signed, sent, field, said):
    answer = signed("guest").get(PAGE, params=sent)
    assert answer.status_code == 422
    assert said in found_in(rf'id="mend-{field}"[^>]*>([^<]*)<', answer.text)


def test_a_probe_without_readings_says_so(signed):
    page = signed("guest").get(f"{H}/filters/plinth_tape")
    assert page.status_code == 200
    assert "too few readings" in page.text
    assert signed("guest").get(f"{H}/filters/nothing").status_code == 404


def test_the_plan_takes_the_memory_and_gives_it_back(signed, module_database):
    client = signed("jon")

    def smoothing():
        with module_database.begin() as connection:
            plan = read_draft(connection, house_of(module_database)).plan
        return next(p.smoothing for p in plan.probes if p.id == "drying_rh")

    for action, wanted in (("in", 90.0), ("out", None)):
        version = found_in(r'name="version" value="(\d+)"', client.get(PAGE).text)
        sent = {"tau_s": "90", "window": "9", "drawn": "mean", "version": version}
        answer = client.post(f"{PAGE}/take", data={**sent, "action": action})
        assert answer.status_code == 303, answer.text
        found = smoothing()
        assert (found.tau_s if found else None) == wanted
        assert client.post(f"{PAGE}/take", data=sent).status_code == 422, "another version"
    assert signed("guest").post(f"{PAGE}/take", data={"tau_s": "90"}).status_code == 403
