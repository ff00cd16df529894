"""The queue of long work, kept in the database itself."""

import asyncio
import json
import time
from pathlib import Path

import procrastinate
from sqlalchemy import Connection, text

from aldea.store.database import Database
from aldea.store.run_locks import Work

CHECK_LOG = "check_log"
STORE_LOG = "store_log"
TAKE_BACK_LOG = "take_back_log"
ASSIGN_PINS = "assign_pins"
LOGS, PINS = "default", "pins"
QUEUES = {CHECK_LOG: LOGS, STORE_LOG: LOGS, TAKE_BACK_LOG: LOGS, ASSIGN_PINS: PINS}
TASKS: dict[Work, list[str]] = {
    "import": [CHECK_LOG, STORE_LOG, TAKE_BACK_LOG],
    "assign": [ASSIGN_PINS],
}
ADD = text(
    "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW(:queue, :task, 0, NULL, NULL, "
    "CAST(:args AS jsonb), NULL)::procrastinate_job_to_defer_v1])"
)
REMOVE = text(
    "DELETE FROM procrastinate_jobs WHERE task_name = ANY(:tasks) AND args ->> 'run_id' = :run"
)
REMOVE_OLD = text(
    "DELETE FROM procrastinate_jobs AS job WHERE job.status <> 'todo' AND NOT EXISTS ("
    "SELECT 1 FROM procrastinate_workers AS worker WHERE worker.id = job.worker_id "
    "AND worker.last_heartbeat > now() - interval '1 minute')"
)
WAITS = text(
    "SELECT EXISTS (SELECT 1 FROM procrastinate_jobs WHERE status = 'todo' "
    "AND task_name = ANY(:tasks) AND args ->> 'run_id' = :run)"
)


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

    @queue.task(name=TAKE_BACK_LOG)
    def take_back_log(run_id: int) -> None:
        from aldea.jobs.import_log import take_back_import  # noqa: PLC0415

        take_back_import(database, run_id, time.time_ns() // 1_000_000)

    @queue.task(name=ASSIGN_PINS)
    def assign(run_id: int) -> None:
        from aldea.jobs.assign_pins import assign_house  # noqa: PLC0415

        assign_house(database, run_id)

    return queue


def defer(connection: Connection, task: str, run_id: int) -> None:
    """Put a piece of work into the queue, in the transaction that says it is to be done."""
    connection.execute(
        ADD, {"queue": QUEUES[task], "task": task, "args": json.dumps({"run_id": run_id})}
    )


def waits(connection: Connection, work: Work, run_id: int) -> bool:
    """Whether work for a run is in the queue and nobody has begun it."""
    return bool(connection.scalar(WAITS, {"tasks": TASKS[work], "run": str(run_id)}))


def forget(connection: Connection, work: Work, run_id: int) -> None:
    """Take whatever is in the queue for a run out of it."""
    connection.execute(REMOVE, {"tasks": TASKS[work], "run": str(run_id)})


def forget_old(connection: Connection) -> None:
    """Take out what was begun by a worker that is gone."""
    connection.execute(REMOVE_OLD)


async def run_queue(queue: procrastinate.App) -> None:
    """Work until cancelled: logs one after the other, and pins beside them."""
    await asyncio.gather(*(_worked(queue, name) for name in (LOGS, PINS)))


async def _worked(queue: procrastinate.App, name: str) -> None:
    await queue.run_worker_async(
        queues=[name],
        concurrency=1,
        install_signal_handlers=False,
        delete_jobs="always",
        fetch_job_polling_interval=2,
    )
