"""Runs of importing a reading log: chosen, checked, stored."""

import json
from dataclasses import asdict, dataclass
from typing import Any, Literal

from sqlalchemy import Connection, Row, insert, select, update

from aldea.core.base.errors import ConflictError, NotFoundError
from aldea.formats.log_options import LogOptions
from aldea.formats.log_report import LogReport
from aldea.store import tables as t
from aldea.store.accounts import Account

State = Literal[
    "chosen", "checking", "checked", "storing", "stored", "refused", "stopped", "withdrawing",
    "withdrawn",
]  # fmt: skip
THROWN_AWAY = "The import was not continued and its upload was deleted. Choose the file again."
INTERRUPTED = "Aldea was stopped meanwhile; nothing was changed. Start it again."
MAY_CHOOSE: tuple[State, ...] = ("chosen", "checked", "refused", "stopped")


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportRun:
    """One upload on its way into the readings."""

    id: int
    house_id: int
    account_id: int
    probe: str
    file_name: str
    size_bytes: int
    options: LogOptions
    state: State
    done_share: float
    report: LogReport | None
    known_before: int
    stored: int
    refusal: str | None
    wanted_stop: bool
    created_ms: int
    upload_of: int | None = None


def begin_import(
    connection: Connection,
    house_id: int,
    *,
    by: Account,
    probe: str,
    file_name: str,
    size_bytes: int,
    options: LogOptions,
    at_ms: int,
    upload_of: int | None = None,
) -> int:
    """Write an upload down; returns its number. Of another column of one file, say `upload_of`."""
    number: int = connection.execute(
        insert(t.import_run)
        .values(
            house_id=house_id,
            account_id=by.id,
            probe=probe,
            file_name=file_name,
            size_bytes=size_bytes,
            options=json.dumps(asdict(options)),
            state="chosen",
            created_ms=at_ms,
            upload_of=upload_of,
        )
        .returning(t.import_run.c.id)
    ).scalar_one()
    return number


def find_import(connection: Connection, run_id: int, house_id: int | None = None) -> ImportRun:
    """One run; only of that house where one is given."""
    query = select(t.import_run).where(t.import_run.c.id == run_id)
    if house_id is not None:
        query = query.where(t.import_run.c.house_id == house_id)
    row = connection.execute(query).one_or_none()
    if row is None:
        raise NotFoundError("import", got=str(run_id), allowed="an import of this house")
    return _from_row(row)


def imports_of(connection: Connection, house_id: int, most: int = 8) -> list[ImportRun]:
    """The newest runs of a house."""
    rows = connection.execute(
        select(t.import_run)
        .where(t.import_run.c.house_id == house_id)
        .order_by(t.import_run.c.id.desc())
        .limit(most)
    ).all()
    return [_from_row(row) for row in rows]


def siblings_of(connection: Connection, run: ImportRun) -> list[ImportRun]:
    """The imports of one file: a column each, itself among them, in the order of their begin."""
    first = run.upload_of or run.id
    rows = connection.execute(
        select(t.import_run)
        .where((t.import_run.c.id == first) | (t.import_run.c.upload_of == first))
        .order_by(t.import_run.c.id)
    ).all()
    return [_from_row(row) for row in rows]


def move_import(
    connection: Connection, run_id: int, *, allowed_from: tuple[State, ...], to: State, **facts: Any
) -> None:
    """Go on to another state, only from the states that may; `ConflictError` otherwise."""
    done = connection.execute(
        update(t.import_run)
        .where(t.import_run.c.id == run_id, t.import_run.c.state.in_(allowed_from))
        .values(state=to, **facts)
    )
    if done.rowcount == 0:
        find_import(connection, run_id)
        raise ConflictError(
            f"import {run_id}", text="This import has gone on meanwhile. Load the page again."
        )


def tell_share(connection: Connection, run_id: int, share: float) -> bool:
    """Write the progress; returns whether somebody wants it stopped."""
    return bool(
        connection.execute(
            update(t.import_run)
            .where(t.import_run.c.id == run_id)
            .values(done_share=share)
            .returning(t.import_run.c.wanted_stop)
        ).scalar_one()
    )


def want_stop(connection: Connection, run_id: int) -> None:
    """Ask a running job to stop at its next step."""
    connection.execute(
        update(t.import_run).where(t.import_run.c.id == run_id).values(wanted_stop=True)
    )


def under_way(connection: Connection) -> list[int]:
    """Runs that are being checked or stored, or wait for their turn."""
    states = t.import_run.c.state.in_(("checking", "storing", "withdrawing"))
    return list(connection.scalars(select(t.import_run.c.id).where(states)))


def release_interrupted(connection: Connection, run_id: int) -> None:
    """A run whose worker is gone waits for a person again; nothing of it was half-stored."""
    for was, now in (("checking", "chosen"), ("storing", "checked"), ("withdrawing", "stored")):
        connection.execute(
            update(t.import_run)
            .where(t.import_run.c.id == run_id, t.import_run.c.state == was)
            .values(state=now, refusal=INTERRUPTED, done_share=0.0, wanted_stop=False)
        )


def unused_since(connection: Connection, before_ms: int) -> list[int]:
    """Runs that nobody went on with since; they count as stopped from now on."""
    return list(
        connection.scalars(
            update(t.import_run)
            .where(
                t.import_run.c.state.in_(MAY_CHOOSE),
                t.import_run.c.refusal.is_distinct_from(THROWN_AWAY),
                t.import_run.c.created_ms < before_ms,
            )
            .values(state="stopped", refusal=THROWN_AWAY)
            .returning(t.import_run.c.id)
        )
    )


def with_an_upload(connection: Connection) -> set[int]:
    """Runs whose upload is still wanted."""
    wanted = t.import_run.c.refusal.is_distinct_from(THROWN_AWAY)
    states = t.import_run.c.state.not_in(("stored", "withdrawing", "withdrawn"))
    return set(connection.scalars(select(t.import_run.c.id).where(states, wanted)))


def report_text(report: LogReport, *, known_before: int, stored: int = 0) -> str:
    """What was counted, as it is kept in the run."""
    return json.dumps({"report": report.as_dict(), "known_before": known_before, "stored": stored})


def _from_row(row: Row[Any]) -> ImportRun:
    counted = json.loads(row.report) if row.report else None
    return ImportRun(
        id=row.id,
        house_id=row.house_id,
        account_id=row.account_id,
        probe=row.probe,
        file_name=row.file_name,
        size_bytes=row.size_bytes,
        options=LogOptions(**json.loads(row.options)),
        state=row.state,
        done_share=row.done_share,
        report=LogReport(**counted["report"]) if counted else None,
        known_before=counted["known_before"] if counted else 0,
        stored=counted["stored"] if counted else 0,
        refusal=row.refusal,
        wanted_stop=row.wanted_stop,
        created_ms=row.created_ms,
        upload_of=row.upload_of,
    )


def change_import(connection: Connection, run_id: int, options: LogOptions) -> None:
    """Choose another way to read the log; counts made by the old way are worth nothing then."""
    done = connection.execute(
        update(t.import_run)
        .where(t.import_run.c.id == run_id, t.import_run.c.state.in_(MAY_CHOOSE))
        .values(options=json.dumps(asdict(options)), state="chosen", report=None, refusal=None)
    )
    if done.rowcount == 0:
        find_import(connection, run_id)
        raise ConflictError(
            f"import {run_id}",
            text="This import has gone on meanwhile; how it is read can be changed only before.",
        )
