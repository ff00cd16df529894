"""A demo server in a process of its own, and a builder signed in to it, for what is measured."""

import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import psutil
from httpx import Client

from aldea.demo.sign_ins import PASSWORD
from aldea.store.cluster import Cluster, free_port
from aldea.store.database import Database

H = "/h/molino-alto"
# As the start script sets them.
ALLOCATING = {
    "MALLOC_ARENA_MAX": "2",
    "MALLOC_MMAP_THRESHOLD_": "1048576",
    "POLARS_MAX_THREADS": "2",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Server:
    """A server that is measured: its address, its folder, its processes."""

    base: str
    folder: Path
    process: psutil.Process

    @property
    def database(self) -> Database:
        """Its database, by a connection of one's own."""
        return Database(Cluster(self.folder / ".aldea/cluster").url())

    @property
    def resident_mb(self) -> float:
        """Memory of the process that answers."""
        return float(self.process.memory_info().rss) / 1e6

    def signed_in(self, name: str = "jon") -> Client:
        """Somebody of the demo house, whose changes are believed."""
        client = Client(base_url=self.base, timeout=300, follow_redirects=False)
        token = re.findall(r'form_token" value="([^"]+)"', client.get("/sign-in").text)[0]
        client.post("/sign-in", data={"name": name, "password": PASSWORD, "form_token": token})
        while client.get(f"{H}/tune/dehumidifier").status_code == 503:
            time.sleep(0.2)
        page = client.get(H).text
        client.headers["x-form-token"] = re.findall(r'form_token" value="([^"]+)"', page)[0]
        return client


@contextmanager
def demo_server(*options: str) -> Iterator[Server]:
    """Serve the demo house from an empty folder until the block ends."""
    folder = Path(tempfile.mkdtemp(prefix="aldea-bench-"))
    folder.chmod(0o755)
    port = free_port()
    base = f"http://127.0.0.1:{port}"
    started = subprocess.Popen(
        [sys.executable, "-m", "aldea.cli.main", "demo", "--port", str(port), *options],
        env={**os.environ, **ALLOCATING, "ALDEA_HOME": str(folder)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{base}/sign-in", timeout=1)
                break
            except OSError:
                time.sleep(0.1)
        yield Server(base=base, folder=folder, process=psutil.Process(started.pid))
    finally:
        started.terminate()
        started.wait(30)
        shutil.rmtree(folder, ignore_errors=True)


def p95_ms(work: Callable[[int], object], times: int) -> float:
    """The time that 95 of a hundred runs do not exceed."""
    spent = []
    for i in range(times):
        began = time.perf_counter()
        work(i)
        spent.append((time.perf_counter() - began) * 1000)
    return float(np.percentile(spent, 95))
