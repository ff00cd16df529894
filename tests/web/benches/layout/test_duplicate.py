"""Duplicate at Lay out, and a copy of a rule at Rule: kept, named, refused in words."""

import pytest
from tests.web.pages import H, draft, plain, plan_of


@pytest.mark.parametrize("key", ["probe:cellar_rh", "load:store_fan"])
def test_a_part_is_duplicated_and_its_copy_opened(signed, module_database, key):
    client = signed("jon")
    page = client.get(f"{H}/layout?part={key}").text
    assert "/layout/duplicate" in page
    kind = key.partition(":")[0]
    before = len(getattr(plan_of(module_database), f"{kind}s"))
    sent = {"part": key, "version": str(draft(client)["version"])}
    answer = client.post(f"{H}/layout/duplicate", data=sent)
    assert answer.status_code == 303
    assert (
        answer.headers["location"].endswith(f"{key}_2")
        or f"part={kind}%3A" in answer.headers["location"]
    )
    assert client.get(answer.headers["location"]).status_code == 200
    assert len(getattr(plan_of(module_database), f"{kind}s")) == before + 1


@pytest.mark.parametrize("key", ["board:board_a", "probe:none", "", "x" * 200])
def test_what_cannot_be_duplicated_is_said(signed, key):
    client = signed("jon")
    version = str(draft(client)["version"])
    answer = client.post(f"{H}/layout/duplicate", data={"part": key, "version": version})
    assert answer.status_code == 422
    assert 'role="alert"' in answer.text
    assert str(draft(client)["version"]) == version


def test_a_rule_is_copied_to_another_load(signed, module_database):
    client = signed("jon")
    page = client.get(f"{H}/rule?load=store_fan").text
    assert "Copy of a rule" in page
    source = plan_of(module_database).rules_of("dehumidifier")[-1]
    sent = {"load": "store_fan", "source": source.id, "version": str(draft(client)["version"])}
    assert client.post(f"{H}/rule/copy", data=sent).status_code == 303
    copy = plan_of(module_database).rules_of("store_fan")[-1]
    assert copy.condition == source.condition
    gone = {**sent, "source": "none", "version": str(draft(client)["version"])}
    answer = client.post(f"{H}/rule/copy", data=gone)
    assert answer.status_code == 422
    assert "There is no rule" in plain(answer.text)
