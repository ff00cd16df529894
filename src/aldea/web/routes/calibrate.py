"""The Calibrate bench for humidity probes."""

import math
from datetime import timedelta

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.calibrate.humidity import Conditions, HumidityFit, Pair, fit_humidity
from aldea.core.calibrate.salts import SALTS, salt_rh_pct
from aldea.core.errors import CalibrationError, InputError, NotFoundError
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edit import calibrated
from aldea.core.words.figures import figure
from aldea.core.words.times import local, ms_of
from aldea.store.calibrations import (
    TakenPair,
    certificates,
    next_number,
    open_pairs,
    set_withdrawn,
    sign,
    take_pair,
)
from aldea.store.houses import write_log
from aldea.store.plans import keep_draft
from aldea.web.forms import Fields
from aldea.web.pages import (
    Bench,
    asked_window,
    open_bench,
    rail_of,
    render_bench,
    running_replay,
    whole_number,
)
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.views.calibrate import (
    certificate_document,
    make_calibrate_view,
    new_calibration,
    words_of_conditions,
)

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
FIRST_PAIR = {
    "salt": "magnesium_chloride",
    "approach": "drier",
    "temp_degc": "20.0",
    "reading_rh_pct": "",
    "reference_rh_pct": "",
    "reference_expanded": "1.0",
}


def _humidity_probes(plan: Plan) -> list[Probe]:
    return [
        probe
        for probe in plan.probes
        if probe.quantity == "relative_humidity" and probe.stage == "working"
    ]


def _probe(plan: Plan, probe_id: str) -> Probe:
    for probe in _humidity_probes(plan):
        if probe.id == probe_id:
            return probe
    raise NotFoundError(
        "probe", got=repr(probe_id), allowed="a working humidity probe of this house"
    )


def _conditions(fields: Fields, probe: Probe) -> Conditions:
    base = Conditions(resolution_rh_pct=probe.resolution)
    if not any(name in fields.sent for name in words_of_conditions(base)):
        return base
    months = fields.number("lasts_months", low=1, high=60, unit="months")
    return Conditions(
        resolution_rh_pct=fields.number("resolution_rh_pct", low=0.001, high=10, unit="%RH"),
        gradient_k=fields.number("gradient_k", low=0, high=5, unit="K"),
        drift_rh_pct_per_year=fields.number(
            "drift_rh_pct_per_year", low=0, high=20, unit="%RH a year"
        ),
        lasts_months=int(months) if math.isfinite(months) else 12,
    )


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    probe: Probe,
    *,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    withdrawn: int | None = None,
    status: int = 200,
) -> Response:
    house = bench.door.house.id
    sent = {k: str(v) for k, v in request.query_params.items()}
    condition_fields = Fields(sent)
    conditions = _conditions(condition_fields, probe)
    if condition_fields.errors:
        conditions = Conditions(resolution_rh_pct=probe.resolution)
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, bench)
        window = asked_window(request, bench.door.now_ms, replayed)
        taken = open_pairs(connection, house, probe.id)
        kept = [c for c in certificates(connection, house) if c.probe == probe.id]
        number = next_number(connection, house)
        trace = state.desk.trace(connection, house, probe.id, bench.door.now_ms)
    at = trace.at(window.at_ms)
    condition_words = words_of_conditions(conditions)
    return render_bench(
        request,
        "calibrate.html",
        bench,
        current="calibrate",
        rail=rail_of(plan, replayed, window, mode),
        status=status,
        probe=probe,
        probes=_humidity_probes(bench.plan),
        view=make_calibrate_view(bench.plan, probe, taken, conditions),
        salt_options=[(key, salt.name) for key, salt in SALTS.items()],
        typed={**FIRST_PAIR, **(typed or {})},
        errors={**condition_fields.errors, **(errors or {})},
        conditions={**condition_words, **{k: sent[k] for k in condition_words if k in sent}},
        certificates=kept,
        next_certificate=number,
        withdrawn=withdrawn,
        raw_now=figure(at[1]) if at else "",
        may_sign=bench.door.may_build,
    )


@router.get("/calibrate")
def first(state: State, door: AnyDoor) -> Response:
    """To the first humidity probe."""
    with state.database.begin() as connection:
        plan = open_bench(connection, door).plan
    probes = _humidity_probes(plan)
    if not probes:
        raise NotFoundError(
            "probe",
            got="no working humidity probe",
            allowed="one in the plan",
            mend="Import a plan that has one.",
        )
    claimed = [p for p in probes if plan.claims_on(p.id)] or probes
    return RedirectResponse(f"/h/{door.house.slug}/calibrate/{claimed[0].id}", status_code=303)


@router.get("/calibrate/{probe_id}")
def bench_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """Pairs, fit, budget, certificate."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    withdrawn = whole_number(request.query_params.get("withdrawn"))
    return _page(request, state, bench, _probe(bench.plan, probe_id), withdrawn=withdrawn)


def _pair(fields: Fields) -> Pair:
    approach = fields.choice("approach", ("drier", "wetter", "check"))
    temp = fields.number("temp_degc", low=0, high=60, unit="°C")
    reading = fields.number("reading_rh_pct", low=0, high=100, unit="%RH")
    salt: str | None = None
    reference, expanded = 0.0, 0.0
    if approach == "check":
        reference = fields.number("reference_rh_pct", low=1, high=99, unit="%RH")
        expanded = fields.number("reference_expanded", low=0.05, high=20, unit="%RH")
    else:
        salt = fields.choice("salt", SALTS)
        if salt in SALTS and math.isfinite(temp):
            try:
                reference = salt_rh_pct(salt, temp)
                expanded = SALTS[salt].expanded_uncertainty_rh_pct
            except CalibrationError as exc:
                fields.refuse_error("temp_degc", exc)
    fields.check()
    return Pair(
        reference_rh_pct=reference,
        reading_rh_pct=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=temp,
        reference_expanded=expanded,
        salt=salt,
    )


@router.post("/calibrate/{probe_id}/pairs")
def take(request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent) -> Response:
    """Take a pair; a wrong field is named and what was typed stays."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    probe = _probe(bench.plan, probe_id)
    try:
        pair = _pair(fields)
    except InputError:
        return _page(request, state, bench, probe, typed=typed, errors=fields.errors, status=422)
    with state.database.begin() as connection:
        take_pair(connection, door.house.id, probe.id, pair, by=door.account, at_ms=state.clock())
    # The next pair is most often in the same jar: what describes it is kept in the address.
    return RedirectResponse(f"{bench.base}/calibrate/{probe.id}#take", status_code=303)


@router.post("/calibrate/{probe_id}/pairs/{pair_id}/{action}")
def withdraw(state: State, door: BuilderDoor, probe_id: str, pair_id: int, action: str) -> Response:
    """Withdraw a pair, or take that back."""
    if action not in ("withdraw", "restore"):
        raise NotFoundError("action", got=repr(action), allowed="withdraw or restore")
    at_ms = state.clock() if action == "withdraw" else None
    with state.database.begin() as connection:
        set_withdrawn(connection, door.house.id, pair_id, at_ms=at_ms)
    tail = f"?withdrawn={pair_id}" if action == "withdraw" else ""
    return RedirectResponse(f"/h/{door.house.slug}/calibrate/{probe_id}{tail}", status_code=303)


def _signable(taken: list[TakenPair], conditions: Conditions) -> HumidityFit:
    fit = fit_humidity([row.pair for row in taken], conditions)
    if fit.verdict == "fails":
        raise CalibrationError(
            "check pair",
            got="a check pair that the line does not meet",
            allowed="a fit that its own check confirms",
            mend="Withdraw what was wrong and take it again.",
        )
    return fit


@router.post("/calibrate/{probe_id}/sign")
def sign_certificate(
    request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent
) -> Response:
    """Store the certificate and apply it to the draft, both or neither."""
    fields = Fields({k: str(v) for k, v in form.items()})
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        probe = _probe(bench.plan, probe_id)
        conditions = _conditions(fields, probe)
        fields.check()
        taken = open_pairs(connection, door.house.id, probe.id)
        try:
            fit = _signable(taken, conditions)
        except CalibrationError as exc:
            return _page(request, state, bench, probe, errors={"sign": exc.sentence}, status=422)
        now_ms = door.now_ms
        due = local(now_ms, "UTC") + timedelta(days=round(30.4375 * conditions.lasts_months))
        done = sign(
            connection,
            door.house.id,
            probe.id,
            certificate_document(probe, fit, taken, conditions),
            pair_ids=[row.id for row in taken],
            by=door.account,
            at_ms=now_ms,
            due_ms=ms_of(due),
        )
        keep_draft(
            connection,
            door.house.id,
            calibrated(bench.plan, probe.id, new_calibration(fit, done.number)),
            version_read=bench.draft.version,
            by=door.account,
            at_ms=state.clock(),
        )
        write_log(
            connection,
            door.house.id,
            account=door.account,
            at_ms=now_ms,
            what=f"Certificate {done.number} signed for {probe.name}: "
            f"±{figure(fit.expanded_rh_pct)} %RH (k=2), applied to the draft.",
        )
    return RedirectResponse(f"{bench.base}/certificates/{done.number}", status_code=303)
