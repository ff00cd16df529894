"""The queue of long work, kept in the database itself."""

import time
from pathlib import Path

import procrastinate

from aldea.store.database import Database

CHECK_LOG = "check_log"
STORE_LOG = "store_log"


def make_queue(database: Database, uploads: Path) -> procrastinate.App:
    """The queue with its tasks bound to a database and the folder of uploads."""
    queue = procrastinate.App(
        connector=procrastinate.PsycopgConnector(conninfo=database.conninfo, min_size=1, max_size=4)
    )

    @queue.task(name=CHECK_LOG)
    def check_log(run_id: int) -> None:
        # What reads logs is loaded with the first of them: a start need not wait for it.
        from aldea.jobs.import_log import check_import  # noqa: PLC0415

        check_import(database, uploads, run_id)

    @queue.task(name=STORE_LOG)
    def store_log(run_id: int) -> None:
        from aldea.jobs.import_log import store_import  # noqa: PLC0415

        store_import(database, uploads, run_id, time.time_ns() // 1_000_000)

    return queue


async def defer(queue: procrastinate.App, task: str, run_id: int) -> None:
    """Put a piece of work into the queue."""
    await queue.configure_task(task).defer_async(run_id=run_id)


async def work(queue: procrastinate.App) -> None:
    """Work until cancelled."""
    await queue.run_worker_async(
        concurrency=1,
        install_signal_handlers=False,
        delete_jobs="always",
        fetch_job_polling_interval=2,
    )
