"""A demo server in a process of its own, and a builder signed in to it, for what is measured."""

import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

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
    started_s: float  # until it answered

    @property
    def database(self) -> Database:
        """Its database, by a connection of one's own."""
        return Database(Cluster(self.folder / ".aldea/cluster").url())

    @property
    def processor_s(self) -> float:
        """Processor time of the process that answers, since its start."""
        spent = self.process.cpu_times()
        return float(spent.user + spent.system)

    @property
    def resident_mb(self) -> float:
        """Memory of the process that answers."""
        return float(self.process.memory_info().rss) / 1e6

    def signed_in(self, name: str = "jon") -> Client:
        """Somebody of the demo house, whose changes are believed."""
        client = Client(base_url=self.base, timeout=300, follow_redirects=False)
        signed_in(client, name)
        return client


def signed_in(client: Client, name: str) -> None:
    """Sign somebody in, whose changes are believed from then on."""
    token = re.findall(r'form_token" value="([^"]+)"', client.get("/sign-in").text)[0]
    client.post("/sign-in", data={"name": name, "password": PASSWORD, "form_token": token})
    page = client.get("/account").text
    client.headers["x-form-token"] = re.findall(r'form_token" value="([^"]+)"', page)[0]


@contextmanager
def demo_server(*options: str) -> Iterator[Server]:
    """Serve the demo house from an empty folder until the block ends."""
    folder = Path(tempfile.mkdtemp(prefix="aldea-bench-"))
    folder.chmod(0o755)
    try:
        with serving(folder, *options) as server:
            yield server
    finally:
        shutil.rmtree(folder, ignore_errors=True)


@contextmanager
def serving(folder: Path, *options: str) -> Iterator[Server]:
    """Serve the demo house from a folder until the block ends."""
    port = free_port()
    base = f"http://127.0.0.1:{port}"
    began = time.perf_counter()
    started = subprocess.Popen(
        [sys.executable, "-m", "aldea.cli.main", "demo", "--port", str(port), *options],
        env={**os.environ, **ALLOCATING, "ALDEA_HOME": str(folder)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        for _ in range(1200):
            try:
                urllib.request.urlopen(f"{base}/sign-in", timeout=1)
                break
            except OSError:
                time.sleep(0.05)
        spent_s = time.perf_counter() - began
        yield Server(
            base=base, folder=folder, process=psutil.Process(started.pid), started_s=spent_s
        )
    finally:
        started.terminate()
        started.wait(30)
