"""A line carried to sister probes."""

import re

from tests.web.pages import H, found_in, house_of, sign_form

from aldea.store.plans import read_draft


def test_a_line_is_carried_to_chosen_identical_probes_each_without_a_certificate(
    signed, module_database
):
    client = signed("jon")
    url = f"{H}/calibrate/rack_top"
    for reading in ("0.30", "0.32"):
        point = {"medium": "ice", "approach": "point", "reading": reading}
        assert client.post(f"{url}/pairs", data=point).status_code == 303
    page = client.get(f"{url}/identical").text
    assert "wants a check point of its own" in page
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
    assert lines["drying_temp"].intercept == 0, "made another way: no sister probe"
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
