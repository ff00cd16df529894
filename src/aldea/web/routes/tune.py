"""The Tune bench: marks on the trace, what they cost, and keeping them."""

from dataclasses import dataclass, replace
from typing import Any

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from aldea.core.errors import InputError, NotFoundError
from aldea.core.plan.check import CLASSES_THAT_REFUSE_LAST
from aldea.core.plan.codec import plan_text
from aldea.core.plan.document import Load
from aldea.core.plan.edit import Difference, Tuning, differences
from aldea.core.rehearse.rehearsal import Faults, load_consequence
from aldea.core.words.figures import short
from aldea.core.words.verdicts import Verdict
from aldea.formats.events_csv import events_csv
from aldea.store.houses import write_log
from aldea.store.plans import DraftMovedError, keep_draft
from aldea.web.desk import Replayed
from aldea.web.forms import Fields
from aldea.web.pages import Bench, asked_window, open_bench, rail_of, render, render_bench
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.tuning_form import (
    LABELS,
    Asked,
    fault_words,
    read_tuning,
    subject_of,
    words_of,
)
from aldea.web.views.rail import Window, window_of
from aldea.web.views.tune import TuneAnswer, tune_answer, tune_plot

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """The answer and the replay that the rail shows."""

    answer: TuneAnswer
    shown: Replayed
    running_tuning: Tuning | None


def _answer(
    state: AppState,
    connection: Connection,
    bench: Bench,
    asked: Asked,
    load: Load,
    window: Window,
) -> Answered | None:
    """What the asked plan does; None where nothing is recorded."""
    house, now_ms = bench.door.house.id, bench.door.now_ms
    _, claim = subject_of(asked.plan, load.id)
    text = plan_text(asked.plan)
    draft = state.desk.replay(connection, house, asked.plan, text, now_ms=now_ms)
    if draft is None or claim.condition.probe not in draft.traces:
        return None
    shown = draft
    if asked.faults:
        shown = (
            state.desk.replay(
                connection, house, asked.plan, text, now_ms=now_ms, faults=asked.faults
            )
            or draft
        )
    trace = draft.traces[claim.condition.probe]
    beyond = state.desk.beyond(connection, house, asked.plan, claim, trace)
    running, running_sum, running_tuning = None, None, None
    if bench.program is not None:
        plan = bench.program.plan
        claims = [c for c in plan.claims_of(load.id) if c.id == claim.id]
        running = state.desk.replay(connection, house, plan, bench.program.text, now_ms=now_ms)
        if running is not None and claims and load.id in running.rehearsal.timelines:
            running_tuning = Tuning.of(plan, claims[0])
            running_beyond = state.desk.beyond(
                connection, house, plan, claims[0], running.traces[claims[0].condition.probe]
            )
            running_sum = load_consequence(running.rehearsal, claims[0], running_beyond)
    return Answered(
        answer=tune_answer(
            plan=asked.plan,
            claim=claim,
            load=load,
            window=window,
            shown=shown,
            running=running,
            draft_sum=load_consequence(draft.rehearsal, claim, beyond),
            running_sum=running_sum,
            running_tuning=running_tuning,
            faults=asked.faults,
        ),
        shown=shown,
        running_tuning=running_tuning,
    )


def _refused_answer(answer: TuneAnswer, bench: Bench) -> TuneAnswer:
    """The draft's own figures under a verdict that says that they are not the typed ones'."""
    verdict = Verdict(
        mark="fails",
        sentence="Not kept: a field is refused.",
        rest=f"The figures are those of draft {bench.draft.version}, {answer.draft_marks}.",
    )
    return replace(answer, verdict=verdict)


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    load_id: str,
    *,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    kept: bool = False,
    moved: DraftMovedError | None = None,
    moved_rows: tuple[Difference, ...] = (),
    status: int = 200,
) -> Response:
    load, claim = subject_of(bench.plan, load_id)
    draft_tuning = Tuning.of(bench.plan, claim)
    asked = Asked(plan=bench.plan, tuning=draft_tuning, faults=Faults())
    errors = dict(errors or {})
    if typed is not None and not errors:
        fields = Fields(typed)
        try:
            asked = read_tuning(fields, bench.plan, load, claim)
        except InputError:
            errors = fields.errors
    state.engine.check()
    with state.database.begin() as connection:
        first = state.desk.replay(
            connection,
            bench.door.house.id,
            bench.plan,
            bench.draft.text,
            now_ms=bench.door.now_ms,
        )
        window = asked_window(request, bench.door.now_ms, first)
        answered = _answer(state, connection, bench, asked, load, window)
        _, shown_claim = subject_of(asked.plan, load_id)
        plot = None
        if answered is not None:
            plot = tune_plot(
                asked.plan,
                shown_claim,
                answered.shown.traces[claim.condition.probe],
                answered.shown,
                window,
                lambda key, draw: state.desk.picture(connection, bench.door.house.id, key, draw),
            )
    shown = answered.answer if answered else None
    words = {**words_of(asked.tuning), **fault_words(window, bench.plan.house.time_zone)}
    return render_bench(
        request,
        "tune.html",
        bench,
        current="tune",
        rail=rail_of(asked.plan, answered.shown if answered else None, window, "Replay · draft"),
        status=status,
        load=load,
        claim=shown_claim,
        loads=[
            row
            for row in bench.plan.loads
            if row.stage == "working" and bench.plan.claims_of(row.id)
        ],
        plot=plot,
        answer=_refused_answer(answered.answer, bench) if answered and errors else shown,
        running_tuning=answered.running_tuning if answered else None,
        overview_start=answered.shown.start_ms if answered else 0,
        overview_end=answered.shown.end_ms if answered else 0,
        typed={**words, **(typed or {})},
        was=words_of(answered.running_tuning) if answered and answered.running_tuning else {},
        errors=errors,
        kept=kept,
        moved=moved,
        moved_rows=moved_rows,
        version=bench.draft.version,
        needs_reason=load.load_class in CLASSES_THAT_REFUSE_LAST,
    )


@router.get("/tune")
def first(state: State, door: AnyDoor) -> Response:
    """To the first load with a band."""
    with state.database.begin() as connection:
        plan = open_bench(connection, door).plan
    for load in plan.loads:
        if load.stage == "working" and plan.claims_of(load.id):
            return RedirectResponse(f"/h/{door.house.slug}/tune/{load.id}", status_code=303)
    raise NotFoundError(
        "load",
        got="no working load with a band",
        allowed="one in the plan",
        mend="Import a plan that has one.",
    )


@router.get("/tune/{load_id}")
def bench_page(request: Request, state: State, door: AnyDoor, load_id: str) -> Response:
    """The band rule beside the trace."""
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    kept = request.query_params.get("kept") == str(bench.draft.version)
    return _page(request, state, bench, load_id, kept=kept)


@router.post("/tune/{load_id}/answer")
def answer(request: Request, state: State, door: AnyDoor, load_id: str, form: Sent) -> Response:
    """What the marks in the form come to; stores nothing, so that everybody may try."""
    state.engine.check()
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        load, claim = subject_of(bench.plan, load_id)
        try:
            asked = read_tuning(fields, bench.plan, load, claim)
        except InputError:
            return render(request, "_tune_refused.html", errors=fields.errors, labels=LABELS)
        window = window_of(
            now_ms=door.now_ms,
            hours=float(typed["window_h"]) if typed.get("window_h", "").isdigit() else None,
            end_ms=int(typed["window_end"]) if typed.get("window_end", "").isdigit() else None,
            at_ms=int(typed["window_at"]) if typed.get("window_at", "").isdigit() else None,
            first_ms=None,
        )
        answered = _answer(state, connection, bench, asked, load, window)
    if answered is None:
        raise NotFoundError("readings", got="none", allowed="a recorded log of the probe")
    values: dict[str, Any] = {
        "answer": answered.answer,
        "rail": rail_of(asked.plan, answered.shown, window, "Replay · draft"),
        "load": load,
        "bench": bench,
        "oob": True,
    }
    return render(request, "_tune_answer.html", **values)


@router.post("/tune/{load_id}/keep")
def keep(request: Request, state: State, door: BuilderDoor, load_id: str, form: Sent) -> Response:
    """Write the marks into the draft, unless somebody else changed it since it was read."""
    typed = {k: str(v) for k, v in form.items()}
    fields = Fields(typed)
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
    load, claim = subject_of(bench.plan, load_id)
    version = int(fields.number("version", low=1, high=1e9))
    try:
        asked = read_tuning(fields, bench.plan, load, claim)
    except InputError:
        return _page(request, state, bench, load_id, typed=typed, errors=fields.errors, status=422)
    try:
        with state.database.begin() as connection:
            done = keep_draft(
                connection,
                door.house.id,
                asked.plan,
                version_read=version,
                by=door.account,
                at_ms=state.clock(),
            )
            write_log(
                connection,
                door.house.id,
                account=door.account,
                at_ms=door.now_ms,
                what=f"Draft: {load.name} {short(asked.tuning.on)} / {short(asked.tuning.off)}.",
            )
    except DraftMovedError as exc:
        current = replace(bench, draft=exc.current)
        return _page(
            request,
            state,
            current,
            load_id,
            typed=typed,
            moved=exc,
            moved_rows=differences(exc.current.plan, asked.plan),
            status=409,
        )
    return RedirectResponse(f"{bench.base}/tune/{load_id}?kept={done.version}", status_code=303)


@router.get("/tune/{load_id}/events.csv")
def events(state: State, door: AnyDoor, load_id: str) -> Response:
    """Every event of the draft's replay, as `aldea replay` writes it."""
    state.engine.check()
    with state.database.begin() as connection:
        bench = open_bench(connection, door)
        subject_of(bench.plan, load_id)
        replayed = state.desk.replay(
            connection, door.house.id, bench.plan, bench.draft.text, now_ms=door.now_ms
        )
    if replayed is None:
        raise NotFoundError("readings", got="none", allowed="a recorded log of the probe")
    return Response(
        events_csv(replayed.rehearsal.run),
        media_type="text/csv",
        headers={"Content-Disposition": 'attachment; filename="events.csv"'},
    )
