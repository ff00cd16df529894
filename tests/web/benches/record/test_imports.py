"""Logs brought in: counted, refused, stored."""

import io
import time

from tests.web.pages import H
from tests.web.sent import READ_OPTIONS

from aldea.demo.recorded import END_MS


def wait_for(client, path: str, *states: str) -> str:
    page = ""
    for _ in range(200):
        page = client.get(f"{path}?part=progress").text
        if any(state in page for state in states):
            return str(page)
        time.sleep(0.1)
    raise AssertionError(page)


def upload(client, text: bytes, probe: str = "courtyard_rh") -> str:
    answer = client.post(
        f"{H}/record/readings", data={"probe": probe}, files={"log": ("log.csv", io.BytesIO(text))}
    )
    assert answer.status_code == 303, answer.text
    return str(answer.headers["location"])


def test_an_import_is_counted_before_anything_is_stored(signed):
    client = signed("jon")
    start = END_MS // 1000 - 40 * 86_400
    text = "t,rh\n" + "".join(f"{start + 10 * i},{50 + i % 9}\n" for i in range(5000))
    path = upload(client, text.encode())
    assert client.post(f"{path}/check", data=READ_OPTIONS).status_code == 303
    page = wait_for(client, path, "Store")
    assert "5 000 readings" in page
    assert client.post(f"{path}/store").status_code == 303
    wait_for(client, path, "readings stored")
    again = upload(client, text.encode())
    client.post(f"{again}/check", data=READ_OPTIONS)
    assert "5 000" in wait_for(client, again, "There already")
    assert client.post(f"{again}/store").status_code == 303
    assert "0 readings stored" in wait_for(client, again, "readings stored")


def test_a_broken_log_is_refused_whole_with_line_and_column(signed):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n1760000010,wet\n")
    client.post(f"{path}/check", data=READ_OPTIONS)
    page = wait_for(client, path, "refused whole")
    assert "line 3, column 2: got &#39;wet&#39;" in page
    assert client.post(f"{path}/store").status_code == 409


def test_options_are_refused_at_their_field(signed):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n")
    for field, value in (("zone", "Mill/Time"), ("value_column", "0"), ("header_rows", "x")):
        answer = client.post(f"{path}/check", data={**READ_OPTIONS, field: value})
        assert answer.status_code == 422
        assert f'id="mend-{field}"' in answer.text
