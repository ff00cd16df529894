"""The Calibrate bench: pairs taken, withdrawn, fitted and signed, for every quantity."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.base.errors import (
    CalibrationError,
    ConflictError,
    InputError,
    NotFoundError,
)
from aldea.core.base.numbers import whole_of
from aldea.core.calibrate.certificate import (
    beyond_words,
    certificate_document,
    new_calibration,
)
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.methods.method import Method, Stated
from aldea.core.calibrate.pairs import TakenPair
from aldea.core.calibrate.uncertainty_budget import BudgetRow
from aldea.core.plan.tuning import calibrated
from aldea.core.wiring.evidence import circuit_digest
from aldea.store.bench_drafts import forget_stated
from aldea.store.calibrations import (
    check_shown_pairs,
    open_pairs,
    set_withdrawn,
    sign,
    take_pair,
)
from aldea.store.drafts import lock_draft, read_draft
from aldea.web.benches.calibrate.budget.own_rows import own_rows
from aldea.web.benches.calibrate.pairs.page import (
    due_ms,
    keep_here,
    probe_of,
    probe_page,
    stated_along,
    stated_of,
)
from aldea.web.benches.calibrate.pairs.pair_forms import PAIR_FORMS
from aldea.web.benches.calibrate.pairs.pasted import pasted_pairs
from aldea.web.shell.access import BuilderAccess, MemberAccess, RowId, Sent, State
from aldea.web.shell.drafts import version_of
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import OpenHouse, open_house
from aldea.web.shell.state import AppState

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.get("/calibrate/{probe_id}")
def benchprobe_page(
    request: Request, state: State, access: MemberAccess, probe_id: str
) -> Response:
    """Pairs, fit, budget, certificate."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    withdrawn = whole_of(request.query_params.get("withdrawn", ""))
    return probe_page(request, state, opened, probe_of(opened.plan, probe_id), withdrawn=withdrawn)


@router.post("/calibrate/{probe_id}/pairs")
def take(
    request: Request, state: State, access: BuilderAccess, probe_id: str, form: Sent
) -> Response:
    """Take a pair; a wrong field is named and what was typed stays."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    probe, _ = subject = probe_of(opened.plan, probe_id)
    try:
        pair = PAIR_FORMS[probe.quantity].read_pair(fields)
    except InputError:
        return probe_page(
            request, state, opened, subject, typed=typed, errors=fields.errors, status=422
        )
    with state.database.begin() as connection:
        take_pair(
            connection, access.house.id, probe.id, pair, by=access.account, at_ms=state.clock()
        )
    return _back(state, opened, probe_id, typed, "#take")


def _back(
    state: AppState, opened: OpenHouse, probe_id: str, typed: dict[str, str], tail: str = ""
) -> Response:
    """To the bench, with what was stated there."""
    probe = probe_of(opened.plan, probe_id)
    along = stated_along(typed, probe[1], probe[0])
    if along:
        keep_here(state, opened, probe_id, along)
    stated = urlencode(along)
    joint = "&" if stated and tail.startswith("?") else "?" if stated else ""
    query, _, place = tail.partition("#")
    address = f"{opened.base}/calibrate/{probe_id}{query}{joint}{stated}"
    return RedirectResponse(f"{address}#{place}" if place else address, status_code=303)


@router.post("/calibrate/{probe_id}/preview")
def preview(
    request: Request, state: State, access: MemberAccess, probe_id: str, form: Sent
) -> Response:
    """The bench as it would be with the pair that is being typed; nothing is stored."""
    typed = {k: str(v) for k, v in form.items()}
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    probe = probe_of(opened.plan, probe_id)
    try:
        pair = PAIR_FORMS[probe[0].quantity].read_pair(Fields(typed))
    except InputError:
        return Response(status_code=204)  # not whole yet: what stands there stays
    return probe_page(request, state, opened, probe, typed=typed, typed_pair=pair)


@router.post("/calibrate/{probe_id}/pasted")
def take_pasted(
    request: Request, state: State, access: BuilderAccess, probe_id: str, form: Sent
) -> Response:
    """Take many pairs at once, all or none: lines of reference and reading, or readings alone."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    probe, _ = subject = probe_of(opened.plan, probe_id)
    try:
        pairs = pasted_pairs(PAIR_FORMS[probe.quantity], fields)
    except InputError as exc:
        errors = {**fields.errors, "pasted": fields.errors.get("pasted", exc.sentence)}
        return probe_page(request, state, opened, subject, typed=typed, errors=errors, status=422)
    with state.database.begin() as connection:
        for pair in pairs:
            at_ms = state.clock()
            take_pair(connection, access.house.id, probe.id, pair, by=access.account, at_ms=at_ms)
    return _back(state, opened, probe_id, typed, "#take")


@router.post("/calibrate/{probe_id}/pairs/{pair_id}/{action}")
def withdraw(
    state: State, access: BuilderAccess, probe_id: str, pair_id: RowId, action: str, form: Sent
) -> Response:
    """Withdraw a pair, or take that back."""
    if action not in ("withdraw", "restore"):
        raise NotFoundError("action", got=repr(action), allowed="withdraw or restore")
    at_ms = state.clock() if action == "withdraw" else None
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        set_withdrawn(connection, access.house.id, pair_id, at_ms=at_ms)
    tail = f"?withdrawn={pair_id}" if action == "withdraw" else ""
    return _back(state, opened, probe_id, typed_of(form), tail)


def _signable(
    method: Method, taken: list[TakenPair], stated: Stated, own: tuple[BudgetRow, ...], why: str
) -> Fit:
    fit = method.fit([row.pair for row in taken], stated).with_rows(own)
    if fit.verdict == "fails":
        raise CalibrationError(
            "check pair",
            text="A check point has an error above the stated uncertainty, so the certificate "
            "cannot be signed. Withdraw the wrong pair and record it again.",
        )
    if fit.outliers and not why:
        raise CalibrationError(
            "pairs",
            text=f"What contradicts the other pairs: {beyond_words(fit)}, beyond U of the fit "
            "without it. Withdraw the wrong pair, or enter the reason to sign anyway.",
        )
    return fit


def _shown_pairs(fields: Fields) -> list[int]:
    """The numbers of the pairs that the sign form was made for."""
    text = fields.text("pairs", most=20_000)
    numbers = [whole_of(part) for part in text.split(",") if part]
    if None in numbers:
        raise InputError("pairs", text="The pairs of the form cannot be read. Load the page again.")
    return [number for number in numbers if number is not None]


@router.post("/calibrate/{probe_id}/sign")
def sign_certificate(
    request: Request, state: State, access: BuilderAccess, probe_id: str, form: Sent
) -> Response:
    """Store the certificate and apply it to the draft, both or neither, just as it was shown."""
    typed = typed_of(form)
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    probe, method = subject = probe_of(opened.plan, probe_id)
    stated = stated_of(fields, probe, method)
    own = own_rows(fields.sent, fields.errors)
    why = fields.text("why")
    now_ms = access.now_ms
    due = due_ms(now_ms, stated)
    try:
        fields.check()
        shown, version = _shown_pairs(fields), version_of(typed)
        with state.database.begin() as connection:
            lock_draft(connection, access.house.id)
            taken = open_pairs(connection, access.house.id, probe.id)
            check_shown_pairs(shown, taken)
            fit = _signable(method, taken, stated, own, why)
            circuit = circuit_digest(read_draft(connection, access.house.id).plan, probe)
            done = sign(
                connection,
                access.house.id,
                probe.id,
                certificate_document(probe, method.unit, fit, taken, stated, why, circuit),
                lambda plan, number: calibrated(
                    plan, probe.id, new_calibration(fit, number, circuit)
                ),
                taken=taken,
                version_read=version,
                by=access.account,
                at_ms=now_ms,
                due_ms=due,
            )
            forget_stated(connection, access.house.id, probe.id)
    except (CalibrationError, ConflictError, InputError) as exc:
        with state.database.begin() as connection:
            opened = open_house(connection, access)
        status = 409 if isinstance(exc, ConflictError) else 422
        return probe_page(
            request, state, opened, subject, typed=typed, errors={"sign": exc.sentence},
            status=status,
        )  # fmt: skip
    return RedirectResponse(f"{opened.base}/certificates/{done.number}", status_code=303)
