"""Logs brought in: counted, refused, stored."""

import io
import re
import time

from sqlalchemy import update
from tests.web.pages import H, draft, found_in, plain
from tests.web.sent import READ_OPTIONS

from aldea.demo.recorded import END_MS
from aldea.store import tables as t
from aldea.store.imports import find_import
from aldea.store.run_locks import lock_run


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
    assert "5000 readings" in page
    assert client.post(f"{path}/store").status_code == 303
    wait_for(client, path, "readings stored")
    again = upload(client, text.encode())
    client.post(f"{again}/check", data=READ_OPTIONS)
    assert "5000" in wait_for(client, again, "There already")
    assert client.post(f"{again}/store").status_code == 303
    assert "0 readings stored" in wait_for(client, again, "readings stored")


def test_a_broken_log_is_refused_whole_with_line_and_column(signed):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n1760000010,wet\n")
    client.post(f"{path}/check", data=READ_OPTIONS)
    page = wait_for(client, path, "was not imported")
    assert "line 3, column 2: Enter a number with a decimal point, not “wet”" in page
    assert client.post(f"{path}/store").status_code == 409


def test_options_are_refused_at_their_field(signed):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n")
    for field, value in (("zone", "Mill/Time"), ("value_column", "0"), ("header_rows", "x")):
        answer = client.post(f"{path}/check", data={**READ_OPTIONS, field: value})
        assert answer.status_code == 422
        assert f'id="fix-{field}"' in answer.text


def put_into(database, path: str, state: str) -> int:
    """Move a run to a state by hand, as if its turn had not come; gives its number."""
    run_id = int(path.rsplit("/", 1)[1])
    with database.begin() as connection:
        connection.execute(
            update(t.import_run).where(t.import_run.c.id == run_id).values(state=state)
        )
    return run_id


def test_stop_acts_at_once_on_what_waits_and_is_asked_of_who_is_at_it(signed, module_database):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n")
    run_id = put_into(module_database, path, "checking")
    assert client.post(f"{path}/stop").status_code == 303
    with module_database.begin() as connection:
        assert find_import(connection, run_id).state == "stopped"
    assert client.post(f"{path}/check", data=READ_OPTIONS).status_code == 303, "and may go on"
    wait_for(client, path, "Store")
    put_into(module_database, path, "storing")
    with module_database.begin() as somebody:
        assert lock_run(somebody, "import", run_id)
        assert client.post(f"{path}/stop").status_code == 303
    with module_database.begin() as connection:
        run = find_import(connection, run_id)
    assert (run.state, run.wanted_stop) == ("storing", True)


def test_a_stored_run_is_not_stopped_and_another_house_s_is_not_there(signed, module_database):
    client = signed("jon")
    path = upload(client, b"t,rh\n1760000000,50\n")
    put_into(module_database, path, "stored")
    assert client.post(f"{path}/stop").status_code == 404
    assert client.post(f"{path}0000/stop").status_code == 404


def test_three_quantities_of_one_file_go_in_at_once_and_one_is_taken_back(signed):
    """Date and time in two columns, °F asked about, a planned probe too; then one is taken back."""
    client = signed("jon")
    rows = [
        f"2025-09-{1 + i // 24:02d},{i % 24}:00,{64.4 + i / 10:.1f},{40 + i % 7},1013"
        for i in range(60)
    ]
    text = "date,time,drying temp,drying RH %,pressure\n" + "\n".join(rows) + "\n"
    path = upload(client, text.encode(), probe="drying_temp")
    page = client.get(path).text
    chosen = dict(re.findall(r'<select[^>]*name="([^"]+)".*?value="([^"]*)" selected', page, re.S))
    assert (chosen["date_column"], chosen["time_column"], chosen["value_column"]) == ("0", "1", "2")
    assert chosen["probe-3"] == "drying_rh", "its heading speaks for it"

    assert chosen["probe-4"] == "new:air_pressure", "no probe of this house has its quantity"

    options = {
        "delimiter": ",", "decimal": ".", "header_rows": "1", "date_column": "0",
        "time_column": "1", "value_column": "2", "time_kind": "local",
        "local_format": "%Y-%m-%d %H:%M",
        "zone": "Europe/Madrid", "unit": "", "missing": "nan", "replaces": "",
    }  # fmt: skip
    before = draft(client)["plan"]["probes"]
    twice = client.post(f"{path}/check", data={**options, "probe-3": "drying_temp"})
    assert twice.status_code == 422
    assert "Two columns are for one probe" in twice.text
    assert client.post(f"{path}/check", data={**options, "probe-3": "new:joy"}).status_code == 422
    assert draft(client)["plan"]["probes"] == before
    both = {"probe-3": "drying_rh", "probe-4": "new:air_pressure"}
    client.post(f"{path}/check", data=options | both)
    page = wait_for(client, path, "Store 180 readings of 3 columns")
    assert "In °F they would lie inside" in page
    columns = plain(found_in(r'id="columns">(.*?)</section>', client.get(path).text))
    assert columns.count("counted, not stored 60") == 3
    made = draft(client)["plan"]["probes"][-1]
    assert (made["name"], made["quantity"], made["stage"]) == (
        "pressure", "air_pressure", "working",
    )  # fmt: skip
    client.post(f"{path}/check", data={**options, "unit": "degf"})
    page = wait_for(client, path, "Store 180 readings of 3 columns")
    assert "they would lie inside" not in page
    assert "18 " in plain(page), "64.4 °F"
    assert client.post(f"{path}/store").status_code == 303
    wait_for(client, path, "60 readings stored")
    other = found_in(
        r'href="(/h/molino-alto/record/readings/\d+)">Drying room RH', client.get(path).text
    )
    assert "60 readings stored" in wait_for(client, other, "readings stored")

    assert client.post(f"{path}/withdraw").status_code == 303
    assert "Undone" in wait_for(client, path, "Undone")
    assert client.post(f"{path}/withdraw").status_code == 422
    record = plain(client.get(f"{H}/record").text)
    assert "60 added from log.csv undone" in record
    assert "Undo requested: the import of log.csv." in record


def test_readings_of_a_span_are_removed_with_a_reason_and_put_back(signed):
    client = signed("jon")
    sent = {"probe": "drying_rh", "from": "2025-11-01T08:00", "to": "2025-11-01T09:00"}
    refused = client.post(f"{H}/record/remove-readings", data=sent)
    assert refused.status_code == 422
    assert 'id="fix-because"' in refused.text
    assert 'value="2025-11-01T08:00"' in refused.text
    none = {**sent, "from": "2001-01-01T00:00", "to": "2001-01-02T00:00", "because": "x"}
    assert "no reading in that span" in client.post(f"{H}/record/remove-readings", data=none).text
    done = client.post(f"{H}/record/remove-readings", data={**sent, "because": "window open"})
    assert done.status_code == 303
    page = client.get(f"{H}/record").text
    assert "removed, “window open”" in plain(page)
    change = found_in(r'name="change" value="(\d+)"', page)
    assert client.post(f"{H}/record/put-readings-back", data={"change": change}).status_code == 303
    assert "Restore 360 readings" in plain(client.get(f"{H}/record").text)
    assert client.post(f"{H}/record/put-readings-back", data={"change": "9"}).status_code == 404


def test_dates_that_could_be_read_two_ways_are_asked_and_a_later_row_that_tells_is_enough(signed):
    client = signed("jon")
    rows = [f"03/{n:02d}/2025 12:00,{50 + n}" for n in range(1, 13)]
    path = upload(client, ("time,RH\n" + "\n".join(rows) + "\n").encode())
    page = client.get(path).text
    assert "Day or month first?" in plain(page)
    assert "03/01/2025 12:00 is 3 January 2025" in page
    assert "03/01/2025 12:00 is 1 March 2025" in page
    options = {
        "delimiter": ",", "decimal": ".", "header_rows": "1", "date_column": "",
        "time_column": "0", "value_column": "1", "time_kind": "local", "local_format": "",
        "zone": "UTC", "unit": "", "missing": "nan", "replaces": "",
    }  # fmt: skip
    refused = client.post(f"{path}/check", data=options)
    assert refused.status_code == 422
    assert "Choose which is the day and which the month." in refused.text
    client.post(f"{path}/check", data={**options, "local_format": "%m/%d/%Y %H:%M"})
    told = plain(wait_for(client, path, "Store 12 readings"))
    assert "from 1 Mar 2025, 13:00 to 12 Mar 2025, 13:00" in told, "in the house's zone"
    path = upload(client, ("time,RH\n" + "\n".join([*rows, "03/13/2025 12:00,60"]) + "\n").encode())
    assert "Day or month first?" not in plain(client.get(path).text)


def test_serial_dates_are_recognised_and_read_to_the_second(signed):
    """45974.5 is noon of 13 November 2025; five decimals of a day are told to the second."""
    client = signed("jon")
    path = upload(client, b"when,RH\n45974.5,50\n45974.50347,51\n45974.50694,52\n")
    page = client.get(path).text
    assert re.search(r'value="serial"\s+selected', page)
    options = {
        "delimiter": ",", "decimal": ".", "header_rows": "1", "date_column": "",
        "time_column": "0", "value_column": "1", "time_kind": "serial",
        "zone": "Europe/Madrid", "unit": "", "missing": "nan", "replaces": "",
    }  # fmt: skip
    client.post(f"{path}/check", data=options)
    told = plain(wait_for(client, path, "Store 3 readings"))
    assert "from 13 Nov 2025, 12:00 to 13 Nov 2025, 12:10" in told
    assert "one each 5 min" in told
