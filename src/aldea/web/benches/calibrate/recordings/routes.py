"""The list of all benches, and one way to work a recordings bench: ask, work out, take, keep."""

from collections.abc import Mapping

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import AldeaError, CalibrationError, InputError, NotFoundError
from aldea.core.plan.document import Plan
from aldea.core.readings.trace import Trace
from aldea.core.wiring.evidence import circuit_digest
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Take,
)
from aldea.web.benches.calibrate.recordings.kept import keep, listed, opened_again
from aldea.web.benches.calibrate.recordings.list import list_benches
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import refused_edit
from aldea.web.shell.forms import Fields, typed_of, whole_of
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    open_house_of,
    rail_now,
    rail_of,
    render_bench,
    running_replay,
)
from aldea.web.shell.state import AppState
from aldea.web.shell.window import Window

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
RAIL = ("at", "end", "hours")  # what an address says of the rail


def _bench(key: str, plan: Plan, subject: str) -> tuple[RecordingsBench, str]:
    bench = RECORDINGS_BENCHES.get(key)
    name = dict(bench.subjects(plan)).get(subject) if bench else None
    if bench is None or name is None:
        raise NotFoundError(
            "bench",
            got=repr(f"{key} of {subject}"),
            allowed=f"{bench.called} of this house" if bench else "one of the list of benches",
            mend="Choose at Lay out how the probe is made; the list of benches has all there are.",
        )
    return bench, name


def _given(
    state: AppState, opened: OpenHouse, subject: str, fields: Fields, window: Window
) -> Given:
    access = opened.access

    def record(probe_id: str) -> Trace:
        with state.database.begin() as connection:
            return state.replays.trace(connection, access.house.id, probe_id, access.now_ms)

    return Given(plan=opened.plan, subject=subject, fields=fields, record=record, window=window)


def _worked(bench: RecordingsBench, given: Given) -> Found:
    found = bench.work(given)
    given.fields.check()
    return found


def _typed(asks: tuple[Ask, ...], sent: Mapping[str, str]) -> dict[str, str]:
    return {ask.name: sent.get(ask.name, ask.first) for ask in asks}


def _page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    where: tuple[str, str],
    sent: Mapping[str, str],
    *,
    refusal: str = "",
    status: int = 200,
    newest: bool = False,
) -> Response:
    key, subject = where
    bench, name = _bench(key, opened.plan, subject)
    with state.database.begin() as connection:
        replayed, mode, shown = running_replay(state, connection, opened)
    window = asked_window(request, opened.access.now_ms, replayed)
    asks = bench.asks(opened.plan, subject)
    typed = _typed(asks, sent)
    given = _given(state, opened, subject, Fields(typed), window)
    found: Found | None = None
    if bench.enough(typed):
        try:
            found = _worked(bench, given)
        except (InputError, CalibrationError):
            status = 422
    beside = bench.beside(given)
    errors = given.fields.errors
    return render_bench(
        request,
        "calibrate/recordings/recording.html",
        opened,
        current="calibrate",
        rail=rail_of(shown, replayed, window, mode),
        status=422 if errors else status,
        recordings_bench=bench,
        computed=bench.computed,
        subject=subject,
        subject_name=name,
        others=[s for s in bench.subjects(opened.plan) if s[0] != subject],
        asks=asks,
        typed=typed,
        errors=errors,
        found=found,
        beside=beside,
        in_plan=bench.in_plan(opened.plan, subject),
        recorded=listed(state, opened.access, key, subject),
        circuit=circuit_digest(opened.plan, probe) if (probe := opened.plan.probe(subject)) else "",
        verdict_words=found.verdict if found else _nothing_found(bench, name, errors),
        refusal=refusal,
        newest=newest,
        rail_query=_rail_query(request),
        version=opened.draft.version,
    )


def _nothing_found(bench: RecordingsBench, name: str, errors: Mapping[str, str]) -> Verdict:
    if errors:
        return Verdict(
            mark="owed",
            sentence=f"{name}: what was typed is refused.",
            rest="The field says what is wrong with it.",
        )
    return Verdict(mark="owed", sentence=f"{name}: {bench.nothing}", rest=bench.begin)


def _rail_query(request: Request) -> str:
    """What the address says of the rail, so that a form stays where the rail stands."""
    kept = {key: whole_of(request.query_params.get(key, "")) for key in RAIL}
    pairs = [f"{key}={value}" for key, value in kept.items() if value is not None]
    return f"?{'&'.join(pairs)}" if pairs else ""


@router.get("/benches")
def benches_page(request: Request, state: State, access: MemberAccess) -> Response:
    """Every kind of bench, and whose it is."""
    opened = open_house_of(state, access)
    return render_bench(
        request,
        "calibrate/recordings/list.html",
        opened,
        current="calibrate",
        rail=rail_now(request, state, opened),
        view=list_benches(opened.plan, opened.base),
    )


@router.get("/recordings/{key}/{subject}")
def recording_page(
    request: Request, state: State, access: MemberAccess, key: str, subject: str
) -> Response:
    """A bench with what the address types, or with a recording: that asked for, or the newest."""
    opened = open_house_of(state, access)
    bench, _ = _bench(key, opened.plan, subject)
    asked = {"recording", "anew", *(ask.name for ask in bench.asks(opened.plan, subject))}
    newest = not asked & set(request.query_params)
    again = opened_again(request, state, access, key, subject, newest=newest)
    sent = {**request.query_params, **again}
    return _page(request, state, opened, (key, subject), sent, newest=newest and bool(again))


@router.post("/recordings/{key}/{subject}/work")
def work_out(
    request: Request, state: State, access: MemberAccess, key: str, subject: str, form: Sent
) -> Response:
    """Work it out; recordings are too long for an address, and nothing is stored."""
    return _page(request, state, open_house_of(state, access), (key, subject), typed_of(form))


@router.post("/recordings/{key}/{subject}/take")
def take(
    request: Request, state: State, access: BuilderAccess, key: str, subject: str, form: Sent
) -> Response:
    """Put what was found into the plan, and keep the recording that it rests on."""
    typed = typed_of(form)
    chosen = frozenset(name.removeprefix("to-") for name in typed if name.startswith("to-"))
    opened = open_house_of(state, access)
    window = asked_window(request, access.now_ms, None)

    def change(plan: Plan) -> Plan:
        bench, name = _bench(key, plan, subject)
        fields = Fields(_typed(bench.asks(plan, subject), typed))
        given = _given(state, opened, subject, fields, window)
        given.plan = plan
        return _chosen_take(_worked(bench, given), typed.get("take", ""), name).change(plan, chosen)

    refusal = refused_edit(state, access, typed, change, f"{key.replace('_', ' ')} of {subject}")
    if not refusal and RECORDINGS_BENCHES[key].keeps:
        _keep(request, state, access, (key, subject), typed)
    return _shown(request, state, access, (key, subject), typed, refusal)


def _chosen_take(found: Found, key: str, name: str) -> Take:
    for offered in found.takes:
        if offered.key == key:
            return offered
    raise InputError(
        "bench", said=f"What was found does not hold, so it cannot be used. {found.verdict.rest}"
    )


@router.post("/recordings/{key}/{subject}/keep")
def keep_it(
    request: Request, state: State, access: BuilderAccess, key: str, subject: str, form: Sent
) -> Response:
    """Keep the recording with what was found from it; the plan stays as it is."""
    typed = typed_of(form)
    refusal = ""
    try:
        _keep(request, state, access, (key, subject), typed)
    except AldeaError as exc:
        refusal = exc.sentence
    return _shown(request, state, access, (key, subject), typed, refusal)


def _keep(
    request: Request,
    state: AppState,
    access: HouseAccess,
    where: tuple[str, str],
    typed: dict[str, str],
) -> None:
    key, subject = where
    opened = open_house_of(state, access)
    bench, _ = _bench(key, opened.plan, subject)
    fields = Fields(_typed(bench.asks(opened.plan, subject), typed))
    window = asked_window(request, access.now_ms, None)
    found = _worked(bench, _given(state, opened, subject, fields, window))
    keep(state, access, key, subject, fields.sent, found.verdict.sentence)


def _shown(
    request: Request,
    state: AppState,
    access: HouseAccess,
    where: tuple[str, str],
    typed: dict[str, str],
    refusal: str,
) -> Response:
    # A recording is too long for an address: the page is shown at once, with it in its fields.
    status = 422 if refusal else 200
    opened = open_house_of(state, access)
    return _page(request, state, opened, where, typed, refusal=refusal, status=status)
