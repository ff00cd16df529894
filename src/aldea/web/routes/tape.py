"""The leak tape's page: dry readings in, states, false alarms and wear out."""

import math
import re
from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from aldea.core.calibrate.tape import Watch, baseline_of, edges_of
from aldea.core.errors import CalibrationError, InputError, NotFoundError
from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import LeakTape
from aldea.core.sensing.divider import Divider
from aldea.core.wire.circuit import reader_of
from aldea.core.wire.probe_circuits import divider_of
from aldea.core.words.verdicts import Verdict
from aldea.web.editing import refused_edit
from aldea.web.forms import Fields, number_of, typed_of
from aldea.web.pages import Bench, render_bench
from aldea.web.recordings import keep, listed, opened_again
from aldea.web.routes.record import rail_now
from aldea.web.routes.wire_pages import opened
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.views.tape import Asked, TapeView, make_tape_view

router = APIRouter(prefix="/h/{slug}/tape", include_in_schema=False)
FIRST = {
    "readings": "",
    "damp_pct": "5",
    "wet_pct": "20",
    "samples": "4",
    "in_a_row": "3",
    "interval_s": "60",
    "sample_ms": "2",
    "target": "0.01",
    "stores_a_day": "1",
    "slots": "1",
    "endurance": "100000",
}
MOST_TEXT = 40_000
BITS = 12  # of a converter, where the plan has not yet chosen the board


def tapes(plan: Plan) -> list[tuple[Probe, LeakTape]]:
    """Every probe that is made as a leak tape."""
    return [(p, p.sensor) for p in plan.probes if isinstance(p.sensor, LeakTape)]


def _subject(plan: Plan, probe_id: str) -> tuple[Probe, LeakTape, Divider]:
    for probe, sensor in tapes(plan):
        if probe.id == probe_id:
            return probe, sensor, _divider(plan, probe, sensor)
    raise NotFoundError(
        "probe",
        got=repr(probe_id),
        allowed="a probe that is made as a leak tape",
        mend="Choose how it is made at Lay out.",
    )


def _divider(plan: Plan, probe: Probe, tape: LeakTape) -> Divider:
    kind = reader_of(plan, f"probe:{probe.id}.sense")
    found = divider_of(probe, kind) if kind else None
    return found or Divider(
        side="sensor_high",
        fixed_ohm=tape.fixed_ohm,
        supply_v=3.3,
        reference_v=3.3,
        full_scale_counts=2**BITS - 1,
    )


def _readings(fields: Fields, divider: Divider) -> list[float]:
    text = fields.text("readings", most=MOST_TEXT)
    values = []
    for number, word in enumerate(re.split(r"[\s;]+", text), 1):
        if not word:
            continue
        try:
            value = number_of(word)
        except ValueError:
            value = math.nan
        if not 0 <= value <= divider.full_scale_counts:
            fields.refuse(
                "readings",
                f"{word!r}, the {number}. reading",
                f"counts from 0 to {divider.full_scale_counts}, blanks between",
            )
            break
        values.append(value)
    return values


def _worked(fields: Fields, probe: Probe, tape: LeakTape, divider: Divider) -> TapeView:
    readings = _readings(fields, divider)
    damp = fields.number("damp_pct", low=0.01, high=1000, unit="%")
    wet = fields.number("wet_pct", low=0.01, high=1000, unit="%")
    samples = fields.number("samples", low=1, high=1000)
    in_a_row = fields.number("in_a_row", low=1, high=20)
    interval = fields.number("interval_s", low=0.1, high=86_400, unit="s")
    sample_ms = fields.number("sample_ms", low=0.01, high=1000, unit="ms")
    target = fields.number("target", low=1e-6, high=0.9, unit="a year")
    stores = fields.number("stores_a_day", low=0, high=86_400, unit="a day")
    slots = fields.number("slots", low=1, high=10_000)
    endurance = fields.number("endurance", low=100, high=1e9, unit="writes")
    for name, value in (("samples", samples), ("in_a_row", in_a_row), ("slots", slots)):
        if math.isfinite(value) and value != int(value):
            fields.refuse(name, f"{value:g}", "a whole number")
    fields.check()
    try:
        baseline = baseline_of(readings)
    except CalibrationError as exc:
        fields.refuse_error("readings", exc)
        raise
    try:
        edges = edges_of(
            divider,
            baseline,
            damp_pct=damp,
            wet_pct=wet,
            has_end=tape.end_of_line_ohm is not None,
        )
    except CalibrationError as exc:
        fields.refuse_error("wet_pct", exc)
        raise
    return make_tape_view(
        probe.name,
        tape,
        divider,
        baseline,
        edges,
        sum(edges.state_of(reading) != "dry" for reading in readings),
        Watch(
            samples=int(samples),
            in_a_row=int(in_a_row),
            interval_s=interval,
            sample_ms=sample_ms,
        ),
        Asked(target_1=target, stores_a_day=stores, slots=int(slots), endurance=endurance),
    )


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
    probe, tape, divider = _subject(bench.plan, probe_id)
    typed = {**FIRST, **sent}
    fields = Fields(typed)
    view: TapeView | None = None
    if typed["readings"].strip():
        try:
            view = _worked(fields, probe, tape, divider)
        except (InputError, CalibrationError):
            status = 422
    return render_bench(
        request,
        "tape.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        status=status,
        probe=probe,
        tape=tape,
        divider=divider,
        probes=[p for p, _ in tapes(bench.plan)],
        typed=typed,
        errors=fields.errors,
        view=view,
        recorded=listed(state, bench.door, "tape", probe_id),
        verdict_said=view.verdict
        if view
        else Verdict(
            mark="owed",
            sentence=f"{probe.name}: no dry baseline yet.",
            rest="Ten readings or more of the dry tape tell where it stands and how it scatters.",
        ),
        refusal=refusal,
        version=bench.draft.version,
    )


@router.get("/{probe_id}")
def tape_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """The page, with the readings that the address carries, or a recording opened again."""
    bench = opened(state, door)
    sent = {k: v for k, v in request.query_params.items() if k in FIRST}
    sent |= opened_again(request, state, door, "tape", probe_id)
    return _page(request, state, bench, probe_id, sent)


@router.post("/{probe_id}/take")
def take_threshold(
    request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent
) -> Response:
    """Put the resistance at which the tape is wet into the plan."""
    typed = typed_of(form)
    sent = {key: typed[key] for key in FIRST if key in typed}

    def change(plan: Plan) -> Plan:
        probe, tape, divider = _subject(plan, probe_id)
        view = _worked(Fields({**FIRST, **sent}), probe, tape, divider)
        edges = {"wet_ohm": view.wet_ohm, "damp_ohm": view.damp_ohm}
        made = LeakTape.model_validate({**tape.model_dump(), **edges})
        return put_part(plan, "probe", probe.model_copy(update={"sensor": made}))

    refusal = refused_edit(state, door, typed, change, f"wet threshold of {probe_id}")
    if refusal:
        bench = opened(state, door)
        return _page(request, state, bench, probe_id, sent, refusal=refusal, status=422)
    fields = Fields({**FIRST, **sent})
    found = _worked(fields, *_subject(opened(state, door).plan, probe_id)).verdict.sentence
    keep(state, door, "tape", probe_id, fields.sent, found)
    return RedirectResponse(
        f"/h/{door.house.slug}/tape/{probe_id}?{urlencode(sent)}", status_code=303
    )
