"""Serving: database first, then the demo house, then the pages; stopped in the other order."""

import asyncio
import fcntl
import ipaddress
import os
import signal
import sys
import time
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Any

import uvicorn
from fastapi import FastAPI
from sqlalchemy import func, select

from aldea.cli.opening import open_database
from aldea.cli.packages import ensure_compiler, ensure_printing
from aldea.core.base.errors import SetUpError
from aldea.demo.sign_ins import PASSWORD, SIGN_INS, holds_demo_accounts, is_loaded
from aldea.jobs.queue import make_queue, run_queue
from aldea.native.engine import load_engine
from aldea.store import tables as t
from aldea.store.cluster import Cluster, port_is_free
from aldea.store.database import Database
from aldea.store.settings import Settings
from aldea.web.app import create_app

LOOPBACK = "127.0.0.1"
DEMO_FLAG = "ALDEA_SERVES_DEMO"  # tells the processes of a server which place is theirs


@dataclass(frozen=True, slots=True, kw_only=True)
class Listening:
    """Where and how a server listens; `proxies` are believed when they say who asks."""

    host: str = LOOPBACK
    port: int = 8080
    proxies: tuple[str, ...] = ()
    certificate: Path | None = None
    key: Path | None = None
    workers: int = 1

    @property
    def url(self) -> str:
        """The address to open."""
        host = f"[{self.host}]" if ":" in self.host else self.host
        return f"{'https' if self.certificate else 'http'}://{host}:{self.port}"

    def check(self) -> None:
        """Raise `SetUpError` for a place to listen at that is taken, or open to be read."""
        for path in (self.certificate, self.key):
            if path is not None and not path.is_file():
                raise SetUpError(str(path), got="no file", allowed="a PEM file of yours")
        if (self.certificate is None) != (self.key is None):
            raise SetUpError(
                "TLS", got="one of certificate and key", allowed="both, --tls-cert and --tls-key"
            )
        for proxy in self.proxies:
            _address(proxy, "--proxy")
        away = not _address(self.host, "--host").is_loopback
        if away and not self.certificate and not self.proxies:
            raise SetUpError(
                f"address {self.host}",
                got="an address that others reach, without TLS",
                allowed="passwords that nobody on the way can read",
                fix="Give --tls-cert and --tls-key, or name the TLS proxy before it with --proxy.",
            )
        if not port_is_free(self.port, self.host):
            raise SetUpError(
                f"port {self.port}",
                got="a port that another program listens on",
                allowed="a free port",
                fix=f"Stop that program, or choose another: --port {self.port + 1}",
            )


def _address(text: str, option: str) -> ipaddress.IPv4Address | ipaddress.IPv6Address:
    try:
        return ipaddress.ip_address(text)
    except ValueError:
        raise SetUpError(
            option, got=repr(text), allowed="an address such as 127.0.0.1 or 192.168.1.10"
        ) from None


def _raise_interrupt(_signal: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def serve(listening: Listening, *, with_demo: bool) -> None:
    """Serve until Ctrl-C or SIGTERM."""
    began = time.monotonic()
    listening.check()
    place = Settings().place(demo=with_demo)
    signal.signal(signal.SIGTERM, _raise_interrupt)
    ensure_printing()
    try:
        with engine_made() as engine, open_database(place) as database:
            engine.result()
            if with_demo and not is_loaded(database):
                from aldea.demo.load import load_demo

                print("aldea: loading thirty recorded days of Molino Alto …")
                load_demo(database)
            if not with_demo:
                _check_no_demo(database)
            print(f"aldea: ready in {time.monotonic() - began:.1f} s", file=sys.stderr)
            print(f"\n  Aldea is at {listening.url}\n")
            if with_demo:
                for name, role in SIGN_INS:
                    print(f"  sign in as {name:<6} password {PASSWORD}   ({role})")
            elif not count_accounts(database):
                print("  nobody can sign in yet: ./aldea account NAME makes the first account")
            print("\n  Ctrl-C stops it.", flush=True)
            _run(listening, database, place.uploads, with_demo=with_demo)
    except KeyboardInterrupt:
        pass
    print("aldea: stopped")


@contextmanager
def engine_made() -> Iterator[Future[None]]:
    """The engine, compiled where it is not yet while the database is opened beside it."""
    ensure_compiler()
    with ThreadPoolExecutor(1) as pool:
        yield pool.submit(load_engine, Settings().engine)


def _run(listening: Listening, database: Database, uploads: Path, *, with_demo: bool) -> None:
    several = listening.workers > 1
    os.environ[DEMO_FLAG] = "1" if with_demo else ""
    options: dict[str, Any] = {"factory": True, "workers": listening.workers} if several else {}
    uvicorn.run(
        "aldea.cli.serving:app_of_a_process" if several else create_app(database, uploads),
        host=listening.host,
        port=listening.port,
        log_level="warning",
        timeout_graceful_shutdown=3,
        # Who asks is what the connection says, unless a proxy was named.
        proxy_headers=bool(listening.proxies),
        forwarded_allow_ips=list(listening.proxies) or None,
        ssl_certfile=listening.certificate,
        ssl_keyfile=listening.key,
        **options,
    )


def app_of_a_process() -> FastAPI:
    """The application in one of several processes: all they share is the database."""
    place = Settings().place(demo=bool(os.environ.get(DEMO_FLAG)))
    url = place.database_url
    load_engine(Settings().engine)
    if place.cluster is not None:
        users = (place.cluster / "users.lock").open("a")
        fcntl.flock(users, fcntl.LOCK_SH)
        _held.append(users)  # as long as the process lives
        url = Cluster(place.cluster).url()
    return create_app(Database(url), place.uploads)


_held: list[Any] = []


def count_accounts(database: Database) -> int:
    """How many people can sign in."""
    with database.begin() as connection:
        return int(connection.scalar(select(func.count()).select_from(t.account)) or 0)


def _check_no_demo(database: Database) -> None:
    if holds_demo_accounts(database):
        raise SetUpError(
            "database",
            got="one that holds the demo's sign-ins, whose password anybody can read",
            allowed="a database of your own houses alone",
            fix="Serve the demo with ./aldea demo, or give ALDEA_DATABASE_URL another database.",
        )


def work_queue(*, demo: bool) -> None:
    """Work the queue until Ctrl-C or SIGTERM."""
    place = Settings().place(demo=demo)
    signal.signal(signal.SIGTERM, _raise_interrupt)

    async def run(database: Database) -> None:
        queue = make_queue(database, place.uploads)
        async with queue.open_async():
            print("aldea: working on the queue; Ctrl-C stops it.", flush=True)
            await run_queue(queue)

    try:
        with engine_made() as engine, open_database(place) as database:
            engine.result()
            asyncio.run(run(database))
    except KeyboardInterrupt:
        print("aldea: stopped")
