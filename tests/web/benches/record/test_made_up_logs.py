"""A made-up log through the pages: in, counted by hand, out again, taken back.

Date and time in two columns, over the night on which the clock goes back, three quantities in one
file, one of them in °F, pauses of hours, missing readings by their words. The environment variable
`ALDEA_LOG_ROWS` asks for more rows, such as 300000.
"""

import io
import os
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import numpy as np
import polars as pl
from tests.web.benches.record.test_imports import wait_for
from tests.web.pages import found_in, table_of

from aldea.core.plan.text import plan_text
from aldea.demo.mill import mill_plan

ROWS, EVERY_S = int(os.environ.get("ALDEA_LOG_ROWS", "40000")), 10
BEGIN = datetime(2025, 10, 23, 6, 0, tzinfo=UTC)
ZONE = ZoneInfo("Europe/Madrid")
PAUSES = ((ROWS // 8, 900), (ROWS // 2, 1500), (ROWS - 100, 360))  # before which row, how many
PROBES = {"studio_temp": 2, "courtyard_rh": 3, "stair_light": 4}


def made_up() -> tuple[bytes, dict[str, tuple[np.ndarray, np.ndarray]]]:
    """The file, and by probe the instants and values that are in it in the units of the plan."""
    skipped = np.zeros(ROWS, dtype=np.int64)
    for before, rows in PAUSES:
        skipped[before:] += rows
    t_ms = int(BEGIN.timestamp() * 1000) + 1000 * EVERY_S * (np.arange(ROWS) + skipped)
    day = t_ms / 86_400_000 * 2 * np.pi
    fahrenheit = np.round(64 + 9 * np.sin(day) + np.arange(ROWS) % 7 / 10, 1)
    rh = np.round(60 + 20 * np.cos(day) + np.arange(ROWS) % 11 / 10, 1)
    lux = np.round(np.maximum(0.0, 300 * np.sin(day)), 0)
    walls = pl.Series(t_ms).cast(pl.Datetime("ms")).dt.replace_time_zone("UTC")
    walls = walls.dt.convert_time_zone(str(ZONE)).dt.replace_time_zone(None)
    gone = {"rh": np.arange(ROWS) % 997 == 5, "lux": np.arange(ROWS) % 1501 == 9}

    def column(values: np.ndarray, missing: np.ndarray | None, word: str) -> pl.Series:
        text = pl.Series(values).cast(pl.String).str.replace(".", ",", literal=True)
        return text if missing is None else text.zip_with(pl.Series(~missing), pl.Series([word]))

    frame = pl.DataFrame(
        {
            "Datum": walls.dt.strftime("%d.%m.%Y"),
            "Zeit": walls.dt.strftime("%H:%M:%S"),
            "Studio temperature °F": column(fahrenheit, None, ""),
            "Courtyard humidity %": column(rh, gone["rh"], "unavailable"),
            "Stair light lx": column(lux, gone["lux"], "no signal"),
        }
    )
    return frame.write_csv(separator=";").encode(), {
        "studio_temp": (t_ms, (fahrenheit - 32) / 1.8),
        "courtyard_rh": (t_ms[~gone["rh"]], rh[~gone["rh"]]),
        "stair_light": (t_ms[~gone["lux"]], lux[~gone["lux"]]),
    }


def out(client, home: str, probe: str) -> tuple[np.ndarray, np.ndarray]:
    """What is recorded of a probe, as the page gives it out."""
    answer = client.get(f"{home}/record/readings.csv", params={"probe": probe})
    assert answer.status_code == 200, answer.text
    rows = pl.read_csv(io.BytesIO(answer.content), has_header=True, new_columns=["t", "v"])
    times = rows["t"].str.to_datetime("%Y-%m-%dT%H:%M:%S%.3fZ", time_unit="ms")
    return times.dt.epoch("ms").to_numpy(), rows["v"].to_numpy()


def test_three_quantities_of_one_file_go_in_and_out(signed):
    client = signed("jon")
    files = {"plan": ("mill.json", plan_text(mill_plan()).encode())}
    home = client.post("/houses", files=files).headers["location"].removesuffix("/record")
    text, truth = made_up()
    begun = client.post(
        f"{home}/record/readings", data={"probe": "studio_temp"}, files={"log": ("log.csv", text)}
    )
    run = begun.headers["location"]
    others = {f"probe-{column}": probe for probe, column in PROBES.items() if column != 2}
    guessed = client.get(run).text
    date = found_in(r'<select[^>]*name="date_column"(.*?)</select>', guessed)
    assert found_in(r'value="(\d*)"[^>]*selected', date) == "0"
    options = {
        "delimiter": ";", "decimal": ",", "header_rows": "1", "date_column": "0",
        "time_column": "1", "value_column": "2", "time_kind": "local",
        "local_format": "%d.%m.%Y %H:%M:%S", "zone": str(ZONE), "unit": "degf",
        "missing": "no signal, unavailable",
    }  # fmt: skip
    assert client.post(f"{run}/check", data=options | others).status_code == 303
    counted = {row[0]: row[1:] for row in table_of(wait_for(client, run, "Store"), "counts")}
    wait_for(client, run, "of 3 columns")
    assert counted["Rows"][0].replace(" ", "") == str(ROWS)
    assert counted["Gaps"] == ["3", "the longest 4 h 10 min"]
    assert counted["Clock change"][1].startswith("26 Oct 2025, 02:00: back, 360 readings")
    assert client.post(f"{run}/store").status_code == 303
    runs = [run, *(run.rsplit("/", 1)[0] + f"/{int(run.rsplit('/', 1)[1]) + i}" for i in (1, 2))]
    for each in runs:
        wait_for(client, each, "readings stored")
    for probe, (t_ms, value) in truth.items():
        got_ms, got = out(client, home, probe)
        assert np.array_equal(got_ms, t_ms), probe
        assert np.allclose(got, value, rtol=0, atol=1e-9), probe
    for each in runs:
        assert client.post(f"{each}/withdraw").status_code == 303
        wait_for(client, each, "Undone")
    for probe in PROBES:
        assert client.get(f"{home}/record/readings.csv?probe={probe}").status_code == 404
    assert "nothing recorded yet" in client.get(f"{home}/record").text
