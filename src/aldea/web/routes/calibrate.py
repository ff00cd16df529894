"""The Calibrate bench: pairs taken, withdrawn, fitted and signed, for every kind of probe."""

import math
from datetime import timedelta

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.calibrate.bench import Fit, Pair
from aldea.core.calibrate.budget import BudgetRow
from aldea.core.calibrate.salts import SALTS
from aldea.core.calibrate.thermometer import WAYS
from aldea.core.errors import CalibrationError, InputError, NotFoundError
from aldea.core.plan.codec import plan_text
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edit import calibrated
from aldea.core.rehearse.rehearsal import closings_per_day
from aldea.core.words.figures import figure, short
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
from aldea.web.editing import refused_edit
from aldea.web.forms import Fields
from aldea.web.kinds import KINDS
from aldea.web.kinds.base import Kind, Stated
from aldea.web.kinds.many import pasted_pairs
from aldea.web.kinds.own_rows import (
    MOST_OWN,
    SPREAD_OPTIONS,
    own_carried,
    own_rows,
    own_typed,
)
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
)
from aldea.web.views.settled import settled_of
from aldea.web.views.sisters import carried_line, line_words, sisters_of, to_carry

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def _benches(plan: Plan) -> list[Probe]:
    return [probe for probe in plan.probes if probe.quantity in KINDS]


def _probe(plan: Plan, probe_id: str) -> tuple[Probe, Kind]:
    for probe in _benches(plan):
        if probe.id == probe_id:
            return probe, KINDS[probe.quantity]
    raise NotFoundError(
        "probe",
        got=repr(probe_id),
        allowed="a probe of this house that measures temperature or humidity",
    )


def _stated(fields: Fields, probe: Probe, kind: Kind) -> Stated:
    """The figures stated at the bench; those of the kind where none were sent."""
    base = kind.defaults(probe)
    if not any(name in fields.sent for name in base):
        return base
    read = {
        row.name: fields.number(row.name, low=row.low, high=row.high, unit=row.unit)
        for row in kind.stated
    }
    return {key: value if math.isfinite(value) else base[key] for key, value in read.items()}


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    found: tuple[Probe, Kind],
    *,
    template: str = "calibrate.html",
    typed_pair: Pair | None = None,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    withdrawn: int | None = None,
    status: int = 200,
) -> Response:
    house = bench.door.house.id
    probe, kind = found
    sent = {k: str(v) for k, v in request.query_params.items()}
    stated_fields = Fields(sent)
    stated = _stated(stated_fields, probe, kind)
    own = own_rows(sent, stated_fields.errors)
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, bench)
        window = asked_window(request, bench.door.now_ms, replayed)
        taken = open_pairs(connection, house, probe.id)
        if typed_pair is not None:
            taken.append(TakenPair(id=0, pair=typed_pair, by=bench.door.account.name, taken_ms=0))
        kept = [c for c in certificates(connection, house) if c.probe == probe.id]
        number = next_number(connection, house)
        trace = state.desk.trace(connection, house, probe.id, bench.door.now_ms)

        def times_a_day(plan: Plan) -> dict[str, float]:
            text, now_ms = plan_text(plan), bench.door.now_ms
            done = state.desk.replay(connection, house, plan, text, now_ms=now_ms)
            return closings_per_day(done.rehearsal) if done else {}

        view = make_calibrate_view(bench.plan, probe, kind, taken, (stated, own), times_a_day)
    at = trace.at(window.at_ms)
    stated_words = {key: short(value) for key, value in stated.items()}
    carried = {key: sent[key] for key in kind.first if key in sent}
    line = to_carry(probe, view.fit, kept)
    sisters = sisters_of(bench.plan, probe, line) if line else ()
    carried_words = line_words(line.slope, line.intercept) if line else ""
    return render_bench(
        request,
        template,
        bench,
        current="calibrate",
        rail=rail_of(plan, replayed, window, mode),
        status=status,
        probe=probe,
        kind=kind,
        kinds=KINDS,
        probes=_benches(bench.plan),
        view=view,
        salt_options=[(key, salt.name) for key, salt in SALTS.items()],
        way_options=list(WAYS.items()),
        typed={"pasted": "", **kind.first, **carried, **(typed or {})},
        carried=carried_words,
        previewed=int(typed_pair is not None),
        sisters=sisters,
        version=bench.draft.version,
        errors={**stated_fields.errors, **(errors or {})},
        stated={**stated_words, **{k: sent[k] for k in stated_words if k in sent}},
        settled=settled_of(trace, window, kind, sent),
        own=own_typed(sent),
        own_carried=own_carried(sent),
        own_count=MOST_OWN,
        spreads=SPREAD_OPTIONS,
        certificates=kept,
        next_certificate=number,
        withdrawn=withdrawn,
        raw_now=figure(at[1]) if at else "",
        may_sign=bench.door.may_build,
    )


@router.get("/calibrate")
def first(state: State, door: AnyDoor) -> Response:
    """To the first probe that a claim reads; to the list of benches where none takes pairs."""
    with state.database.begin() as connection:
        plan = open_bench(connection, door).plan
    probes = _benches(plan)
    if not probes:
        return RedirectResponse(f"/h/{door.house.slug}/benches", status_code=303)
    claimed = [p for p in probes if plan.claims_on(p.id)] or probes
    return RedirectResponse(f"/h/{door.house.slug}/calibrate/{claimed[0].id}", status_code=303)


@router.get("/calibrate/{probe_id}")
def bench_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """Pairs, fit, budget, certificate."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    withdrawn = whole_number(request.query_params.get("withdrawn"))
    return _page(request, state, bench, _probe(bench.plan, probe_id), withdrawn=withdrawn)


@router.get("/calibrate/{probe_id}/budget")
def budget_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """Every row of the budget, rows of one's own, and what is promised along the range."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return _page(request, state, bench, _probe(bench.plan, probe_id), template="budget.html")


@router.post("/calibrate/{probe_id}/pairs")
def take(request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent) -> Response:
    """Take a pair; a wrong field is named and what was typed stays."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    probe, kind = found = _probe(bench.plan, probe_id)
    try:
        pair = kind.read_pair(fields)
    except InputError:
        return _page(request, state, bench, found, typed=typed, errors=fields.errors, status=422)
    with state.database.begin() as connection:
        take_pair(connection, door.house.id, probe.id, pair, by=door.account, at_ms=state.clock())
    # The next pair is most often in the same jar: what describes it is kept in the address.
    return RedirectResponse(f"{bench.base}/calibrate/{probe.id}#take", status_code=303)


@router.post("/calibrate/{probe_id}/preview")
def preview(request: Request, state: State, door: AnyDoor, probe_id: str, form: Sent) -> Response:
    """The bench as it would be with the pair that is being typed; nothing is stored."""
    typed = {k: str(v) for k, v in form.items()}
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    found = _probe(bench.plan, probe_id)
    try:
        pair = found[1].read_pair(Fields(typed))
    except InputError:
        return Response(status_code=204)  # not whole yet: what stands there stays
    return _page(request, state, bench, found, typed=typed, typed_pair=pair)


@router.post("/calibrate/{probe_id}/pasted")
def take_pasted(
    request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent
) -> Response:
    """Take many pairs at once, all or none: lines of reference and reading, or readings alone."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    probe, kind = found = _probe(bench.plan, probe_id)
    try:
        pairs = pasted_pairs(kind, fields)
    except InputError as exc:
        errors = {**fields.errors, "pasted": fields.errors.get("pasted", exc.sentence)}
        return _page(request, state, bench, found, typed=typed, errors=errors, status=422)
    with state.database.begin() as connection:
        for pair in pairs:
            at_ms = state.clock()
            take_pair(connection, door.house.id, probe.id, pair, by=door.account, at_ms=at_ms)
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


@router.get("/calibrate/{probe_id}/sisters")
def sisters_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """The line of this probe beside what its sisters have."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    return _page(request, state, bench, _probe(bench.plan, probe_id), template="sisters.html")


@router.post("/calibrate/{probe_id}/carry")
def carry(request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent) -> Response:
    """Carry the line to a chosen set of sisters at once; each keeps its own doubt, uncertified."""
    typed = {k: str(v) for k, v in form.items()}
    chosen = {key.removeprefix("to-") for key in typed if key.startswith("to-")}
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        probe, kind = found = _probe(bench.plan, probe_id)
        taken = open_pairs(connection, door.house.id, probe.id)
        kept = [c for c in certificates(connection, door.house.id) if c.probe == probe.id]

    def change(plan: Plan) -> Plan:
        if not chosen:
            raise InputError("probes", got="none chosen", allowed="at least one sister")
        fit = kind.fit([row.pair for row in taken], kind.defaults(probe)) if taken else None
        line = to_carry(probe, fit, kept)
        if line is None:
            raise InputError("line", got="none", allowed="a line", mend="Take pairs first.")
        return carried_line(plan, probe, line, chosen)

    refusal = refused_edit(
        state, door, typed, change, f"line of {probe.name} carried to {len(chosen)} probes"
    )
    if refusal:
        errors = {"carry": refusal}
        return _page(
            request, state, bench, found, template="sisters.html", errors=errors, status=422
        )
    return RedirectResponse(f"{bench.base}/calibrate/{probe.id}/sisters", status_code=303)


def _signable(
    kind: Kind, taken: list[TakenPair], stated: Stated, own: tuple[BudgetRow, ...]
) -> Fit:
    fit = kind.fit([row.pair for row in taken], stated).with_rows(own)
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
        probe, kind = found = _probe(bench.plan, probe_id)
        stated = _stated(fields, probe, kind)
        own = own_rows(fields.sent, fields.errors)
        fields.check()
        taken = open_pairs(connection, door.house.id, probe.id)
        try:
            fit = _signable(kind, taken, stated, own)
        except CalibrationError as exc:
            return _page(request, state, bench, found, errors={"sign": exc.sentence}, status=422)
        now_ms = door.now_ms
        due = local(now_ms, "UTC") + timedelta(days=round(30.4375 * stated["lasts_months"]))
        done = sign(
            connection,
            door.house.id,
            probe.id,
            certificate_document(probe, kind, fit, taken, stated),
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
            f"±{figure(fit.expanded, kind.places)} {kind.unit} (k=2), "
            "applied to the draft.",
        )
    return RedirectResponse(f"{bench.base}/certificates/{done.number}", status_code=303)
