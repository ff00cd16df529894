"""A house begun from a log, a problem, a wiring; each refused at its field, each taken back."""

import io
import re

import pytest
from tests.web.benches.record.test_imports import wait_for
from tests.web.pages import found_in, plain

from aldea.core.wiring.beginnings import STARTING_PROBLEMS

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


@pytest.mark.parametrize("key", [row.key for row in STARTING_PROBLEMS])
def test_a_problem_becomes_a_draft_and_is_taken_back(signed, key):
    client = signed("jon")
    made = client.post("/houses/problem", data={"problem": key})
    assert made.status_code == 303
    address = made.headers["location"]
    page = client.get(address)
    assert page.status_code == 200
    assert "estimated" in page.text
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
    told = r"Fan: on at [\d.]+, off at [\d.]+: \d+\.\d starts a day"
    assert re.search(told, bench), bench[:400]
    assert "2.1 recorded days" in bench, "ten minutes between rows are no silence"
    assert "the record ends 3 Nov 2025" in bench


@pytest.mark.parametrize(
    ("changed", "field", "said"),
    [
        ({"log_place": ""}, "log_place", "where the probe is"),
        ({"log_load": " "}, "log_load", "the load to switch"),
        ({"log_quantity": "count"}, "log_quantity", "one of the list"),
    ],
)
def test_what_is_missing_is_said_at_its_field_and_nothing_is_begun(signed, changed, field, said):
    client = signed("jon")
    before = client.get("/houses").text.count("Undo\n")
    files = {"log": ("store.csv", io.BytesIO(log(5)))}
    refused = client.post("/houses/log", data={**ASKED, **changed}, files=files)
    assert refused.status_code == 422
    assert f'id="fix-{field}"' in refused.text
    assert said in refused.text
    assert "Choose the file again" in refused.text, "a browser does not keep it"
    nothing = client.post("/houses/log", data=ASKED, files={"log": ("x.csv", io.BytesIO(b""))})
    assert "an empty file" in nothing.text
    assert client.get("/houses").text.count("Undo\n") == before


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


def test_a_log_becomes_the_probe_of_a_problem(signed):
    """Case: a damp room and twenty days of one's own readings: rules of the problem, on the log."""
    client = signed("jon")
    files = {"log": ("store.csv", io.BytesIO(log()))}
    form = {**ASKED, "log_problem": "damp", "log_place": "Bath", "log_load": "",
            "time_zone": "Europe/Lisbon"}  # fmt: skip
    made = client.post("/houses/log", data=form, files=files)
    assert made.status_code == 303, made.text[:600]
    house = made.headers["location"].split("/record")[0]
    plan = client.get(f"/api/v1/houses/{house.rsplit('/', 1)[1]}/plan").json()["plan"]
    assert plan["house"]["time_zone"] == "Europe/Lisbon"
    assert plan["places"][0]["name"] == "Bath"
    humid = next(p for p in plan["probes"] if p["quantity"] == "relative_humidity")
    assert (humid["stage"], humid["reading_interval_s"]) == ("working", 600.0)
    page = client.get(made.headers["location"]).text
    assert humid["name"] in page
    (demand,) = (r for r in plan["rules"] if r["priority"] == "demand")
    assert demand["condition"]["of"][0]["probe"] == humid["id"]


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"log_problem": "hot"}, "log_problem"),  # its log is one of humidity
        ({"log_problem": "kettle"}, "log_problem"),
        ({"log_problem": "none such"}, "log_problem"),
    ],
)
def test_a_problem_without_a_probe_for_the_log_is_refused(signed, changed, field):
    files = {"log": ("store.csv", io.BytesIO(log()))}
    answer = signed("jon").post("/houses/log", data={**ASKED, **changed}, files=files)
    assert answer.status_code == 422
    assert "no probe of that quantity" in plain(
        found_in(rf'id="fix-{field}"[^>]*>([^<]*)', answer.text)
    )


def test_the_first_rows_are_shown_before_anything_is_stored(signed):
    client = signed("jon")
    before = client.get("/houses").text.count("/take-back")
    files = {"log": ("store.csv", io.BytesIO(log()))}
    page = plain(client.post("/houses/log/preview", data=ASKED, files=files).text)
    assert "store.csv" in page
    assert "a reading each 10 min" in page
    assert "2025-11-01 00:00:00 73.0" in page
    assert "column 2 “humidity”, ±3.5 %RH (estimated)" in page
    assert "or above, until" in page
    assert "wall clock of Europe/Madrid" in page
    assert client.get("/houses").text.count("/take-back") == before


@pytest.mark.parametrize(
    "content", [b"", b"\x00\x01\x02", b"only words\nand more\n", "é;ß\n1;2\n".encode("latin-1")]
)
def test_a_file_that_is_no_log_is_told_in_the_preview(signed, content):
    files = {"log": ("x.csv", io.BytesIO(content))}
    answer = signed("jon").post("/houses/log/preview", data=ASKED, files=files)
    assert answer.status_code == 200
    assert 'class="fix"' in answer.text
    assert "Traceback" not in answer.text


@pytest.mark.parametrize(
    ("path", "data"), [("problem", {"problem": "leak"}), ("wiring", {}), ("new", {"name": "Z"})]
)
def test_each_start_takes_the_zone_that_is_chosen(signed, path, data):
    client = signed("jon")
    mains = {"mains_v": "230", "mains_hz": "50", "copy": ""}
    sent = {**data, **mains, "time_zone": "Atlantic/Azores"}
    made = client.post(f"/houses/{path}", data=sent)
    assert made.status_code == 303
    slug = re.findall(r"/h/([^/]+)/", made.headers["location"])[0]
    plan = client.get(f"/api/v1/houses/{slug}/plan").json()["plan"]
    assert plan["house"]["time_zone"] == "Atlantic/Azores"
    client.post(f"/h/{slug}/take-back")
