"""One way to work a recordings bench: ask, work out, take, keep."""

from collections.abc import Mapping

from fastapi import APIRouter, Request, Response

from aldea.core.base.errors import AldeaError, CalibrationError, InputError, NotFoundError
from aldea.core.base.numbers import whole_of
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
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES
from aldea.web.shell.access import BuilderAccess, HouseAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import refused_edit
from aldea.web.shell.forms import Fields, typed_of
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    open_house_of,
    render_bench,
    running_replay,
    timeline_of,
)
from aldea.web.shell.state import AppState
from aldea.web.shell.window import Window

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)
TIMELINE = ("at", "end", "hours")  # what an address says of the timeline


def _bench(key: str, plan: Plan, subject: str) -> tuple[RecordingsBench, str]:
    bench = RECORDINGS_BENCHES.get(key)
    name = dict(bench.subjects(plan)).get(subject) if bench else None
    if bench is None or name is None:
        raise NotFoundError(
            "bench",
            got=repr(f"{key} of {subject}"),
            allowed=f"{bench.called} of this house"
            if bench
            else "one of those on Calibrate’s first page",
            fix="Choose at Lay out how the probe is made; Calibrate’s first page has every kind.",
        )
    return bench, name


def _given_of(
    state: AppState, opened: OpenHouse, subject: str, fields: Fields, window: Window
) -> Given:
    access = opened.access

    def record(probe_id: str) -> Trace:
        with state.database.begin() as connection:
            return state.replays.trace(connection, access.house.id, probe_id, access.now_ms)

    return Given(plan=opened.plan, subject=subject, fields=fields, record=record, window=window)


def _calculated(bench: RecordingsBench, given: Given) -> Found:
    result = bench.work(given)
    given.fields.check()
    return result


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
    pressed: bool = False,
) -> Response:
    key, subject = where
    bench, name = _bench(key, opened.plan, subject)
    with state.database.begin() as connection:
        replayed, mode, shown = running_replay(state, connection, opened)
    window = asked_window(request, opened.access.now_ms, replayed)
    asks = bench.asks(opened.plan, subject)
    typed = _typed(asks, sent)
    given = _given_of(state, opened, subject, Fields(typed), window)
    result: Found | None = None
    if bench.enough(typed):
        try:
            result = _calculated(bench, given)
        except (InputError, CalibrationError):
            status = 422
    elif pressed:
        _ask_for_values(asks, given.fields)
    beside = bench.beside(given)
    errors = given.fields.errors
    return render_bench(
        request,
        "calibrate/recordings/recording.html",
        opened,
        current="calibrate",
        timeline=timeline_of(shown, replayed, window, mode),
        status=422 if errors else status,
        recordings_bench=bench,
        computed=bench.computed,
        subject=subject,
        subject_name=name,
        others=[s for s in bench.subjects(opened.plan) if s[0] != subject],
        asks=asks,
        typed=typed,
        errors=errors,
        found=result,
        beside=beside,
        in_plan=bench.in_plan(opened.plan, subject),
        recorded=listed(state, opened.access, key, subject),
        circuit=circuit_digest(opened.plan, probe) if (probe := opened.plan.probe(subject)) else "",
        verdict_words=result.verdict if result else _nothing_found(bench, name, errors),
        refusal=refusal,
        newest=newest,
        timeline_query=_timeline_query(request),
        version=opened.draft.version,
    )


def _ask_for_values(asks: tuple[Ask, ...], fields: Fields) -> None:
    """Refuse at the first field that is still empty: what is calculated needs it."""
    empty = next((a for a in asks if not a.options and not fields.sent[a.name].strip()), None)
    if empty is not None:
        fields.say(empty.name, f"Fill in “{empty.label.partition(',')[0]}” first.")


def _nothing_found(bench: RecordingsBench, name: str, errors: Mapping[str, str]) -> Verdict:
    if errors:
        return Verdict(
            state="owed",
            sentence=f"{name}: one field needs another value.",
            rest="The field shows what to change.",
        )
    return Verdict(state="owed", sentence=f"{name}: {bench.nothing}", rest=bench.begin)


def _timeline_query(request: Request) -> str:
    """What the address says of the timeline, so that a form stays where the timeline stands."""
    kept = {key: whole_of(request.query_params.get(key, "")) for key in TIMELINE}
    pairs = [f"{key}={value}" for key, value in kept.items() if value is not None]
    return f"?{'&'.join(pairs)}" if pairs else ""


@router.get("/recordings/{key}/{subject}")
def recording_page(
    request: Request, state: State, access: MemberAccess, key: str, subject: str
) -> Response:
    """A bench with what the address types, or with a recording: that asked for, or the newest."""
    opened = open_house_of(state, access)
    bench, _ = _bench(key, opened.plan, subject)
    names = {"recording", "anew", *(ask.name for ask in bench.asks(opened.plan, subject))}
    newest = not names & set(request.query_params)
    again = opened_again(request, state, access, key, subject, newest=newest)
    sent = {**request.query_params, **again}
    return _page(request, state, opened, (key, subject), sent, newest=newest and bool(again))


@router.post("/recordings/{key}/{subject}/work")
def work_out(
    request: Request, state: State, access: MemberAccess, key: str, subject: str, form: Sent
) -> Response:
    """Calculate; recordings are too long for an address, and nothing is stored.

    What is sent while somebody types is not refused for what is still empty; a pressed button is.
    """
    pressed = "hx-request" not in request.headers
    opened, typed = open_house_of(state, access), typed_of(form)
    return _page(request, state, opened, (key, subject), typed, pressed=pressed)


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
        given = _given_of(state, opened, subject, fields, window)
        given.plan = plan
        return _chosen_take(_calculated(bench, given), typed.get("take", ""), name).change(
            plan, chosen
        )

    refusal = refused_edit(state, access, typed, change, f"{key.replace('_', ' ')} of {subject}")
    if not refusal and RECORDINGS_BENCHES[key].keeps:
        _keep(request, state, access, (key, subject), typed)
    return _shown(request, state, access, (key, subject), typed, refusal)


def _chosen_take(result: Found, key: str, name: str) -> Take:
    for offered in result.takes:
        if offered.key == key:
            return offered
    raise InputError(
        "bench", text=f"The result is not valid, so it cannot be used. {result.verdict.rest}"
    )


@router.post("/recordings/{key}/{subject}/keep")
def keep_it(
    request: Request, state: State, access: BuilderAccess, key: str, subject: str, form: Sent
) -> Response:
    """Save the recording with what was found from it; the plan stays as it is."""
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
    result = _calculated(bench, _given_of(state, opened, subject, fields, window))
    keep(state, access, key, subject, fields.sent, result.verdict.sentence)


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
