"""A signature covers what was shown, and nothing else."""

import re
import threading

import pytest
from tests.web.pages import H, draft, found_in, plan_of, sign_form

pytestmark = pytest.mark.watched
URL = f"{H}/calibrate/rack_top"
POINT = {"medium": "ice", "approach": "point"}


@pytest.fixture
def bench(signed):
    """A builder at a bench with two pairs of its own."""
    client = signed("jon")
    for number in sign_form_numbers(client):
        client.post(f"{URL}/pairs/{number}/withdraw")
    for reading in ("0.30", "0.32"):
        assert client.post(f"{URL}/pairs", data={**POINT, "reading": reading}).status_code == 303
    return client


def sign_form_numbers(client):
    page = client.get(URL).text
    return sign_form(client, "rack_top")["pairs"].split(",") if 'id="sign"' in page else []


def test_a_pair_taken_since_is_refused_with_what_changed_and_bound_by_nothing(bench):
    form = sign_form(bench, "rack_top")
    bench.post(f"{URL}/pairs", data={**POINT, "reading": "5.5"})
    answer = bench.post(f"{URL}/sign", data=form)
    assert answer.status_code == 409
    assert "a pair of 5.5 that jon recorded since" in answer.text
    assert len(sign_form(bench, "rack_top")["pairs"].split(",")) == 3, "all three are open still"


def test_a_pair_withdrawn_since_is_refused_and_never_bound(bench):
    form = sign_form(bench, "rack_top")
    gone = form["pairs"].split(",")[0]
    bench.post(f"{URL}/pairs/{gone}/withdraw")
    answer = bench.post(f"{URL}/sign", data=form)
    assert answer.status_code == 409
    assert "1 pair withdrawn or signed since" in answer.text
    assert bench.post(f"{URL}/pairs/{gone}/restore").status_code == 303, "not on a certificate"


def test_a_pair_that_a_certificate_rests_on_cannot_be_withdrawn(bench):
    form = sign_form(bench, "rack_top")
    assert bench.post(f"{URL}/sign", data=form).status_code == 303
    bound = form["pairs"].split(",")[0]
    assert bench.post(f"{URL}/pairs/{bound}/withdraw").status_code == 404
    again = bench.post(f"{URL}/sign", data=form)
    assert again.status_code == 409, "a second press signs nothing"


def test_a_sign_without_its_form_is_refused(bench):
    assert bench.post(f"{URL}/sign").status_code == 422


def test_another_change_of_the_same_probe_is_refused_and_of_another_part_is_kept(
    bench, module_database
):
    form = sign_form(bench, "rack_top")
    page = bench.get(f"{H}/layout?part=place:root_cellar").text
    place = fields_of(page)
    assert bench.post(f"{H}/layout/part", data={**place, "name": "Deep cellar"}).status_code == 303
    answer = bench.post(f"{URL}/sign", data=form)
    assert answer.status_code == 303, answer.text
    plan = plan_of(module_database)
    assert next(p.name for p in plan.places if p.id == "root_cellar") == "Deep cellar"
    assert next(p.calibration.basis for p in plan.probes if p.id == "rack_top") == "certificate"


def test_the_same_probe_changed_in_between_is_not_signed_over(bench):
    form = sign_form(bench, "rack_top")
    page = bench.get(f"{H}/layout?part=probe:rack_top").text
    probe = fields_of(page)
    assert bench.post(f"{H}/layout/part", data={**probe, "name": "Top of rack"}).status_code == 303
    answer = bench.post(f"{URL}/sign", data=form)
    assert answer.status_code == 409
    assert "jon kept version" in answer.text
    assert draft(bench)["version"] == int(form["version"]) + 1


def fields_of(page: str) -> dict[str, str]:
    """What a part's form carries, its selects as they stand."""
    form = found_in(r'<form[^>]*id="part-form"(.*?)</form>', page)
    fields = dict(re.findall(r'name="([a-z_0-9.:]+)"[^>]*?value="([^"]*)"', form))
    for name, options in re.findall(r'<select[^>]*name="([^"]+)"[^>]*>(.*?)</select>', form, re.S):
        chosen = re.search(r'value="([^"]*)"[^>]*selected', options)
        fields[name] = chosen[1] if chosen else ""
    return fields


def test_two_people_signing_at_once_make_one_certificate(bench):
    form, answers = sign_form(bench, "rack_top"), []

    def press():
        answers.append(bench.post(f"{URL}/sign", data=form).status_code)

    threads = [threading.Thread(target=press) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answers) == [303, 409, 409, 409]


def test_pairs_beyond_what_is_promised_want_a_written_reason_that_stands_on_it(signed):
    """Of many repeats one lies far from the others."""
    client = signed("jon")
    url = f"{H}/calibrate/courtyard_rh"
    salts = [("magnesium_chloride", reading) for reading in ("33.1", "33.0", "33.2") * 6]
    salts += [("magnesium_chloride", "45.0"), ("sodium_chloride", "75.5")]
    for medium, reading in salts:
        pair = {"approach": "drier", "medium": medium, "temp_degc": "20", "reading": reading}
        assert client.post(f"{url}/pairs", data=pair).status_code == 303
    form = sign_form(client, "courtyard_rh")
    assert "why" in form, "the form asks for it"
    refused = client.post(f"{url}/sign", data=form)
    assert refused.status_code == 422
    assert "contradicts the other pairs: pair 19" in refused.text
    why = "Only the middle of the range is used."
    done = client.post(f"{url}/sign", data={**form, "why": why})
    assert done.status_code == 303
    assert why in client.get(done.headers["location"]).text
    assert why in client.get(f"{H}/record").text


def test_what_was_stated_stays_over_taking_withdrawing_and_a_refusal(signed):
    client = signed("jon")
    url = f"{H}/calibrate/studio_temp"
    along = {"contact_k": "2.5", "own_label_1": "Bath", "own_value_1": "0.6",
             "own_spread_1": "rectangular", "own_sensitivity_1": "1",
             "own_freedom_1": ""}  # fmt: skip
    taken = client.post(f"{url}/pairs", data={**POINT, "reading": "0.4", **along})
    number = sign_form(client, "studio_temp")["pairs"].split(",")[-1]
    gone = client.post(f"{url}/pairs/{number}/withdraw", data=along)
    for answer in (taken, gone):
        page = client.get(answer.headers["location"]).text
        assert 'name="contact_k" value="2.5"' in page
        assert 'name="own_value_1" value="0.6"' in page
    refused = client.post(f"{url}/pairs", data={**POINT, "reading": "no number", **along})
    assert refused.status_code == 422
    assert 'name="own_value_1" value="0.6"' in refused.text


def test_a_changed_circuit_makes_a_certificate_void_everywhere_until_it_is_taken_back(signed):
    """Bench, due list, House and publishing say so; undo restores it."""
    client = signed("jon")
    url = f"{H}/calibrate/rack_middle"
    for reference, reading in (("0", "0.3"), ("0", "0.4")):
        pair = {**POINT, "reference": reference, "reading": reading, "temp_degc": reference}
        assert client.post(f"{url}/pairs", data=pair).status_code == 303
    done = client.post(f"{url}/sign", data=sign_form(client, "rack_middle"))
    assert done.status_code == 303, done.text[:400]
    probe = next(p for p in draft(client)["plan"]["probes"] if p["id"] == "rack_middle")
    assert len(probe["calibration"]["circuit"]) == 16
    pages = (url, f"{H}/certificates", H, f"{H}/record", f"{H}/wire")
    assert not [page for page in pages if "is void" in client.get(page).text]
    changed = client.post(
        f"{H}/layout/part",
        data={
            "part_kind": "probe",
            "part_id": "rack_middle",
            "fixed_ohm": "12000",
            "version": str(draft(client)["version"]),
        },
    )
    assert changed.status_code == 303
    said = {page: client.get(page).text for page in pages}
    assert [page for page in pages if "void" not in said[page]] == []
    why = {"version": str(draft(client)["version"]), "reason": "Wired."}
    refused = client.post(f"{H}/record/publish", data=why)
    assert refused.status_code == 422
    undo = {"version": str(draft(client)["version"]), "back": f"{H}/layout"}
    client.post(f"{H}/draft/undo", data=undo)
    assert not [page for page in pages if "is void" in client.get(page).text]


def test_what_was_stated_lives_in_the_draft_of_the_bench_until_it_is_signed(signed):
    """Typed at the page (by script), it stands at its bare address too; then it is signed."""
    client = signed("jon")
    bench = f"{H}/calibrate/drying_rh"
    row = {"own_label_1": "Bath", "own_value_1": "0.6", "own_spread_1": "rectangular",
           "own_sensitivity_1": "1", "own_freedom_1": ""}  # fmt: skip
    sent = {**sign_form(client, "drying_rh"), **row}
    sent = {k: v for k, v in sent.items() if k not in ("form_token", "version", "pairs")}
    client.get(bench, params=sent)
    assert 'name="own_value_1" value="0.6"' not in client.get(bench).text, "an address alone"
    client.get(bench, params=sent, headers={"hx-request": "true"})
    page = client.get(bench).text
    assert 'name="own_value_1" value="0.6"' in page
    guest = signed("guest")
    guest.get(bench, params={**sent, "own_value_1": "0.9"}, headers={"hx-request": "true"})
    client = signed("jon")
    form = sign_form(client, "drying_rh")
    assert form["own_value_1"] == "0.6", "a viewer kept nothing"
    assert client.post(f"{bench}/sign", data=form).status_code == 303
    assert 'name="own_value_1" value="0.6"' not in client.get(bench).text
