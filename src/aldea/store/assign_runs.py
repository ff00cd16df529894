"""Runs that give pins to a whole house: how far each is, and what came of it."""

from dataclasses import dataclass, replace
from typing import Any, Literal

from pydantic import TypeAdapter
from sqlalchemy import Connection, Row, insert, select, update

from aldea.core.base.errors import ConflictError, NotFoundError
from aldea.core.wiring.assign import Assigned
from aldea.store import tables as t
from aldea.store.accounts import Account

State = Literal["working", "done", "refused", "stopped"]
CONFLICT = TypeAdapter(Assigned)


@dataclass(frozen=True, slots=True, kw_only=True)
class AssignRun:
    """One dealing of pins; `conflict` and `refusal` say why there were none."""

    id: int
    house_id: int
    account_id: int
    version_read: int
    redeal: bool
    state: State
    doing: str
    done_share: float
    conflict: Assigned | None
    refusal: str
    at_ms: int


def begin_assigning(
    connection: Connection,
    house_id: int,
    *,
    by: Account,
    version_read: int,
    redeal: bool,
    at_ms: int,
) -> int:
    """Write down that pins are wanted; returns the run's number.

    Raises `ConflictError` where a run of this house is under way.
    """
    if working_run(connection, house_id) is not None:
        raise ConflictError(
            "pins",
            got="a second wish to assign them",
            allowed="one at a time",
            text="Pins are being assigned in this house. Wait for the result, or stop it.",
        )
    number: int = connection.execute(
        insert(t.assign_run)
        .values(
            house_id=house_id,
            account_id=by.id,
            version_read=version_read,
            redeal=redeal,
            state="working",
            at_ms=at_ms,
        )
        .returning(t.assign_run.c.id)
    ).scalar_one()
    return number


def find_assigning(connection: Connection, run_id: int, house_id: int | None = None) -> AssignRun:
    """One run; only of that house where one is given."""
    query = select(t.assign_run).where(t.assign_run.c.id == run_id)
    if house_id is not None:
        query = query.where(t.assign_run.c.house_id == house_id)
    row = connection.execute(query).one_or_none()
    if row is None:
        raise NotFoundError("assigning", got=str(run_id), allowed="one of this house")
    return _from_row(row)


def working_run(connection: Connection, house_id: int) -> AssignRun | None:
    """The run of a house that is under way, or waits for its turn."""
    row = connection.execute(
        select(t.assign_run).where(
            t.assign_run.c.house_id == house_id, t.assign_run.c.state == "working"
        )
    ).one_or_none()
    return _from_row(row) if row else None


def assigning_under_way(connection: Connection) -> list[int]:
    """Runs of all houses that are under way, or wait for their turn."""
    return list(
        connection.scalars(select(t.assign_run.c.id).where(t.assign_run.c.state == "working"))
    )


def tell_assigning(connection: Connection, run_id: int, doing: str, share: float) -> bool:
    """Write the progress; returns whether somebody wants it stopped."""
    return bool(
        connection.execute(
            update(t.assign_run)
            .where(t.assign_run.c.id == run_id)
            .values(doing=doing[:200], done_share=share)
            .returning(t.assign_run.c.wanted_stop)
        ).scalar_one()
    )


def want_assigning_stopped(connection: Connection, run_id: int) -> None:
    """Ask a run to stop at its next step."""
    connection.execute(
        update(t.assign_run).where(t.assign_run.c.id == run_id).values(wanted_stop=True)
    )


def end_assigning(
    connection: Connection,
    run_id: int,
    state: State,
    *,
    refusal: str = "",
    conflict: Assigned | None = None,
) -> None:
    """End a run that is under way, with what came of it; one that ended stays as it is."""
    quarrel = CONFLICT.dump_json(replace(conflict, assignments=())) if conflict else None
    connection.execute(
        update(t.assign_run)
        .where(t.assign_run.c.id == run_id, t.assign_run.c.state == "working")
        .values(state=state, refusal=refusal, conflict=quarrel and quarrel.decode())
    )


def _from_row(row: Row[Any]) -> AssignRun:
    return AssignRun(
        id=row.id,
        house_id=row.house_id,
        account_id=row.account_id,
        version_read=row.version_read,
        redeal=row.redeal,
        state=row.state,
        doing=row.doing,
        done_share=row.done_share,
        conflict=CONFLICT.validate_json(row.conflict) if row.conflict else None,
        refusal=row.refusal,
        at_ms=row.at_ms,
    )
