"""Readings of a span taken out with a reason, and put back."""

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import InputError
from aldea.core.base.numbers import whole_of
from aldea.store.houses import add_log_entry
from aldea.store.reading_changes import remove_span
from aldea.store.reading_undo import undo_change
from aldea.web.benches.record.routes import record_page
from aldea.web.shell.access import BuilderAccess, Sent, State
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import open_house

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.post("/record/remove-readings")
def remove(request: Request, state: State, access: BuilderAccess, form: Sent) -> Response:
    """Take the readings of a probe over a span out, with a reason; they can be put back."""
    typed = typed_of(form)
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    zone = opened.plan.house.time_zone
    probe = opened.plan.probe(typed.get("probe", ""))
    from_ms, to_ms = fields.moment_ms("from", zone), fields.moment_ms("to", zone)
    reason = fields.text("because", most=200)
    if probe is None:
        fields.refuse("probe", repr(typed.get("probe", ""))[:80], "a probe of this house")
    if from_ms is not None and to_ms is not None and from_ms >= to_ms:
        fields.refuse("to", "an end before the begin", "a later instant")
    if not reason:
        fields.refuse("because", "nothing", "reason, in a few words")
    if not fields.errors and probe is not None and from_ms is not None and to_ms is not None:
        try:
            with state.database.begin() as connection:
                gone = remove_span(
                    connection, access.house.id, probe=probe.id, from_ms=from_ms, to_ms=to_ms,
                    by=access.account, at_ms=access.now_ms, reason=reason,
                )  # fmt: skip
                what = f"Removed {gone} readings of {probe.id}: {reason}."
                add_log_entry(
                    connection, access.house.id, account=access.account, at_ms=access.now_ms,
                    what=what,
                )  # fmt: skip
            return RedirectResponse(f"{opened.base}/record#moved", status_code=303)
        except InputError as exc:
            fields.refuse_error("from", exc)
    errors = fields.errors
    return record_page(request, state, opened, errors=errors, typed=typed, status=422)


@router.post("/record/put-readings-back")
def put_back(state: State, access: BuilderAccess, form: Sent) -> Response:
    """Put readings that were removed back."""
    change = whole_of(str(form.get("change", "")))
    with state.database.begin() as connection:
        _, back = undo_change(connection, access.house.id, change or 0, access.now_ms)
        what = f"Restore {back} readings."
        add_log_entry(
            connection, access.house.id, account=access.account, at_ms=access.now_ms, what=what
        )
    return RedirectResponse(f"/h/{access.house.slug}/record#moved", status_code=303)
