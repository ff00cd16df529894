"""What is stated at the bench of a probe, kept until its certificate is signed."""

import json
from collections.abc import Mapping

from sqlalchemy import Connection, delete, select
from sqlalchemy.dialects.postgresql import insert

from aldea.store import tables as t
from aldea.store.accounts import Account


def keep_stated(
    connection: Connection,
    house_id: int,
    probe: str,
    fields: Mapping[str, str],
    *,
    by: Account,
    at_ms: int,
) -> None:
    """Write the stated fields of a probe's bench down, in the place of those before."""
    text = json.dumps(dict(fields))
    values = {"fields": text, "stated_by": by.id, "at_ms": at_ms}
    connection.execute(
        insert(t.bench_draft)
        .values(house_id=house_id, probe=probe, **values)
        .on_conflict_do_update(index_elements=["house_id", "probe"], set_=values)
    )


def stated_before(connection: Connection, house_id: int, probe: str) -> dict[str, str]:
    """The fields that were stated last at the bench of a probe; empty where none were."""
    c = t.bench_draft.c
    kept = connection.scalar(select(c.fields).where(c.house_id == house_id, c.probe == probe))
    return dict(json.loads(kept)) if kept else {}


def forget_stated(connection: Connection, house_id: int, probe: str) -> None:
    """Forget what was stated: a certificate carries it now."""
    c = t.bench_draft.c
    connection.execute(delete(t.bench_draft).where(c.house_id == house_id, c.probe == probe))
