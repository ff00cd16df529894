"""A cluster of one's own: used by several, stopped by the last, begun again where it broke."""

import os
import shutil
import signal
import socket

import pytest

from aldea.core.base.errors import SetUpError
from aldea.store.cluster import Cluster, port_is_free
from aldea.store.database import Database, ensure_database


@pytest.fixture
def folder(cluster):
    """A folder that the server's user can reach, beside the cluster of the tests."""
    made = cluster.folder.parent / f"own-{os.getpid()}"
    yield made
    Cluster(made).remove()


def kept(cluster: Cluster) -> list[str]:
    """What is kept in the database of a cluster, one row more each time."""
    ensure_database(cluster.url())
    database = Database(cluster.url(), pool_size=1)
    with database.begin() as connection:
        connection.exec_driver_sql("CREATE TABLE IF NOT EXISTS kept (word text)")
        connection.exec_driver_sql("INSERT INTO kept VALUES ('one more')")
        words = [row[0] for row in connection.exec_driver_sql("SELECT word FROM kept")]
    database.close()
    return words


def test_the_last_of_two_stops_it_and_what_was_kept_is_there_again(folder):
    running = folder / "data/postmaster.pid"
    (folder / "data.tmp").mkdir(parents=True)
    (folder / "data.tmp/half").write_text("left by one that was killed while it was made")
    one, two = Cluster(folder), Cluster(folder)
    with one.used():
        assert len(kept(one)) == 1
        with two.used():
            assert len(kept(two)) == 2
        assert running.exists(), "the first one still uses it"
        assert len(kept(one)) == 3
    assert not running.exists()
    assert port_is_free(one.port)
    assert (folder / "cluster.json").stat().st_mode & 0o077 == 0, "its password is nobody's else"

    # Somebody else took its port meanwhile: it takes another.
    before = one.port
    with socket.socket() as other:
        other.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)  # its last answers linger
        other.bind(("127.0.0.1", before))
        other.listen()
        with two.used():
            assert two.port != before
            assert len(kept(two)) == 4
            # Killed, it is begun again by whoever comes next.
            os.kill(int(running.read_text().splitlines()[0]), signal.SIGKILL)
            one.start()
            assert one.url() == two.url()
            assert kept(one)


def test_a_folder_that_the_server_may_not_pass_through_is_said_with_the_fix(cluster):
    if os.geteuid() != 0:
        pytest.skip("only root runs the server as somebody else")
    closed = cluster.folder.parent / f"closed-{os.getpid()}"
    closed.mkdir(mode=0o700)
    try:
        with pytest.raises(SetUpError, match=f"chmod o\\+x {closed}"):
            Cluster(closed / "cluster").start()
    finally:
        shutil.rmtree(closed)
