"""The Tune bench: thresholds on the trace, what they cost, and keeping them."""

from dataclasses import dataclass, replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.base.figures import short
from aldea.core.base.numbers import whole_of
from aldea.core.devices.loads.classes import LOAD_CLASSES, must_rest
from aldea.core.plan.changes import PlanChange
from aldea.core.plan.document import Plan, Rule
from aldea.core.plan.tuning import Tuning
from aldea.core.rehearse.consequence import Consequence
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.recorded import Recorded, recorded_of
from aldea.core.rehearse.rehearsal import Rehearsal, load_consequence
from aldea.core.words.verdicts import Verdict
from aldea.formats.events_csv import events_csv
from aldea.store.drafts import DraftMovedError
from aldea.web.benches.tune.answer import TuneAnswer, tune_answer
from aldea.web.benches.tune.form import (
    AFTER_CUT,
    FAULT_FIELDS,
    FAULT_STATES,
    LABELS,
    OVER,
    Asked,
    fault_words,
    read_tuning,
    subject_of,
    words_of,
)
from aldea.web.benches.tune.plot import tune_plot
from aldea.web.shell.access import BuilderAccess, MemberAccess, Sent, State
from aldea.web.shell.drafts import begun_at, edit_draft, rows_over, version_of
from aldea.web.shell.forms import Fields
from aldea.web.shell.page import (
    OpenHouse,
    asked_window,
    draft_timeline,
    open_house,
    render,
    render_bench,
    timeline_now,
)
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.state import AppState
from aldea.web.shell.window import Window, window_of

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """The answer and the replay that the timeline shows."""

    answer: TuneAnswer
    shown: Replayed
    running_tuning: Tuning | None


def _answer(
    state: AppState,
    connection: Connection,
    opened: OpenHouse,
    tuning: Asked,
    subject: Rule,
    window: Window,
) -> Answered | None:
    """What the asked plan does; None where nothing is recorded."""
    house = opened.access.house.id
    load, rule = subject_of(tuning.plan, subject.load, subject.id)
    now_ms, of = opened.access.now_ms, (rule.band.probe,)
    draft = state.replays.replay(connection, house, tuning.plan, now_ms=now_ms, of=of)
    moved = draft.of(load.id) if draft else None
    if draft is None or moved is None or rule.band.probe not in draft.with_readings:
        return None
    shown = draft
    if tuning.faults:
        faulty = state.replays.replay(
            connection, house, tuning.plan, now_ms=now_ms, faults=tuning.faults, of=of
        )
        shown = faulty or draft
    span = tuning.span_of(draft.end_ms, window)

    def summed(ran: Rehearsal, plan: Plan, of: Rule) -> tuple[Consequence, Recorded]:
        trace = state.replays.trace(connection, house, of.band.probe, now_ms)
        beyond = state.replays.beyond(connection, house, plan, of, trace)
        recorded = recorded_of(ran.run, (of.band.probe,), from_ms=span[0], to_ms=span[1])
        return load_consequence(ran, of, beyond, recorded), recorded

    draft_sum, recorded = summed(moved, tuning.plan, rule)
    running, running_sum, running_tuning = None, None, None
    if opened.revision is not None:
        plan = opened.revision.plan
        rules = [c for c in plan.bands_of(load.id) if c.id == rule.id]
        running = state.replays.replay(connection, house, plan, now_ms=now_ms, of=of)
        ran = running.of(load.id) if running else None
        if ran is not None and rules:
            running_tuning = Tuning.of(plan, rules[0])
            running_sum, _ = summed(ran, plan, rules[0])
    return Answered(
        answer=tune_answer(
            plan=tuning.plan,
            rule=rule,
            load=load,
            window=window,
            shown=shown,
            running=running,
            draft_sum=draft_sum,
            recorded=recorded,
            running_sum=running_sum,
            running_tuning=running_tuning,
            faults=tuning.faults,
        ),
        shown=shown,
        running_tuning=running_tuning,
    )


def _until(state: AppState, connection: Connection, opened: OpenHouse, rule: Rule) -> int:
    """Now; of an old log, its end."""
    access = opened.access
    return state.replays.until(connection, access.house.id, [rule.band.probe], access.now_ms)


def _refused_answer(answer: TuneAnswer, opened: OpenHouse) -> TuneAnswer:
    """The draft's own figures under a verdict that says that they are not the typed ones'."""
    verdict = Verdict(
        state="fails",
        sentence="Not saved: one field needs another value.",
        rest=f"The figures are those of draft {opened.draft.version}, {answer.draft_thresholds}.",
    )
    return replace(answer, verdict=verdict)


def _page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    load_id: str,
    *,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    kept: bool = False,
    moved: DraftMovedError | None = None,
    moved_rows: tuple[PlanChange, ...] = (),
    status: int = 200,
) -> Response:
    rule_id = (typed or {}).get("rule") or request.query_params.get("rule", "")
    load, rule = subject_of(opened.plan, load_id, rule_id)
    draft_tuning = Tuning.of(opened.plan, rule)
    question = Asked(plan=opened.plan, tuning=draft_tuning, faults=Faults())
    errors = dict(errors or {})
    if typed is not None and not errors:
        fields = Fields(typed)
        try:
            question = read_tuning(fields, opened.plan, load, rule)
        except InputError:
            errors = fields.errors
    with state.database.begin() as connection:
        house, now_ms, of = opened.access.house.id, opened.access.now_ms, (rule.band.probe,)
        first = state.replays.replay(connection, house, opened.plan, now_ms=now_ms, of=of)
        window = asked_window(request, now_ms, first)
        answered = _answer(state, connection, opened, question, rule, window)
        _, shown_rule = subject_of(question.plan, load_id, rule.id)
        plot = None
        if answered is not None:
            plot = tune_plot(
                question.plan,
                shown_rule,
                answered.shown,
                state.replays.trace(connection, house, shown_rule.band.probe, now_ms),
                window,
                answered.running_tuning,
                state.replays.pictures(connection, house),
            )
    shown = answered.answer if answered else None
    words = {
        "over": question.over,
        **words_of(question.tuning),
        **fault_words(window, opened.plan.house.time_zone),
    }
    return render_bench(
        request,
        "tune/tune.html",
        opened,
        current="tune",
        timeline=draft_timeline(question.plan, answered.shown if answered else None, window),
        status=status,
        load=load,
        rule=rule,
        bands=opened.plan.bands_of(load.id),
        here=f"{opened.base}/tune/{load.id}",
        loads=[
            row
            for row in opened.plan.loads
            if row.stage == "working" and opened.plan.bands_of(row.id)
        ],
        plot=plot,
        answer=_refused_answer(answered.answer, opened) if answered and errors else shown,
        after_cut=AFTER_CUT,
        fault_states=FAULT_STATES,
        fault_fields=FAULT_FIELDS,
        over=OVER,
        caution=LOAD_CLASSES[load.load_class].caution,
        overview_start=answered.shown.start_ms if answered else 0,
        overview_end=answered.shown.end_ms if answered else 0,
        typed={**words, **(typed or {})},
        was=words_of(answered.running_tuning) if answered and answered.running_tuning else {},
        errors=errors,
        kept=kept,
        moved=moved,
        moved_rows=moved_rows,
        version=opened.draft.version,
        why_safe=f"Reason it is safe, class {load.load_class}"
        if must_rest(load.load_class)
        else "Reason it is safe",
    )


@router.get("/tune")
def first(request: Request, state: State, access: MemberAccess) -> Response:
    """To the first load with a band; a house without one says what leads to it."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    for load in opened.plan.loads:
        if load.stage == "working" and opened.plan.bands_of(load.id):
            return RedirectResponse(f"{opened.base}/tune/{load.id}", status_code=303)
    timeline = timeline_now(request, state, opened)
    return render_bench(request, "tune/none.html", opened, current="tune", timeline=timeline)


@router.get("/tune/{load_id}")
def bench_page(request: Request, state: State, access: MemberAccess, load_id: str) -> Response:
    """The band rule beside the trace."""
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    kept = request.query_params.get("kept") == str(opened.draft.version)
    return _page(request, state, opened, load_id, kept=kept)


@router.post("/tune/{load_id}/answer")
def answer(
    request: Request, state: State, access: MemberAccess, load_id: str, form: Sent
) -> Response:
    """What the thresholds in the form come to; stores nothing, so that everybody may try."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        load, rule = subject_of(opened.plan, load_id, typed.get("rule", ""))
        try:
            tuning = read_tuning(fields, opened.plan, load, rule)
        except InputError:
            return render(request, "tune/refused.html", errors=fields.errors, labels=LABELS)
        window = window_of(
            now_ms=_until(state, connection, opened, rule),
            hours=whole_of(typed.get("window_h", "")),
            end_ms=whole_of(typed.get("window_end", "")),
            at_ms=whole_of(typed.get("window_at", "")),
            first_ms=None,
        )
        answered = _answer(state, connection, opened, tuning, rule, window)
    if answered is None:
        nothing = {"readings": "Nothing is recorded of this probe yet. Import a log at Record."}
        return render(request, "tune/refused.html", errors=nothing, labels=LABELS)
    values: dict[str, Any] = {
        "answer": answered.answer,
        "timeline": draft_timeline(tuning.plan, answered.shown, window),
        "load": load,
        "opened": opened,
        "swap": Markup('hx-swap-oob="true"'),
    }
    return render(request, "tune/answer.html", **values)


@router.post("/tune/{load_id}/keep")
def keep(
    request: Request, state: State, access: BuilderAccess, load_id: str, form: Sent
) -> Response:
    """Write the thresholds into the draft, unless somebody else changed it since it was read."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
    load, rule = subject_of(opened.plan, load_id, typed.get("rule", ""))
    try:
        version = version_of(typed)
        tuning = read_tuning(fields, opened.plan, load, rule)
    except InputError as exc:
        errors = fields.errors or {"version": exc.sentence}
        return _page(request, state, opened, load_id, typed=typed, errors=errors, status=422)
    thresholds = f"{short(tuning.tuning.on)} / {short(tuning.tuning.off)}"

    def change(plan: Plan) -> Plan:
        return read_tuning(fields, plan, *subject_of(plan, load_id, rule.id)).plan

    try:
        what = f"Draft: {load.name} {thresholds}"
        done = edit_draft(state, access, version, change, what, begun_at(typed))
    except DraftMovedError as exc:
        current = replace(opened, draft=exc.current)
        return _page(
            request,
            state,
            current,
            load_id,
            typed=typed,
            moved=exc,
            moved_rows=rows_over(state, access, exc, change),
            status=409,
        )
    where = f"{opened.base}/tune/{load_id}?rule={rule.id}&kept={done.version}"
    return RedirectResponse(where, status_code=303)


@router.post("/tune/{load_id}/events.csv")
def events(
    request: Request, state: State, access: MemberAccess, load_id: str, form: Sent
) -> Response:
    """Every event of a replay with the form’s thresholds and faults, as `aldea replay` has it."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        opened = open_house(connection, access)
        load, rule = subject_of(opened.plan, load_id, typed.get("rule", ""))
        try:
            tuning = read_tuning(fields, opened.plan, load, rule)
        except InputError:
            return _page(
                request, state, opened, load_id, typed=typed, errors=fields.errors, status=422
            )
        replayed = state.replays.replay(
            connection, access.house.id, tuning.plan, now_ms=access.now_ms, faults=tuning.faults,
            of=(rule.band.probe,),
        )  # fmt: skip
    run = replayed.run() if replayed else None
    if run is None:
        raise NotFoundError("readings", got="none", allowed="a recorded log of the probe")
    return Response(
        events_csv(run),
        media_type="text/csv",
        headers={"Content-Disposition": 'attachment; filename="events.csv"'},
    )
