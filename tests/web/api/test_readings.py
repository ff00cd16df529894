"""Readings sent by a program."""

from tests.web.pages import H

from aldea.demo.recorded import END_MS


def test_readings_come_in_by_the_interface_and_are_seen_live(signed):
    client = signed("jon")
    url = "/api/v1/houses/molino-alto/readings"
    rows = [[END_MS - 60_000 * k - 7000, 21.5] for k in range(9, -1, -1)]
    assert client.post(url, json={"probe": "studio_air_2", "rows": rows}).json() == {"stored": 10}
    assert client.post(url, json={"probe": "studio_air_2", "rows": rows}).json() == {"stored": 0}
    page = client.get(f"{H}/calibrate/studio_air_2", params={"live": "1"}).text
    assert "mean <b>21.50</b>, spread 0.00" in page
    assert 'hx-trigger="every 2s"' in page
    for probe, wrong in (("attic", rows), ("studio_air_2", []), ("studio_air_2", [[-5, 1.0]])):
        answer = client.post(url, json={"probe": probe, "rows": wrong})
        assert answer.status_code == 422, answer.text
    assert (
        signed("guest").post(url, json={"probe": "studio_air_2", "rows": rows}).status_code == 403
    )
