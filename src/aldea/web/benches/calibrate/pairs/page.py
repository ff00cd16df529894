"""What every page of a probe shows: pairs, fit, budget, certificate, and what is being typed."""

import math
from collections.abc import Mapping
from functools import partial
from typing import Any

from fastapi import Request, Response

from aldea.core.base.errors import NotFoundError
from aldea.core.base.figures import as_typed, figure
from aldea.core.base.instants import MS_PER_DAY, stamp
from aldea.core.calibrate.certificate import beyond_words
from aldea.core.calibrate.identical import CarriedLine, identical_probes
from aldea.core.calibrate.methods.method import Method, Stated
from aldea.core.calibrate.methods.registry import METHODS
from aldea.core.calibrate.pairs import Pair, TakenPair
from aldea.core.plan.document import Plan, Probe
from aldea.core.rehearse.rehearsal import starts_per_day
from aldea.core.wiring.evidence import VOID_WORDS, is_void
from aldea.store.bench_drafts import keep_stated, stated_before
from aldea.store.calibrations import certificates, next_number, open_pairs
from aldea.web.benches.calibrate.budget.own_rows import own_carried, own_rows, own_typed
from aldea.web.benches.calibrate.identical.view import to_carry
from aldea.web.benches.calibrate.pairs.pair_forms import PAIR_FORMS
from aldea.web.benches.calibrate.pairs.span import span_view
from aldea.web.benches.calibrate.pairs.view import (
    CalibrateView,
    make_calibrate_view,
    signed_rows,
)
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES
from aldea.web.shell.forms import Fields
from aldea.web.shell.page import OpenHouse, asked_window, render_bench, running_replay, timeline_of
from aldea.web.shell.state import AppState

DAYS_PER_MONTH = 30.4375


def calibrated_probes(plan: Plan) -> list[Probe]:
    """Probes of a quantity that has a method."""
    return [probe for probe in plan.probes if probe.quantity in METHODS]


def probe_of(plan: Plan, probe_id: str) -> tuple[Probe, Method]:
    """A probe with its method; raises `NotFoundError` where it has none."""
    for probe in calibrated_probes(plan):
        if probe.id == probe_id:
            return probe, METHODS[probe.quantity]
    raise NotFoundError(
        "probe",
        got=repr(probe_id),
        allowed="a probe of this house that measures temperature or humidity",
    )


def stated_of(fields: Fields, probe: Probe, method: Method) -> Stated:
    """The figures stated at the bench; those of the method where none were sent."""
    base = method.defaults(probe)
    if not any(name in fields.sent for name in base):
        return base
    read = {
        row.name: fields.number(row.name, low=row.low, high=row.high, unit=row.unit)
        for row in method.stated
    }
    return {key: value if math.isfinite(value) else base[key] for key, value in read.items()}


def stated_along(sent: Mapping[str, str], method: Method, probe: Probe) -> dict[str, str]:
    """What was stated at the bench, as it was sent: figures of the method, rows of one's own."""
    figures = {name: sent[name] for name in method.defaults(probe) if name in sent}
    return {**figures, **own_carried(sent)}


def keep_here(state: AppState, opened: OpenHouse, probe_id: str, stated: Mapping[str, str]) -> None:
    """Keep what is stated at a bench until its certificate is signed."""
    access = opened.access
    with state.database.begin() as connection:
        if stated_before(connection, access.house.id, probe_id) != dict(stated):
            keep_stated(
                connection, access.house.id, probe_id, stated, by=access.account,
                at_ms=access.now_ms,
            )  # fmt: skip


def due_ms(now_ms: int, stated: Stated) -> int:
    """When a certificate signed now asks again."""
    return now_ms + MS_PER_DAY * round(DAYS_PER_MONTH * stated["lasts_months"])


def probe_page(
    request: Request,
    state: AppState,
    opened: OpenHouse,
    figures: tuple[Probe, Method],
    *,
    template: str = "calibrate/pairs/pairs.html",
    typed_pair: Pair | None = None,
    typed: dict[str, str] | None = None,
    errors: dict[str, str] | None = None,
    withdrawn: int | None = None,
    status: int = 200,
    **values: Any,
) -> Response:
    """A page of a probe; `typed_pair` is fitted along, but is not among those taken."""
    house, by = opened.access.house.id, opened.access.account.name
    probe, method = figures
    # What was stated at the bench comes with whatever is pressed there, and stays.
    along = stated_along(typed or {}, method, probe)
    sent = {**along, **{k: str(v) for k, v in request.query_params.items()}}
    here_stated = stated_along(sent, method, probe)
    if not here_stated:
        with state.database.begin() as connection:
            sent = {**stated_before(connection, house, probe.id), **sent}
    fields = Fields(sent)
    stated = stated_of(fields, probe, method)
    own = own_rows(sent, fields.errors)
    # What is typed comes by script, or is sent: never by an address from elsewhere.
    typed_here = request.method == "POST" or "hx-request" in request.headers
    if here_stated and typed_here and opened.access.may_build and not fields.errors:
        keep_here(state, opened, probe.id, here_stated)
    previewed = [TakenPair(id=0, pair=typed_pair, by=by, taken_ms=0)] if typed_pair else []
    with state.database.begin() as connection:
        replayed, mode, plan = running_replay(state, connection, opened)
        window = asked_window(request, opened.access.now_ms, replayed)
        taken = open_pairs(connection, house, probe.id)
        signed = [c for c in certificates(connection, house) if c.probe == probe.id]
        number = next_number(connection, house, opened.plan)
        trace = state.replays.trace(connection, house, probe.id, opened.access.now_ms)

        def times_a_day(plan: Plan) -> dict[str, float]:
            done = state.replays.replay(connection, house, plan, now_ms=opened.access.now_ms)
            figures: dict[str, float] = {}
            for replay in dict.fromkeys(done.loads.values()) if done else ():
                make = partial(starts_per_day, replay.rehearsal, probe.id)
                figures.update(replay.remembered(("starts", probe.id), make))
            return figures

        view = make_calibrate_view(
            opened.plan, probe, method, taken, previewed, (stated, own), times_a_day
        )
    timeline = timeline_of(plan, replayed, window, mode)
    at = trace.at(window.at_ms)
    form = PAIR_FORMS[probe.quantity]
    again = {key: sent[key] for key in form.first if key in sent}
    stated_now = {key: sent.get(key, as_typed(value)) for key, value in stated.items()}
    line = to_carry(probe, view.fit, signed)
    return render_bench(
        request,
        template,
        opened,
        current="calibrate",
        void=VOID_WORDS if is_void(opened.plan, figures[0]) else "",
        timeline=timeline,
        status=status,
        probe=probe,
        method=method,
        computed=method.computed,
        here=f"{opened.base}/calibrate/{probe.id}",
        alike=[p for p in calibrated_probes(opened.plan) if p.quantity == probe.quantity],
        more=_more(opened, probe, line),
        view=view,
        take=form,
        typed={"pasted": "", **form.first, **again, **(typed or {})},
        line=line,
        signs=_signs(probe, method, view, due_ms(opened.access.now_ms, stated), opened),
        version=opened.draft.version,
        errors={**fields.errors, **(errors or {})},
        stated=stated_now,
        asked=[row for row in method.stated if view.one_point or not row.for_one_point],
        unasked={
            row.name: stated_now[row.name]
            for row in method.stated
            if row.for_one_point and not view.one_point
        },
        span=span_view(trace, window, method, sent, timeline.at_words),
        timeline_fields={name: sent[name] for name in ("at", "end", "hours") if name in sent},
        own=own_typed(sent),
        own_carried=own_carried(sent),
        certificates=signed_rows(signed, method),
        next_certificate=number,
        withdrawn=withdrawn,
        raw_now=figure(at[1]) if at else "",
        **values,
    )


def _signs(
    probe: Probe, method: Method, view: CalibrateView, due: int, opened: OpenHouse
) -> dict[str, str]:
    """What is asked before anything is signed: which pairs, how good, until when."""
    shown = [row.id for row in view.rows if row.id]
    return {
        "pairs": ",".join(str(number) for number in shown),
        "asks": f"{probe.name} at ±{view.expanded} {method.unit}, from {len(shown)} pairs, "
        f"due {stamp(due, opened.plan.house.time_zone)}",
        "beyond": beyond_words(view.fit) if view.fit else "",
    }


def _more(opened: OpenHouse, probe: Probe, line: CarriedLine | None) -> list[tuple[str, str]]:
    """What else can be worked out for a probe, as words and address."""
    links = [
        (bench.heading, f"{opened.base}/recordings/{bench.key}/{probe.id}")
        for bench in RECORDINGS_BENCHES.values()
        if any(subject == probe.id for subject, _ in bench.subjects(opened.plan))
    ]
    if line is not None and identical_probes(opened.plan, probe):
        links.append(("Identical probes", f"{opened.base}/calibrate/{probe.id}/identical"))
    return links
