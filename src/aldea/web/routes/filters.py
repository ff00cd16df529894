"""The filters page: mean, median and exponential tried on the recorded trace at the scrubber."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.errors import NotFoundError
from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan, Probe, Smoothing
from aldea.core.words.figures import UNIT
from aldea.core.words.verdicts import Verdict
from aldea.web.editing import refused_edit
from aldea.web.forms import Fields, typed_of
from aldea.web.pages import (
    Bench,
    asked_window,
    rail_of,
    render_bench,
    running_replay,
)
from aldea.web.routes.wire_pages import opened
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.views.filters import NAMES, FiltersView, make_filters_view

router = APIRouter(prefix="/h/{slug}/filters", include_in_schema=False)
FIRST = {"window": "9", "tau_s": "60", "drawn": "median"}


def _probe(plan: Plan, probe_id: str) -> Probe:
    found = plan.probe(probe_id)
    if found is None:
        raise NotFoundError("probe", got=repr(probe_id), allowed="a probe of this house")
    return found


def _page(
    request: Request,
    state: AppState,
    bench: Bench,
    probe_id: str,
    sent: dict[str, str],
    *,
    refusal: str = "",
    status: int = 200,
) -> Response:
    probe = _probe(bench.plan, probe_id)
    typed = {**FIRST, **sent}
    fields = Fields(typed)
    window_n = fields.number("window", low=1, high=61, unit="readings")
    tau_s = fields.number("tau_s", low=0.1, high=86_400, unit="s")
    drawn = fields.choice("drawn", NAMES)
    if not fields.errors and window_n != int(window_n):
        fields.refuse("window", f"{window_n:g}", "a whole number")
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, bench)
        window = asked_window(request, bench.door.now_ms, replayed)
        trace = state.desk.trace(connection, bench.door.house.id, probe.id, bench.door.now_ms)
    view: FiltersView | None = None
    if not fields.errors:
        view = make_filters_view(
            probe.name,
            UNIT[probe.quantity],
            trace.between(window.start_ms, window.end_ms),
            window=int(window_n),
            tau_s=tau_s,
            drawn=drawn,
        )
    return render_bench(
        request,
        "filters.html",
        bench,
        current="calibrate",
        rail=rail_of(plan, replayed, window, mode),
        status=422 if fields.errors else status,
        probe=probe,
        typed=typed,
        errors=fields.errors,
        view=view,
        names=list(NAMES.items()),
        verdict_said=view.verdict
        if view
        else Verdict(
            mark="owed",
            sentence=f"{probe.name}: too few readings in this window.",
            rest="Import a log at Record, or move the window of the rail.",
        ),
        refusal=refusal,
        version=bench.draft.version,
    )


@router.get("/{probe_id}")
def filters_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """All three on the readings of the rail's window."""
    bench = opened(state, door)
    sent = {k: v for k, v in request.query_params.items() if k in FIRST}
    return _page(request, state, bench, probe_id, sent)


@router.post("/{probe_id}/take")
def take_smoothing(
    request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent
) -> Response:
    """Put the exponential filter into the plan, or take it out."""
    typed = typed_of(form)
    sent = {key: typed[key] for key in FIRST if key in typed}
    out = typed.get("action") == "out"

    def change(plan: Plan) -> Plan:
        fields = Fields(typed)
        tau_s = 1.0 if out else fields.number("tau_s", low=0.1, high=86_400, unit="s")
        fields.check()
        smoothing = None if out else Smoothing(tau_s=tau_s)
        probe = _probe(plan, probe_id).model_copy(update={"smoothing": smoothing})
        return put_part(plan, "probe", probe)

    refusal = refused_edit(state, door, typed, change, f"smoothing of {probe_id}")
    if refusal:
        bench = opened(state, door)
        return _page(request, state, bench, probe_id, sent, refusal=refusal, status=422)
    return RedirectResponse(
        f"/h/{door.house.slug}/filters/{probe_id}?{urlencode(sent)}", status_code=303
    )
