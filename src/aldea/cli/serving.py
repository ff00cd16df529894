"""Serving: database first, then the demo house, then the pages; stopped in the other order."""

import asyncio
import signal
import sys
import time
from types import FrameType

import uvicorn

from aldea.cli.opening import open_database
from aldea.cli.packages import ensure_printing
from aldea.core.base.errors import SetUpError
from aldea.demo.load import PASSWORD, SIGN_INS, is_loaded, load_demo
from aldea.jobs.queue import make_queue, work
from aldea.store.cluster import port_is_free
from aldea.store.database import Database
from aldea.store.settings import Settings
from aldea.web.app import create_app

HOST = "127.0.0.1"


def _raise_interrupt(_signal: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def serve(*, port: int, with_demo: bool) -> None:
    """Serve until Ctrl-C or SIGTERM."""
    began = time.monotonic()
    settings = Settings()
    if not port_is_free(port):
        raise SetUpError(
            f"port {port}",
            got="a port that another program listens on",
            allowed="a free port",
            mend=f"Stop that program, or choose another: ./aldea demo --port {port + 1}",
        )
    signal.signal(signal.SIGTERM, _raise_interrupt)
    ensure_printing()
    try:
        # A server that a killed start left behind is taken over, and stopped with us.
        with open_database(settings, leave_running=False) as database:
            if with_demo and not is_loaded(database):
                print("aldea: loading thirty recorded days of Molino Alto …")
                load_demo(database)
            print(f"aldea: ready in {time.monotonic() - began:.1f} s", file=sys.stderr)
            print(f"\n  Aldea is at http://{HOST}:{port}\n")
            if with_demo:
                for name, role in SIGN_INS:
                    print(f"  sign in as {name:<6} password {PASSWORD}   ({role})")
            print("\n  Ctrl-C stops it.", flush=True)
            uvicorn.run(
                create_app(database, settings.uploads),
                host=HOST,
                port=port,
                log_level="warning",
                timeout_graceful_shutdown=3,
            )
    except KeyboardInterrupt:
        pass
    print("aldea: stopped")


def work_queue() -> None:
    """Work the queue until Ctrl-C or SIGTERM."""
    settings = Settings()
    signal.signal(signal.SIGTERM, _raise_interrupt)

    async def run(database: Database) -> None:
        queue = make_queue(database, settings.uploads)
        async with queue.open_async():
            print("aldea: working the queue; Ctrl-C stops it.", flush=True)
            await work(queue)

    try:
        with open_database(settings) as database:
            asyncio.run(run(database))
    except KeyboardInterrupt:
        print("aldea: stopped")
