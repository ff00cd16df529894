"""A presence radar: thresholds by gate, what they miss and mistake, the hold time from gaps."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import as_typed, figure, short
from aldea.core.base.instants import span
from aldea.core.calibrate.presence_hold import PresenceHold, hold_of
from aldea.core.calibrate.radar import Gates, gates_of
from aldea.core.calibrate.share import Share
from aldea.core.devices.sensors.serial.model import SerialSensor
from aldea.core.plan.document import Plan, Probe
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Drawing,
    Found,
    Given,
    RecordingsBench,
    Table,
    filled,
    probes_where,
    sensor_of,
    sensor_take,
)
from aldea.web.shell.plot import Scale

BOTTOM, TOP, SLOT, LEFT = 190, 10, 52, 46
MOST_MISSED_1, MOST_FALSE_1 = 0.05, 0.01
ASKS = (
    Ask(name="empty", label="The empty room", rows=4),
    Ask(name="occupied", label="The occupied room", rows=4),
    Ask(name="gaps", label="Gaps in presence, s", rows=2),
    Ask(
        name="quantile_pct",
        label="Quantile of the empty room",
        unit="%",
        first="99.5",
        low=50,
        high=100,
    ),
    Ask(name="margin", label="Margin on top", unit="energy", first="5", high=1e6),
    Ask(name="gate_m", label="A gate is deep", unit="m", first="0.75", low=0.01, high=10),
    Ask(
        name="false_pct",
        label="Switched off falsely, up to",
        unit="%",
        first="5",
        low=0.01,
        high=90,
    ),
    Ask(
        name="confidence_pct",
        label="with confidence of",
        unit="%",
        first="95",
        low=50,
        high=99.99,
    ),
)
BY_NAME = {ask.name: ask for ask in ASKS}


@dataclass(frozen=True, slots=True, kw_only=True)
class GateSpot:
    """A gate in the drawing; `y_…` are heights in it."""

    number: int
    x: float
    y_threshold: float
    y_empty: float
    y_occupied: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GatesDrawing:
    """Energy by gate: threshold, the highest of the empty room, the middle of the occupied one."""

    gates: tuple[GateSpot, ...]
    width: float
    top: str


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return ASKS


def _recording(given: Given, name: str) -> FloatArray:
    rows = given.table(name)
    return np.array(rows, dtype=np.float64).reshape(len(rows), -1 if rows else 0)


def _calculate(given: Given) -> Found:
    empty, occupied = _recording(given, "empty"), _recording(given, "occupied")
    quantile, margin = given.number(BY_NAME["quantile_pct"]), given.number(BY_NAME["margin"])
    gate_m, false = given.number(BY_NAME["gate_m"]), given.number(BY_NAME["false_pct"])
    confidence = given.number(BY_NAME["confidence_pct"])
    gaps = given.figures("gaps", "s")
    given.fields.check()
    try:
        analysis = gates_of(empty, occupied, quantile_1=quantile / 100, margin=margin)
        hold = hold_of(gaps, false_1=false / 100, confidence_1=confidence / 100) if gaps else None
    except CalibrationError as exc:
        where = {"occupied room": "occupied", "gaps": "gaps"}
        raise given.refused(exc, where, "empty") from exc
    thresholds = tuple(float(f"{gate.threshold:.4g}") for gate in analysis.gates)
    facts: dict[str, object] = {"gates": thresholds}
    if hold is not None:
        facts["hold_s"] = hold.hold_s
    return Found(
        verdict=_verdict(given.probe.name, analysis, (len(empty), len(occupied))),
        wide=Drawing(template="calibrate/recordings/radar.html", view=_drawn(analysis)),
        tables=(
            Table(
                bold=frozenset({2}),
                title="Gates",
                head=(
                    "Gate",
                    "Reaches",
                    "Threshold",
                    "Empty room above",
                    "Occupied room below",
                ),
                rows=tuple(
                    (
                        str(i),
                        f"{figure(i * gate_m, 2)} to {figure((i + 1) * gate_m, 2)} m",
                        figure(gate.threshold, 1),
                        _share(gate.false),
                        _share(gate.missed),
                    )
                    for i, gate in enumerate(analysis.gates)
                ),
                figures=frozenset({2, 3, 4}),
            ),
        ),
        facts=_hold_facts(hold) if hold is not None else (),
        takes=sensor_take(f"Save {len(thresholds)} thresholds in the plan", given.subject, **facts),
    )


def _drawn(analysis: Gates) -> GatesDrawing:
    highest = max(
        max(gate.threshold, gate.empty_top, gate.occupied_middle) for gate in analysis.gates
    )
    y = Scale(low=0, high=highest or 1.0, pixel_low=BOTTOM, pixel_high=TOP)
    return GatesDrawing(
        gates=tuple(
            GateSpot(
                number=i,
                x=LEFT + SLOT * i,
                y_threshold=round(y(gate.threshold), 1),
                y_empty=round(y(gate.empty_top), 1),
                y_occupied=round(y(gate.occupied_middle), 1),
            )
            for i, gate in enumerate(analysis.gates)
        ),
        width=LEFT + SLOT * len(analysis.gates) + 8,
        top=figure(highest, 0),
    )


def _hold_facts(hold: PresenceHold) -> tuple[tuple[str, str], ...]:
    bound = f"too few gaps for a bound: {hold.needed} are needed"
    if hold.bound_s is not None:
        bound = f"{span(hold.bound_s)}, the {hold.bound_order}. of the gaps"
    return (
        ("Hold presence for", f"{span(hold.hold_s)}, the {hold.order}. of the gaps"),
        ("With the required confidence", bound),
    )


def _share(share: Share) -> str:
    """What was counted, and up to how much that may be."""
    most = f"under {figure(100 * share.at_most_1, 1)} %"
    return f"{figure(100 * share.counted_1, 1)} %, {most}" if share.count else most


def _verdict(name: str, gates: Gates, rows: tuple[int, int]) -> Verdict:
    head = (
        f"{name}: misses {_share(gates.missed)} of the occupied room, "
        f"mistakes {_share(gates.false)} of the empty one."
    )
    rest = (
        f"From {rows[0]} rows empty and {rows[1]} occupied; “under” with 95 %. Each half of the "
        "empty room was tried by the thresholds of the other."
    )
    if gates.missed.counted_1 > MOST_MISSED_1:
        return Verdict(
            state="fails",
            sentence=head,
            rest="A smaller margin or quantile, or another place for the radar. " + rest,
        )
    if gates.false.counted_1 > MOST_FALSE_1:
        return Verdict(
            state="owed", sentence=head, rest="A wider margin; or what moved in there? " + rest
        )
    return Verdict(state="holds", sentence=head, rest=rest)


def _is_radar(probe: Probe) -> bool:
    return probe.quantity == "presence" and isinstance(probe.sensor, SerialSensor)


def _in_plan(plan: Plan, subject: str) -> str:
    sensor = sensor_of(plan, subject, SerialSensor)
    if not sensor.gates:
        return "The plan has no thresholds yet."
    gates = ", ".join(as_typed(gate) for gate in sensor.gates)
    return f"The plan’s thresholds: {gates}. Held for {short(sensor.hold_s)} s."


RADAR = RecordingsBench(
    key="radar",
    computed="presence",
    called="a presence probe on two serial lines",
    heading="Presence radar",
    does="gates by distance, hold",
    takes="10 min: the empty room, then a person seated",
    subjects=probes_where(_is_radar),
    asks=_fields_of,
    work=_calculate,
    begin="A few minutes of the empty room, and of somebody sitting still in it.",
    nothing="nothing recorded yet.",
    empty="Record the room empty, with its curtains moving and the pet in it if it has one; then "
    "with somebody sitting still at the far end. One row a second, one column a gate; paste both "
    "into the form.",
    enough=filled("empty", "occupied"),
    in_plan=_in_plan,
    action="Compare",
)
