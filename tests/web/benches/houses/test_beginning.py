"""A house begun from a log, a nuisance, a wiring; each refused at its field, each taken back."""

import io
import re

import pytest
from tests.web.benches.record.test_imports import wait_for
from tests.web.pages import found_in, plain

from aldea.core.wiring.beginnings import NUISANCES

pytestmark = pytest.mark.watched
ASKED = {"log_quantity": "relative_humidity", "log_place": "Root store", "log_load": "Fan",
         "log_way": "rising"}  # fmt: skip


def log(rows: int = 300) -> bytes:
    """A humidity each ten minutes, up and down over a day."""
    lines = [
        f"2025-11-{1 + i // 144:02d} {i // 6 % 24:02d}:{i % 6}0:00,{55 + abs(i % 144 - 72) / 4:.1f}"
        for i in range(rows)
    ]
    return ("time,humidity\n" + "\n".join(lines) + "\n").encode()


@pytest.mark.parametrize("key", [row.key for row in NUISANCES])
def test_a_nuisance_becomes_a_draft_and_is_taken_back(signed, key):
    client = signed("jon")
    made = client.post("/houses/nuisance", data={"nuisance": key})
    assert made.status_code == 303
    address = made.headers["location"]
    page = client.get(address)
    assert page.status_code == 200
    assert "assumed" in page.text
    house = address.split("/rule")[0]
    assert client.get(f"{house}/wire").status_code == 200
    assert "No severe" in client.get(f"{house}/wire").text or "needs" not in plain(
        found_in(r"<h1(.*?)</h1>", client.get(f"{house}/wire").text)
    )
    slug = house.rsplit("/", 1)[1]
    assert client.post(f"/h/{slug}/take-back").status_code == 303
    assert client.get(house).status_code == 404
    assert f"/h/{slug}" not in client.get("/houses").text


def test_a_house_around_a_log_tunes_on_it(signed):
    client = signed("jon")
    files = {"log": ("store.csv", io.BytesIO(log()))}
    made = client.post("/houses/log", data=ASKED, files=files)
    assert made.status_code == 303, made.text[:600]
    run = made.headers["location"]
    options = {
        "delimiter": ",", "decimal": ".", "header_rows": "1", "date_column": "", "time_column": "0",
        "value_column": "1", "time_kind": "local", "local_format": "%Y-%m-%d %H:%M:%S",
        "zone": "Europe/Madrid", "unit": "", "missing": "nan", "replaces": "",
    }  # fmt: skip
    client.post(f"{run}/check", data=options)
    wait_for(client, run, "Store 300")
    client.post(f"{run}/store")
    page = wait_for(client, run, "300 readings stored")
    tune = found_in(r'href="([^"]+/tune/fan)">Tune on it', page)
    bench = plain(client.get(tune).text)
    assert re.search(r"Fan: [\d.]+ / [\d.]+ closes \d+\.\d times a day", bench), bench[:400]
    assert "2.1 recorded days" in bench, "ten minutes between rows are no silence"
    assert "the record ends 3 Nov 2025" in bench


@pytest.mark.parametrize(
    ("changed", "field", "said"),
    [
        ({"log_place": ""}, "log_place", "where the probe is"),
        ({"log_load": " "}, "log_load", "what it is to switch"),
        ({"log_quantity": "count"}, "log_quantity", "one of the list"),
    ],
)
def test_what_is_missing_is_said_at_its_field_and_nothing_is_begun(signed, changed, field, said):
    client = signed("jon")
    before = client.get("/houses").text.count("undo it")
    files = {"log": ("store.csv", io.BytesIO(log(5)))}
    refused = client.post("/houses/log", data={**ASKED, **changed}, files=files)
    assert refused.status_code == 422
    assert f'id="mend-{field}"' in refused.text
    assert said in refused.text
    nothing = client.post("/houses/log", data=ASKED, files={"log": ("x.csv", io.BytesIO(b""))})
    assert "an empty file" in nothing.text
    assert client.get("/houses").text.count("undo it") == before


def test_a_wiring_to_check_begins_at_its_board(signed):
    client = signed("jon")
    made = client.post("/houses/wiring")
    page = client.get(made.headers["location"])
    assert page.status_code == 200
    assert "Board" in page.text


def test_what_was_published_is_not_taken_back(signed):
    client = signed("jon")
    refused = client.post("/h/molino-alto/take-back")
    assert refused.status_code == 409
    assert "was published" in refused.text
    assert client.get("/h/molino-alto").status_code == 200
    guest = signed("guest")
    assert guest.post("/h/molino-alto/take-back").status_code == 403
    assert guest.post("/h/ghost/take-back").status_code == 404
