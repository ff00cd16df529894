"""The list of all benches, and one way to work a trial bench: ask, work out, take into the plan."""

from collections.abc import Mapping

from fastapi import APIRouter, Request, Response

from aldea.core.errors import AldeaError, CalibrationError, InputError, NotFoundError
from aldea.core.plan.document import Plan
from aldea.core.rehearse.trace import Trace
from aldea.core.words.verdicts import Verdict
from aldea.web.editing import refused_edit
from aldea.web.forms import Fields, typed_of
from aldea.web.pages import Bench, render_bench
from aldea.web.recordings import keep, listed, opened_again
from aldea.web.routes.record import rail_now
from aldea.web.routes.wire_pages import opened
from aldea.web.security import AnyDoor, BuilderDoor, Door, Sent, State
from aldea.web.state import AppState
from aldea.web.trials import TRIALS
from aldea.web.trials.base import Ask, Found, Given, Record, Trial
from aldea.web.views.benches import make_benches_view

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


def _trial(key: str, plan: Plan, subject: str) -> tuple[Trial, str]:
    trial = TRIALS.get(key)
    name = dict(trial.subjects(plan)).get(subject) if trial else None
    if trial is None or name is None:
        raise NotFoundError(
            "bench",
            got=f"{key!r} of {subject!r}",
            allowed=f"{trial.called} of this house" if trial else "one of the list of benches",
            mend="Choose at Lay out how the probe is made; the list of benches has all there are.",
        )
    return trial, name


def _record_of(state: AppState, door: Door) -> Record:
    def record(probe_id: str) -> Trace:
        with state.database.begin() as connection:
            return state.desk.trace(connection, door.house.id, probe_id, door.now_ms)

    return record


def _worked(trial: Trial, plan: Plan, subject: str, fields: Fields, record: Record) -> Found:
    found = trial.work(Given(plan=plan, subject=subject, fields=fields, record=record))
    fields.check()
    return found


def _typed(asks: tuple[Ask, ...], sent: Mapping[str, str]) -> dict[str, str]:
    return {ask.name: sent.get(ask.name, ask.first) for ask in asks}


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    where: tuple[str, str],
    sent: Mapping[str, str],
    *,
    refusal: str = "",
    status: int = 200,
) -> Response:
    key, subject = where
    trial, name = _trial(key, bench.plan, subject)
    asks = trial.asks(bench.plan, subject)
    typed = _typed(asks, sent)
    fields = Fields(typed)
    found: Found | None = None
    if trial.enough(typed):
        try:
            found = _worked(trial, bench.plan, subject, fields, _record_of(state, bench.door))
        except (InputError, CalibrationError):
            status = 422
    return render_bench(
        request,
        "trial.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        status=status,
        trial=trial,
        subject=subject,
        subject_name=name,
        others=[s for s in trial.subjects(bench.plan) if s[0] != subject],
        asks=asks,
        typed=typed,
        errors=fields.errors,
        found=found,
        in_plan=trial.in_plan(bench.plan, subject),
        recorded=listed(state, bench.door, key, subject),
        verdict_said=found.verdict
        if found
        else Verdict(
            mark="owed",
            sentence=f"{name}: what was typed is refused."
            if fields.errors
            else f"{name}: nothing tried yet.",
            rest="The field says what is wrong with it." if fields.errors else trial.begin,
        ),
        refusal=refusal,
        version=bench.draft.version,
    )


@router.get("/benches")
def benches_page(request: Request, state: State, door: AnyDoor) -> Response:
    """Every kind of bench, and whose it is."""
    bench = opened(state, door)
    return render_bench(
        request,
        "benches.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        view=make_benches_view(bench.plan, bench.base),
    )


@router.get("/trial/{key}/{subject}")
def trial_page(request: Request, state: State, door: AnyDoor, key: str, subject: str) -> Response:
    """A bench before anything is typed, or with a recording opened again."""
    sent = opened_again(request, state, door, key, subject)
    return _page(request, state, opened(state, door), (key, subject), sent)


@router.post("/trial/{key}/{subject}/work")
def work_out(
    request: Request, state: State, door: AnyDoor, key: str, subject: str, form: Sent
) -> Response:
    """Work it out; recordings are too long for an address, and nothing is stored."""
    return _page(request, state, opened(state, door), (key, subject), typed_of(form))


@router.post("/trial/{key}/{subject}/take")
def take(
    request: Request, state: State, door: BuilderDoor, key: str, subject: str, form: Sent
) -> Response:
    """Put what was found into the plan, and keep the recording that it rests on."""
    typed = typed_of(form)
    record = _record_of(state, door)

    def change(plan: Plan) -> Plan:
        trial, name = _trial(key, plan, subject)
        fields = Fields(_typed(trial.asks(plan, subject), typed))
        found = _worked(trial, plan, subject, fields, record)
        if found.change is None:
            raise InputError(
                "bench", got=name, allowed="a finding that holds", mend=found.verdict.rest
            )
        return found.change(plan)

    refusal = refused_edit(state, door, typed, change, f"{key.replace('_', ' ')} of {subject}")
    if not refusal:
        _keep(state, door, (key, subject), typed)
    return _shown(request, state, door, (key, subject), typed, refusal)


@router.post("/trial/{key}/{subject}/keep")
def keep_it(
    request: Request, state: State, door: BuilderDoor, key: str, subject: str, form: Sent
) -> Response:
    """Keep the recording with what was found from it; the plan stays as it is."""
    typed = typed_of(form)
    refusal = ""
    try:
        _keep(state, door, (key, subject), typed)
    except AldeaError as exc:
        refusal = exc.sentence
    return _shown(request, state, door, (key, subject), typed, refusal)


def _keep(state: AppState, door: Door, where: tuple[str, str], typed: dict[str, str]) -> None:
    key, subject = where
    bench = opened(state, door)
    trial, _ = _trial(key, bench.plan, subject)
    fields = Fields(_typed(trial.asks(bench.plan, subject), typed))
    found = _worked(trial, bench.plan, subject, fields, _record_of(state, door))
    keep(state, door, key, subject, fields.sent, found.verdict.sentence)


def _shown(
    request: Request,
    state: AppState,
    door: Door,
    where: tuple[str, str],
    typed: dict[str, str],
    refusal: str,
) -> Response:
    # A recording is too long for an address: the page is shown at once, with it in its fields.
    status = 422 if refusal else 200
    bench = opened(state, door)
    return _page(request, state, bench, where, typed, refusal=refusal, status=status)
