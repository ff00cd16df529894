"""Who is at a piece of long work: a lock that ends with the process that holds it."""

from typing import Literal

from sqlalchemy import Connection, func, select

Work = Literal["import", "assign"]
LOCKS: dict[Work, int] = {"import": 715520, "assign": 715525}
SWEEPING = 715524


def lock_run(connection: Connection, work: Work, run_id: int) -> bool:
    """Hold a run until the transaction ends; False where another holds it: somebody is at it."""
    lock = func.pg_try_advisory_xact_lock(LOCKS[work], run_id % 2**31)
    return bool(connection.scalar(select(lock)))


def lock_sweeping(connection: Connection) -> bool:
    """Sweep until the transaction ends; False where another server does."""
    return bool(connection.scalar(select(func.pg_try_advisory_xact_lock(SWEEPING))))
