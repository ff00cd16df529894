"""The real server on a port of loopback, in a thread of the test's process."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import uvicorn

from aldea.store.cluster import free_port
from aldea.store.database import Database
from aldea.web.app import create_app


@contextmanager
def served(database: Database, uploads: Path) -> Iterator[str]:
    """Serve until the block ends; gives the address."""
    app = create_app(database, uploads)
    port = free_port()
    config = uvicorn.Config(
        app, host="127.0.0.1", port=port, log_level="error", timeout_graceful_shutdown=2
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        assert thread.is_alive(), "the server did not start"
        time.sleep(0.02)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join(10)
