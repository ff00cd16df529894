"""What has a target, in one run: each figure on a calm machine beside its target."""

import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

import numpy as np
from httpx import Client
from tests.web.sent import READ_OPTIONS, TUNING

from aldea.core.plan.document import Plan
from aldea.core.plan.text import plan_text
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.signals import signals
from aldea.native.engine import load_engine
from aldea.store.cluster import Cluster, server_binaries
from aldea.store.settings import Settings
from aldea.web.benches.wire.panel.schedule import Shown
from aldea.web.benches.wire.panel.view import make_wire_view
from aldea.web.benches.wire.sheets.view import SCREEN
from aldea.web.registry import BENCHES
from aldea.web.shell.templates import templates, use_benches
from aldea.web.shell.window import Window
from benchmarks.at_work import hundred_people, whole_house
from benchmarks.engine import engine
from benchmarks.figures import Timed, best_ms, p95_ms, pace, report
from benchmarks.large_house import large_house
from benchmarks.serving import H, Server, serving, signed_in

ROWS = 1_000_000


def million_rows(path: Path, plain: Path) -> None:
    """One log for the import, and the same rows as psql's copy takes them."""
    start_s = int(datetime(2024, 1, 1, tzinfo=UTC).timestamp())
    t_s = start_s + 10 * np.arange(ROWS)
    value = 50 + np.arange(ROWS) % 97 / 10
    stamps = np.datetime_as_string(t_s.astype("datetime64[s]"), unit="s")
    path.write_text(
        "time,rh\n"
        + "\n".join(f"{t}Z,{v:.1f}" for t, v in zip(stamps.tolist(), value.tolist(), strict=True))
    )
    plain.write_text(
        "\n".join(f"99\t{t}000\t{v:.1f}" for t, v in zip(t_s.tolist(), value.tolist(), strict=True))
        + "\n"
    )


def copy_ms(home: Path, plain: Path) -> float:
    """The copy of psql of the same rows into the same table of the same server."""
    cluster = Cluster(home / ".aldea/cluster")
    url = cluster.url().replace("+psycopg", "")
    began = time.perf_counter()
    subprocess.run(
        [
            str(server_binaries() / "psql"),
            "-q",
            url,
            "-c",
            f"\\copy reading (series_id, t_ms, value) from '{plain}'",
        ],
        check=True,
        capture_output=True,
    )
    return (time.perf_counter() - began) * 1000


def wait(client: Client, path: str, state: str) -> None:
    while True:
        page = client.get(f"{path}?part=progress").text
        if state in page:
            return
        if "refused whole" in page:
            raise AssertionError(page)
        time.sleep(0.03)


def import_ms(client: Client, log: Path) -> float:
    """Check and store a million rows by the pages; the upload is sent before the clock starts."""
    with log.open("rb") as source:
        answer = client.post(
            f"{H}/record/readings",
            data={"probe": "courtyard_rh"},
            files={"log": ("million.csv", source)},
        )
    path = answer.headers["location"]
    options = {**READ_OPTIONS, "time_kind": "iso", "zone": "UTC"}
    began = time.perf_counter()
    client.post(f"{path}/check", data=options)
    wait(client, path, "Store")
    client.post(f"{path}/store")
    wait(client, path, "readings stored")
    return (time.perf_counter() - began) * 1000


def wiring() -> Plan:
    """Pins and the drawing of a large house; returns it with its pins."""
    plan = large_house()
    assign_pins(plan)  # the solver is loaded once
    count = len(signals(plan))
    spent = best_ms(lambda: assign_pins(plan))
    report(f"pins of 12 boards, {count} signals, ms", spent, at_most=2000)
    done = assign_pins(plan).assignments

    use_benches(BENCHES)

    def draw() -> None:
        fresh = plan.model_copy(update={"assignments": done})  # nothing is remembered of it
        template = templates.env.get_template("wire/panel/drawing.html")
        for board in fresh.boards:
            view = make_wire_view(
                fresh,
                shown=Shown(only="", board=board, part=""),
                replayed=None,
                traces={},
                window=Window(start_ms=0, end_ms=1, at_ms=1, now_ms=1),
                draft_version=1,
            )
            template.render(view=view, c=SCREEN, this="")

    draw()
    report("drawing of all 12 boards, ms", best_ms(draw), at_most=300)
    return plan.model_copy(update={"assignments": done})


def visiting(client: Client, path: str) -> Callable[[int], object]:
    """Loads one page, however often."""
    return lambda _turn: client.get(path).raise_for_status()


def first_start(folder: Path) -> None:
    """An empty folder: database, engine and demo house are made, then somebody comes."""
    with serving(folder) as server, closing(Client(base_url=server.base, timeout=60)) as client:
        print(f"      from an empty folder to the first page: {server.started_s:.1f} s")
        signed_in(client, "jon")
        spent = best_ms(lambda: client.get(H).raise_for_status(), 1)
        report("after a clean install: House with its first replay, ms", spent, at_most=5000)
        tune = f"{H}/tune/dehumidifier"
        spent = best_ms(lambda: client.get(tune).raise_for_status(), 1)
        report("after a clean install: first view of Tune, ms", spent, at_most=1000)
        answer = best_ms(lambda: client.post(f"{tune}/answer", data=TUNING).raise_for_status(), 1)
        report("after a clean install: first answer at Tune, ms", answer, at_most=1000)


def started(server: Server) -> None:
    """What a start costs where everything is there."""
    spent = Timed(server.processor_s, pace())
    report("start of the server, processor s", spent, at_most=3)
    report("memory of a server that has started, MB", server.resident_mb, at_most=120)


def pages(server: Server, client: Client) -> None:
    """The pages of the demo house, and answers while dragging."""
    tune = f"{H}/tune/dehumidifier"

    def drag(turn: int) -> None:
        marks = {"on": f"{60 + turn % 50 / 10:.1f}", "off": f"{54 + turn % 37 / 10:.1f}"}
        answer = client.post(f"{tune}/answer", data={**TUNING, **marks})
        assert "Starts a day" in answer.text

    p95_ms(drag, 10)
    report("answer while dragging, p95 ms", p95_ms(drag, 100), at_most=100)
    for name, path in (
        ("House", H),
        ("Lay out", f"{H}/layout"),
        ("Wire", f"{H}/wire"),
        ("Calibrate", f"{H}/calibrate/drying_rh"),
        ("Tune", tune),
        ("Rule", f"{H}/rule?load=dehumidifier"),
        ("Record", f"{H}/record"),
    ):
        visit = visiting(client, path)
        p95_ms(visit, 5)
        report(f"page {name}, p95 ms", p95_ms(visit, 60), at_most=40)

    def filters(turn: int) -> object:
        window = 5 + 2 * (turn % 20)
        return client.get(f"{H}/recordings/filters/drying_rh?hours=720&window={window}")

    p95_ms(filters, 5)
    report("bench on 100,000 readings, p95 ms", p95_ms(filters, 60), at_most=80)


def pages_of_a_large_house(client: Client, large: Plan) -> None:
    """The pages of a house of twelve boards."""
    files = {"plan": ("large.json", plan_text(large).encode())}
    assert client.post("/houses", files=files).status_code == 303
    for name, path in (
        ("House", ""),
        ("Lay out", "/layout?part=load:load3"),
        ("Wire", "/wire?board=b1"),
        ("Wire by place", "/wire?by=place"),
        ("Circuits", "/wire/circuits"),
        ("Boards", "/wire/boards"),
        ("Parts", "/wire/parts"),
        ("Controls", "/wire/controls"),
        ("Record", "/record"),
    ):
        visit = visiting(client, f"/h/large-house{path}")
        p95_ms(visit, 3)
        report(f"large house, {name}, p95 ms", p95_ms(visit, 30), at_most=100)


def imported(server: Server, client: Client) -> None:
    """A million rows by the pages, beside the copy of psql of the same rows."""
    log, plain = server.folder / "million.csv", server.folder / "plain.tsv"
    million_rows(log, plain)
    plain.chmod(0o644)
    ours = import_ms(client, log)
    copied = copy_ms(server.folder, plain)
    print(f"      import of 1,000,000 rows {ours:.0f} ms, \\copy {copied:.0f} ms")
    report("import, times \\copy of the same rows", ours / copied, at_most=3)
    client.get(f"{H}/tune/dehumidifier")
    report("memory after it, MB", server.resident_mb, at_most=350)


def sheets(client: Client) -> None:
    """What is printed, the first time and again."""
    client.get(f"{H}/wire")
    time.sleep(3)  # what prints is loaded meanwhile
    sheet = partial(client.get, f"{H}/wire/door-sheet.pdf")
    report("door sheet, the first time, ms", best_ms(sheet, 1), at_most=1500)
    report("door sheet, again, ms", best_ms(sheet), at_most=100)


def measure() -> None:
    """Everything, on one server after another."""
    load_engine(Settings().engine)
    engine()
    plan = wiring()
    folder = Path(tempfile.mkdtemp(prefix="aldea-bench-"))
    folder.chmod(0o755)
    try:
        first_start(folder)
        with serving(folder) as server:
            started(server)
            with closing(server.signed_in()) as client:
                sheets(client)
                pages(server, client)
                pages_of_a_large_house(client, plan)
                whole_house(server, client)
        with serving(folder) as server, closing(server.signed_in()) as client:
            imported(server, client)
        with serving(folder, "--workers", "2") as server:
            hundred_people(server)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    began = time.monotonic()
    measure()
    print(f"      {time.monotonic() - began:.0f} s in all")
