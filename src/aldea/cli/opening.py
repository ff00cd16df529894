"""The database that a command works on: opened, brought up to date, left as it was found."""

import contextlib
from collections.abc import Iterator
from contextlib import contextmanager

from aldea.store.cluster import Cluster
from aldea.store.database import Database, ensure_database
from aldea.store.settings import Place


@contextmanager
def open_database(place: Place) -> Iterator[Database]:
    """The database of a place; its private cluster runs as long as anybody uses it."""
    with contextlib.ExitStack() as stack:
        url = place.database_url
        if place.cluster is not None:
            cluster = Cluster(place.cluster)
            stack.enter_context(cluster.used())
            url = cluster.url()
            ensure_database(url)
        database = Database(url)
        stack.callback(database.close)
        database.check_server()
        database.migrate()
        yield database
