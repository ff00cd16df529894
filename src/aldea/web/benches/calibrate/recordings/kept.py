"""Recordings of a bench on its page: the list, opening one again, keeping one."""

from collections.abc import Mapping

from fastapi import Request

from aldea.core.base.numbers import whole_of
from aldea.core.wiring.evidence import circuit_digest
from aldea.store.drafts import read_draft
from aldea.store.recordings import Recording, keep_recording, read_recording, recordings_of
from aldea.web.shell.access import HouseAccess
from aldea.web.shell.state import AppState


def listed(state: AppState, access: HouseAccess, bench: str, subject: str) -> tuple[Recording, ...]:
    """What was recorded at this bench before."""
    with state.database.begin() as connection:
        return recordings_of(connection, access.house.id, bench, subject)


def opened_again(
    request: Request,
    state: AppState,
    access: HouseAccess,
    bench: str,
    subject: str,
    *,
    newest: bool,
) -> dict[str, str]:
    """The fields of the recording that the address asks for, or of the newest; else none."""
    number = whole_of(request.query_params.get("recording", ""))
    with state.database.begin() as connection:
        if newest:
            rows = recordings_of(connection, access.house.id, bench, subject)
            number = rows[0].id if rows else None
        if number is None:
            return {}
        return read_recording(connection, access.house.id, bench, subject, number) or {}


def keep(
    state: AppState,
    access: HouseAccess,
    bench: str,
    subject: str,
    fields: Mapping[str, str],
    summary: str,
) -> int:
    """Keep what was typed at a bench with what was found from it, and the circuit it rests on."""
    with state.database.begin() as connection:
        plan = read_draft(connection, access.house.id).plan
        probe = plan.probe(subject)
        return keep_recording(
            connection,
            access.house.id,
            bench=bench,
            subject=subject,
            fields=fields,
            summary=summary,
            by=access.account,
            at_ms=access.now_ms,
            circuit=circuit_digest(plan, probe) if probe is not None else "",
        )
