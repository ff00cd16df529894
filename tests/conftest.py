"""What all tests share: a throw-away cluster, a database of one's own, the demo house."""

import fcntl
import os
import shutil
import tempfile
from collections.abc import Generator, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from coverage import Coverage
from hypothesis import settings
from tests.serving import served

from aldea.demo.load import load_demo
from aldea.native.engine import load_engine
from aldea.store.cluster import Cluster
from aldea.store.database import Database, ensure_database
from aldea.store.settings import Settings

WEB = Path(__file__).parent / "web"

# No check here is timed: a first example may have to load what the others find loaded.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


def pytest_sessionstart() -> None:
    """Every run is scanned by the compiled engine, where a test asks for nothing else."""
    load_engine(Settings().engine)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Generator[None, object, object]:
    """Nobody watches which branches are taken where a test goes the ways of others once more.

    Watching takes its time, also of all that is not watched. Pages go through core and store as
    their own tests do, but for the modules that are marked `watched`.
    """
    again = any(item.get_closest_marker(name) for name in ("browser", "repeats"))
    again |= WEB in item.path.parents and not item.get_closest_marker("watched")
    watching = Coverage.current() if again else None
    if watching is None:
        return (yield)
    watching.stop()
    try:
        return (yield)
    finally:
        watching.start()


def _folder() -> Path:
    """One folder for a run, also where several workers share it; in memory where there is room."""
    run = os.environ.get("PYTEST_XDIST_TESTRUNUID") or f"alone-{os.getpid()}"
    base = Path("/dev/shm")
    roomy = base.is_dir() and shutil.disk_usage(base).free > 1_500_000_000
    root = base if roomy else Path(tempfile.gettempdir())
    for known in (base, Path(tempfile.gettempdir())):
        if (known / f"aldea-test-{run}").is_dir():
            root = known  # chosen by the worker that came first
    folder = root / f"aldea-test-{run}"
    folder.mkdir(mode=0o755, exist_ok=True)
    folder.chmod(0o755)
    return folder


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """One server for the whole run, whoever needs it first; the last of the workers ends it."""
    folder = _folder()
    made = Cluster(folder / "cluster", throw_away=True)
    with made.used():
        yield made
    if not (made.data / "postmaster.pid").exists():
        shutil.rmtree(folder, ignore_errors=True)


def _template(cluster: Cluster, name: str, *, with_days: bool) -> str:
    """A database that holds the demo house; tests get copies of it. The first worker makes it."""
    with (cluster.folder / f"{name}.lock").open("a") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        made = cluster.folder / f"{name}.made"
        if not made.exists():
            url = cluster.url(name)
            ensure_database(url)
            database = Database(url)
            database.migrate()
            load_demo(database, with_days=with_days)
            database.close()
            made.touch()
    return name


@pytest.fixture(scope="session")
def demo_template(cluster: Cluster) -> str:
    """The demo house with its thirty recorded days: 85 MB."""
    return _template(cluster, "demo_template", with_days=True)


@pytest.fixture(scope="session")
def bare_template(cluster: Cluster) -> str:
    """The demo house before anything was recorded: 10 MB."""
    return _template(cluster, "bare_template", with_days=False)


@contextmanager
def _copied(cluster: Cluster, template: str, name: str) -> Iterator[Database]:
    """A copy of a database, as long as it is used.

    Its files are copied instead of written to the log; what nobody uses any more goes at once: the
    clusters of a whole run stand in memory, and a copy of the demo house is 85 MB of it.
    """
    admin = Database(cluster.url("postgres"), pool_size=1)
    engine = admin.engine.execution_options(isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.exec_driver_sql(
            f'CREATE DATABASE "{name}" TEMPLATE "{template}" STRATEGY file_copy'
        )
    made = Database(cluster.url(name))
    try:
        yield made
    finally:
        made.close()
        with engine.connect() as connection:
            connection.exec_driver_sql(f'DROP DATABASE "{name}" WITH (FORCE)')
        admin.close()


@pytest.fixture
def database(
    cluster: Cluster, bare_template: str, request: pytest.FixtureRequest
) -> Iterator[Database]:
    """A fresh copy of the demo house, without its recorded days, for one test."""
    name = f"t{abs(hash(request.node.nodeid)) % 10**12}_{os.getpid()}"
    with _copied(cluster, bare_template, name) as made:
        yield made


@pytest.fixture
def demo_database(
    cluster: Cluster, demo_template: str, request: pytest.FixtureRequest
) -> Iterator[Database]:
    """The same with its thirty recorded days."""
    name = f"d{abs(hash(request.node.nodeid)) % 10**12}_{os.getpid()}"
    with _copied(cluster, demo_template, name) as made:
        yield made


@pytest.fixture(scope="session")
def read_database(cluster: Cluster, demo_template: str) -> Iterator[Database]:
    """The demo house of all modules of a worker that are marked `reads`."""
    with _copied(cluster, demo_template, f"r{os.getpid()}") as made:
        yield made


@pytest.fixture(scope="module")
def module_database(
    cluster: Cluster, demo_template: str, request: pytest.FixtureRequest
) -> Iterator[Database]:
    """A fresh copy of the demo house for one module, whose tests only read or add up."""
    if request.node.get_closest_marker("reads"):
        yield request.getfixturevalue("read_database")
        return
    name = f"m{abs(hash(request.node.nodeid)) % 10**12}_{os.getpid()}"
    with _copied(cluster, demo_template, name) as made:
        yield made


@pytest.fixture(scope="session")
def read_base(read_database: Database, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of the one server of a worker for all modules that are marked `reads`."""
    with served(read_database, tmp_path_factory.mktemp("uploads")) as address:
        yield address


@pytest.fixture(scope="module")
def base(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of a server with the demo house; of its own, unless the module only reads."""
    if request.node.get_closest_marker("reads"):
        yield request.getfixturevalue("read_base")
        return
    database = request.getfixturevalue("module_database")
    with served(database, tmp_path_factory.mktemp("uploads")) as address:
        yield address
