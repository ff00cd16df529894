"""What was recorded at a bench, with what was found from it: kept, listed, opened again."""

import json
from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import Connection, insert, select

from aldea.store import tables as t
from aldea.store.accounts import Account

MOST_LISTED = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Recording:
    """A line of the list: which, when, who, what was found then, and with which circuit."""

    id: int
    at_ms: int
    by: str
    summary: str
    circuit: str = ""


def keep_recording(
    connection: Connection,
    house_id: int,
    *,
    bench: str,
    subject: str,
    fields: Mapping[str, str],
    summary: str,
    by: Account,
    at_ms: int,
    circuit: str = "",
) -> int:
    """Keep the fields of a bench as they were typed, with the sentence that was found."""
    row = connection.execute(
        insert(t.bench_recording)
        .values(
            house_id=house_id,
            bench=bench,
            subject=subject,
            fields=json.dumps(dict(fields), ensure_ascii=False),
            summary=summary,
            taken_by=by.id,
            at_ms=at_ms,
            circuit=circuit,
        )
        .returning(t.bench_recording.c.id)
    )
    return int(row.scalar_one())


def recordings_of(
    connection: Connection, house_id: int, bench: str, subject: str
) -> tuple[Recording, ...]:
    """The newest recordings of a bench, newest first."""
    r = t.bench_recording.c
    rows = connection.execute(
        select(r.id, r.at_ms, t.account.c.name, r.summary, r.circuit)
        .join(t.account, t.account.c.id == r.taken_by)
        .where(r.house_id == house_id, r.bench == bench, r.subject == subject)
        .order_by(r.at_ms.desc(), r.id.desc())
        .limit(MOST_LISTED)
    )
    return tuple(
        Recording(id=i, at_ms=at, by=name, summary=summary, circuit=circuit)
        for i, at, name, summary, circuit in rows
    )


def read_recording(
    connection: Connection, house_id: int, bench: str, subject: str, number: int
) -> dict[str, str] | None:
    """The fields of one recording; None where this bench has no such one."""
    r = t.bench_recording.c
    text = connection.scalar(
        select(r.fields).where(
            r.id == number, r.house_id == house_id, r.bench == bench, r.subject == subject
        )
    )
    if text is None:
        return None
    fields: dict[str, str] = json.loads(text)
    return fields
