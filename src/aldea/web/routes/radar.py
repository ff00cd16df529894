"""The radar's page: an empty and an occupied room in, thresholds by gate and a hold time out."""

import re

import numpy as np
from fastapi import APIRouter, Request, Response
from numpy.typing import NDArray

from aldea.core.calibrate.hold import hold_of
from aldea.core.calibrate.radar import gates_of
from aldea.core.errors import CalibrationError, InputError, NotFoundError
from aldea.core.plan.build import put_part
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import SerialSensor
from aldea.core.words.verdicts import Verdict
from aldea.formats.pasted import read_rows
from aldea.web.editing import refused_edit
from aldea.web.forms import Fields, number_of, typed_of
from aldea.web.pages import Bench, render_bench
from aldea.web.recordings import keep, listed, opened_again
from aldea.web.routes.record import rail_now
from aldea.web.routes.wire_pages import opened
from aldea.web.security import AnyDoor, BuilderDoor, Sent, State
from aldea.web.state import AppState
from aldea.web.views.radar import RadarView, make_radar_view

router = APIRouter(prefix="/h/{slug}/radar", include_in_schema=False)
FIRST = {
    "empty": "",
    "occupied": "",
    "gaps": "",
    "quantile_pct": "99.5",
    "margin": "5",
    "gate_m": "0.75",
    "false_pct": "5",
    "confidence_pct": "95",
}
MOST_TEXT = 200_000


def _subject(plan: Plan, probe_id: str) -> tuple[Probe, SerialSensor]:
    for probe in plan.probes:
        if probe.id == probe_id and isinstance(probe.sensor, SerialSensor):
            return probe, probe.sensor
    raise NotFoundError(
        "probe",
        got=repr(probe_id),
        allowed="a presence radar on two serial lines",
        mend="Choose how it is made at Lay out.",
    )


def _recording(fields: Fields, name: str) -> NDArray[np.float64]:
    try:
        rows = read_rows(fields.text(name, most=MOST_TEXT))
    except InputError as exc:
        fields.errors.setdefault(name, exc.sentence)
        rows = []
    return np.array(rows, dtype=np.float64).reshape(len(rows), -1 if rows else 0)


def _gaps(fields: Fields) -> list[float]:
    gaps = []
    for word in re.split(r"[\s;]+", fields.text("gaps", most=MOST_TEXT)):
        if not word:
            continue
        try:
            gaps.append(number_of(word))
        except ValueError:
            fields.refuse("gaps", repr(word[:20]), "seconds, blanks between")
            break
    return gaps


def _worked(fields: Fields, probe: Probe) -> RadarView:
    empty, occupied = _recording(fields, "empty"), _recording(fields, "occupied")
    quantile = fields.number("quantile_pct", low=50, high=100, unit="%")
    margin = fields.number("margin", low=0, high=1e6)
    gate_m = fields.number("gate_m", low=0.01, high=10, unit="m")
    false = fields.number("false_pct", low=0.01, high=90, unit="%")
    confidence = fields.number("confidence_pct", low=50, high=99.99, unit="%")
    gaps = _gaps(fields)
    fields.check()
    try:
        found = gates_of(empty, occupied, quantile_1=quantile / 100, margin=margin)
    except CalibrationError as exc:
        fields.refuse_error("occupied" if exc.where == "occupied room" else "empty", exc)
        raise
    try:
        hold = hold_of(gaps, false_1=false / 100, confidence_1=confidence / 100) if gaps else None
    except CalibrationError as exc:
        fields.refuse_error("gaps", exc)
        raise
    return make_radar_view(probe.name, found, hold, gate_m=gate_m, rows=(len(empty), len(occupied)))


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
    probe, sensor = _subject(bench.plan, probe_id)
    typed = {**FIRST, **sent}
    fields = Fields(typed)
    view: RadarView | None = None
    if typed["empty"].strip() or typed["occupied"].strip():
        try:
            view = _worked(fields, probe)
        except (InputError, CalibrationError):
            status = 422
    return render_bench(
        request,
        "radar.html",
        bench,
        current="calibrate",
        rail=rail_now(request, state, bench),
        status=status,
        probe=probe,
        sensor=sensor,
        typed=typed,
        errors=fields.errors,
        view=view,
        recorded=listed(state, bench.door, "radar", probe_id),
        verdict_said=view.verdict
        if view
        else Verdict(
            mark="owed",
            sentence=f"{probe.name}: nothing recorded yet.",
            rest="A few minutes of the empty room, and of somebody sitting still in it.",
        ),
        refusal=refusal,
        version=bench.draft.version,
    )


@router.get("/{probe_id}")
def radar_page(request: Request, state: State, door: AnyDoor, probe_id: str) -> Response:
    """The page before anything is pasted, or with a recording opened again."""
    bench = opened(state, door)
    sent = opened_again(request, state, door, "radar", probe_id)
    return _page(request, state, bench, probe_id, sent)


@router.post("/{probe_id}/compare")
def compare(request: Request, state: State, door: AnyDoor, probe_id: str, form: Sent) -> Response:
    """Compare two recordings; they are too long for an address, and nothing is stored."""
    bench = opened(state, door)
    sent = {k: v for k, v in typed_of(form).items() if k in FIRST}
    return _page(request, state, bench, probe_id, sent)


@router.post("/{probe_id}/take")
def take_gates(
    request: Request, state: State, door: BuilderDoor, probe_id: str, form: Sent
) -> Response:
    """Put thresholds, and the hold time where gaps were given, into the plan."""
    typed = typed_of(form)
    sent = {key: typed[key] for key in FIRST if key in typed}

    def change(plan: Plan) -> Plan:
        probe, sensor = _subject(plan, probe_id)
        view = _worked(Fields({**FIRST, **sent}), probe)
        facts = {**sensor.model_dump(), "gates": view.thresholds}
        if view.hold is not None:
            facts["hold_s"] = view.hold.hold_s
        made = SerialSensor.model_validate(facts)
        return put_part(plan, "probe", probe.model_copy(update={"sensor": made}))

    refusal = refused_edit(state, door, typed, change, f"gates of {probe_id}")
    if not refusal:
        probe, _ = _subject(opened(state, door).plan, probe_id)
        fields = Fields({**FIRST, **sent})
        found = _worked(fields, probe).verdict.sentence
        keep(state, door, "radar", probe_id, fields.sent, found)
    # The recordings are too long for an address: the page is shown at once, with them in it.
    bench = opened(state, door)
    return _page(
        request, state, bench, probe_id, sent, refusal=refusal, status=422 if refusal else 200
    )
