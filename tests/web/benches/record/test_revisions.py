"""Publishing a revision."""

from tests.web.pages import H, draft


def test_publishing_needs_a_reason_and_the_version_that_was_read(signed):
    client = signed("jon")
    version = str(draft(client)["version"])
    blank = client.post(f"{H}/record/publish", data={"version": version, "reason": " "})
    assert blank.status_code == 422
    sent = {"version": version, "reason": "wider", "despite": "neither is connected yet"}
    bare = client.post(f"{H}/record/publish", data={**sent, "despite": ""})
    assert bare.status_code == 422
    assert "2 findings are open at Wire or Rule. Fix them there, or enter the reason" in bare.text
    old = client.post(f"{H}/record/publish", data={"version": "1", "reason": "why not"})
    assert old.status_code == 409
    assert "why not" in old.text
    assert client.post(f"{H}/record/publish", data=sent).status_code == 303
    page = client.get(f"{H}/record").text
    assert "wider Published despite DO11 is high before the start; Floor drain tape" in page
    assert "neither is connected yet" in page
