"""A whole house at work: marks dragged, two hundred probes on a page, a hundred people at once."""

import random
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from httpx import Client
from sqlalchemy import select
from tests.web.sent import TUNING

from aldea.core.plan.text import plan_text
from aldea.store import tables as t
from aldea.store.database import driver_of
from aldea.store.readings import series_id, store_readings
from benchmarks.figures import Timed, p95_ms, pace, report
from benchmarks.serving import H, Server
from benchmarks.working_house import recorded, working_house

DRAGS = 500
CLIENTS, VISITS, THINKS_S = 100, 4, 2.0
PAGES = (
    "",
    "/layout",
    "/wire",
    "/wire/circuits",
    "/wire/parts",
    "/wire/boards",
    "/calibrate/drying_rh",
    "/tune/dehumidifier",
    "/certificates",
    "/benches",
    "/record",
)


def filled(
    server: Server, client: Client, probes: int, name: str, days: float, every_s: float
) -> str:
    """A house of so many probes with their recorded days; gives its address."""
    plan = plan_text(working_house(probes, name)).encode()
    answer = client.post("/houses", files={"plan": ("house.json", plan)})
    slug = answer.headers["location"].split("/")[2]
    end_ms = time.time_ns() // 1_000_000
    with server.database.begin() as connection:
        house = int(connection.scalar(select(t.house.c.id).where(t.house.c.slug == slug)) or 0)
        raw = driver_of(connection)
        for index in range(probes):
            trace = recorded(index, days=days, every_s=every_s, end_ms=end_ms)
            store_readings(raw, series_id(connection, house, f"probe{index}"), trace)
    return f"/h/{slug}"


def whole_house(server: Server, client: Client) -> None:
    """Drags and memory with 12 probes of 31 days at 10 s; the House page with 200 probes."""
    dozen = filled(server, client, 12, "Dozen", 31, 10)
    client.get(f"{dozen}/tune/load0")

    def drag(turn: int) -> None:
        marks = {"on": f"{60 + turn % 50 / 10:.1f}", "off": f"{54 + turn % 37 / 10:.1f}"}
        answer = client.post(f"{dozen}/tune/load0/answer", data={**TUNING, **marks})
        assert "Starts a day" in answer.text

    p95_ms(drag, 10)
    spent = p95_ms(drag, DRAGS)
    report("12 probes × 31 days: answer while dragging, p95 ms", spent, at_most=60)
    held = server.resident_mb
    report(f"12 probes × 31 days: memory after {DRAGS} drags, MB", held, at_most=350)
    many = filled(server, client, 200, "Many", 3, 60)
    client.get(many)
    spent = p95_ms(lambda _: client.get(many).raise_for_status(), 40)
    report("200 working probes: House, p95 ms", spent, at_most=80)


def hundred_people(server: Server) -> None:
    """A hundred people who look, think and look again, on two server processes."""
    people = [server.signed_in(name) for name in ("jon", "ines", "guest")]
    for client in people:
        for page in PAGES * 3:
            client.get(H + page)

    def one(number: int) -> list[float]:
        chance = random.Random(number)
        cookies = dict(people[number % len(people)].cookies)
        spent = []
        with Client(base_url=server.base, cookies=cookies, timeout=60) as client:
            for _ in range(VISITS):
                time.sleep(chance.uniform(0, 2 * THINKS_S))
                began = time.perf_counter()
                client.get(H + chance.choice(PAGES)).raise_for_status()
                spent.append(time.perf_counter() - began)
        return spent

    before = pace()
    with ThreadPoolExecutor(CLIENTS) as pool:
        spent = [s for row in pool.map(one, range(CLIENTS)) for s in row]
    p95 = Timed(float(np.percentile(spent, 95)), (before + pace()) / 2)
    report(f"{CLIENTS} people on a mix of pages, 0 errors, p95 s", p95, at_most=1)
