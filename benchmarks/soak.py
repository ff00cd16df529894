"""All pages over and over: the memory of the server is to stand at one level.

Three people go round every view of every bench at instants of their own, prints and other spans
too; marks are dragged, kept and taken back between.
"""

import random
import sys
import threading
import time
from contextlib import closing

from httpx import Client
from tests.web.sent import TUNING

from aldea.web.registry import BENCHES
from benchmarks.figures import report
from benchmarks.serving import H, Server, demo_server

EVERY_S = 30.0
SPANS_H = (6, 24, 48, 168, 720)
PRINTS = ("/wire/door-sheet.pdf", "/wire/electrician.pdf", "/words")
# The first quarter fills what is kept between pages; from then on nothing may be added.
WARM = 0.25
MOST_GROWTH_PCT = 5.0


def views() -> list[str]:
    """Every view of the registry that stands in the house, and what is printed."""
    own = [view for bench in BENCHES for view in bench.views if not view.startswith("//")]
    return [H + view for view in (*own, *PRINTS)]


def look(server: Server, name: str, seed: int, until: float) -> None:
    """One person who looks at everything in any order, and drags a mark now and then."""
    chance = random.Random(seed)
    with closing(server.signed_in(name)) as client:
        while time.monotonic() < until:
            path = chance.choice(views())
            ask = "&" if "?" in path else "?"
            client.get(f"{path}{ask}hours={chance.choice(SPANS_H)}").raise_for_status()
            if chance.random() < 0.2:
                drag(client, chance)


def drag(client: Client, chance: random.Random) -> None:
    """Marks that nobody tried yet."""
    marks = {"on": f"{chance.uniform(58, 70):.2f}", "off": f"{chance.uniform(45, 57):.2f}"}
    client.post(f"{H}/tune/dehumidifier/answer", data={**TUNING, **marks}).raise_for_status()


def soak(minutes: float) -> None:
    """Print the memory every half minute; the last half against the second quarter."""
    with demo_server() as server:
        began = time.monotonic()
        until = began + 60 * minutes
        people = [
            threading.Thread(target=look, args=(server, name, seed, until), daemon=True)
            for seed, name in enumerate(("jon", "ines", "guest"))
        ]
        for person in people:
            person.start()
        levels: list[tuple[float, float]] = []
        while time.monotonic() < until:
            time.sleep(min(EVERY_S, 6 * minutes))
            levels.append((time.monotonic() - began, server.resident_mb))
            print(f"      {levels[-1][0] / 60:5.1f} min {levels[-1][1]:6.1f} MB", flush=True)
        for person in people:
            person.join()
    warm = [mb for t_s, mb in levels if WARM * 60 * minutes <= t_s < 30 * minutes]
    late = [mb for t_s, mb in levels if t_s >= 30 * minutes]
    report("memory at its highest, MB", max(mb for _, mb in levels), at_most=350)
    growth_pct = 100 * (max(late) / max(warm) - 1)
    report("growth in the second half, %", growth_pct, at_most=MOST_GROWTH_PCT)


if __name__ == "__main__":
    soak(float(sys.argv[1]))
