"""Plans as files, out and into a new house."""

from tests.web.pages import H

from aldea.core.plan.text import plan_text, read_plan
from aldea.demo.mill import mill_plan


def test_a_plan_goes_out_and_comes_into_a_fresh_house_as_the_identical_document(signed):
    client = signed("jon")
    exported = client.get(f"{H}/record/plan.json").content
    answer = client.post("/houses", files={"plan": ("plan.json", exported)})
    assert answer.status_code == 303
    fresh = answer.headers["location"].removesuffix("/record")
    assert fresh == "/h/molino-alto-2"
    assert client.get(f"{fresh}/record/plan.json").content == exported
    assert client.get(f"{fresh}/tune/dehumidifier").status_code == 200, "an honest empty state"
    assert read_plan(exported).house.name == "Molino Alto"


def test_a_load_goes_out_alone_and_begins_a_house_of_its_own(signed):
    client = signed("jon")
    page = client.get(f"{H}/rule?load=dehumidifier").text
    assert f'href="{H}/record/loads/dehumidifier.json"' in page
    exported = client.get(f"{H}/record/loads/dehumidifier.json").content
    answer = client.post("/houses", files={"plan": ("load.json", exported)})
    assert answer.status_code == 303, answer.text
    fresh = answer.headers["location"].removesuffix("/record")
    assert "Drying room RH is 62 %RH or above" in client.get(f"{fresh}/rule?load=dehumidifier").text
    assert client.get(f"{H}/record/loads/ghost.json").status_code == 404


def test_a_wrong_plan_file_is_refused_whole(signed):
    client = signed("jon")
    before = client.get("/houses").text.count("<tr>")
    text = plan_text(mill_plan()).replace('"min_on_s"', '"min_on_min"', 1)
    answer = client.post("/houses", files={"plan": ("plan.json", text)})
    assert answer.status_code == 422
    assert "/loads/0/min_on_min" in answer.text
    assert client.get("/houses").text.count("<tr>") == before
