"""A new house."""


def test_a_new_house_needs_a_name_and_a_zone_and_may_be_a_copy(signed):
    client = signed("jon")
    form = {"name": "", "time_zone": "Mill/Time", "mains_v": "12", "mains_hz": "50"}
    answer = client.post("/houses/new", data=form)
    assert answer.status_code == 422
    for said in ("a name for the house", "a zone of the list", "90 to 260 V"):
        assert said in answer.text
    good = {"name": "Copy", "time_zone": "Europe/Madrid", "mains_v": "230", "mains_hz": "50"}
    made = client.post("/houses/new", data={**good, "copy": "molino-alto"})
    assert made.headers["location"] == "/h/copy/layout"
    assert "Drying extractor" in client.get("/h/copy/layout").text
    assert client.post("/houses/new", data={**good, "copy": "nobody"}).status_code == 404
