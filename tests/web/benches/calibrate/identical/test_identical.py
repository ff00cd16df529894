"""A line carried to identical probes."""

import re

from tests.web.pages import H, found_in, house_of, plain, sign_form

from aldea.store.drafts import read_draft


def test_a_line_is_carried_to_chosen_identical_probes_each_without_a_certificate(
    signed, module_database
):
    client = signed("jon")
    url = f"{H}/calibrate/rack_top"
    for reading in ("0.30", "0.32"):
        point = {"medium": "ice", "approach": "point", "reading": reading}
        assert client.post(f"{url}/pairs", data=point).status_code == 303
    page = client.get(f"{url}/identical").text
    assert "needs its own check point" in page
    version = found_in(r'name="version" value="(\d+)"', page)
    none = client.post(f"{url}/identical", data={"version": version})
    assert none.status_code == 422
    assert "at least one of them" in none.text
    sent = {"version": version, "to-rack_middle": "1", "to-drying_temp": "1"}
    assert client.post(f"{url}/identical", data=sent).status_code == 303
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    lines = {p.id: p.calibration for p in plan.probes}
    assert lines["rack_middle"].intercept != 0
    assert lines["rack_middle"].certificate is None
    assert lines["rack_foot"].intercept == 0, "not chosen"
    assert lines["drying_temp"].intercept == 0, "made another way: not identical"
    # Once it is signed its pairs are closed: the signed line is carried then.
    assert client.post(f"{url}/sign", data=sign_form(client, "rack_top")).status_code == 303
    assert re.search(r"Rack top: certificate \d+ stands", client.get(url).text)
    page = client.get(f"{url}/identical").text
    assert re.search(r"as certificate \d+ says", page)
    sent = {"version": found_in(r'name="version" value="(\d+)"', page), "to-rack_foot": "1"}
    assert client.post(f"{url}/identical", data=sent).status_code == 303
    with module_database.begin() as connection:
        plan = read_draft(connection, house_of(module_database)).plan
    lines = {p.id: p.calibration for p in plan.probes}
    assert lines["rack_top"].certificate is not None
    assert lines["rack_foot"].intercept == lines["rack_top"].intercept

    # On its own bench the other has the line, owes a point for it, and the point judges it.
    due = plain(client.get(f"{H}/certificates").text)
    assert "its line is taken from Rack top: record its own check point" in due
    own = f"{H}/calibrate/rack_foot"
    shown = plain(found_in(r'id="carried">(.*?)</section>', client.get(own).text))
    assert "from Rack top" in shown
    assert "Nothing is measured here yet" in shown
    intercept = lines["rack_foot"].intercept
    for read_as, words in (
        (-intercept, "The line is valid where it was tested"),
        (9.0, "is not valid here"),
    ):
        point = {"medium": "ice", "approach": "point", "reading": f"{read_as:.3f}"}
        assert client.post(f"{own}/pairs", data=point).status_code == 303
        shown = plain(found_in(r'id="carried">(.*?)</section>', client.get(own).text))
        assert words in shown, shown
    number = sign_form(client, "rack_foot")["pairs"].split(",")[-1]
    client.post(f"{own}/pairs/{number}/withdraw")
    assert client.post(f"{own}/sign", data=sign_form(client, "rack_foot")).status_code == 303
    assert 'id="carried"' not in client.get(own).text, "its line is its own now"
    assert (
        "carried from Rack top: record"
        not in plain(client.get(f"{H}/certificates").text)
        .split("Rack foot", 1)[1]
        .split("Rack", 1)[0]
    )
