"""The database that a command works on: opened, brought up to date, left as it was found."""

from collections.abc import Iterator
from contextlib import contextmanager

from aldea.store.cluster import Cluster
from aldea.store.database import Database, ensure_database
from aldea.store.settings import Settings


@contextmanager
def open_database(settings: Settings, *, leave_running: bool = True) -> Iterator[Database]:
    """The database of the address, or of the private cluster, started where it does not run.

    After it the cluster is stopped if it was started here; with `leave_running` false, always.
    """
    cluster: Cluster | None = None
    url = settings.database_url
    if not url:
        cluster = Cluster(settings.state / "cluster")
        cluster.start()
        url = cluster.url()
        ensure_database(url)
    database = Database(url)
    try:
        database.check_server()
        database.migrate()
        yield database
    finally:
        database.close()
        if cluster is not None and (cluster.started_here or not leave_running):
            cluster.stop()
