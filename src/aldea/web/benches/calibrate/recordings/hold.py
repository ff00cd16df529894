"""Presence: how long motion is held, from gaps in it."""

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.base.instants import span
from aldea.core.calibrate.presence_hold import gaps_of, held, hold_of
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Table,
    probes_made_as,
    sensor_of,
    sensor_take,
)
from aldea.web.shell.sketch import make_sketch

TRIED_HOLDS_S = (15.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1200.0)


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return (
        Ask(
            name="source",
            label="Detections",
            first="typed",
            options=(("typed", "typed below"), ("record", "the record")),
        ),
        Ask(
            name="detections",
            label="When it detected somebody",
            unit="s",
            rows=6,
            note="An hour with somebody in the room all the time. Blanks or line ends between.",
        ),
        Ask(
            name="false_pct",
            label="Dark too early, up to",
            unit="% of gaps",
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


def _detections(given: Given) -> list[float]:
    if given.fields.choice("source", ("typed", "record")) == "record":
        trace = given.record(given.subject)
        high = trace.raw > 0.5
        rising = np.flatnonzero(high & ~np.concatenate(([False], high[:-1])))
        if len(rising) < 2:
            given.fields.refuse(
                "source", f"{len(rising)} detections on record", "two or more; or type them"
            )
            return []
        return [float(t - trace.t_ms[rising[0]]) / 1000 for t in trace.t_ms[rising]]
    return given.figures("detections", "s")


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    detections = _detections(given)
    false, confidence = given.number(asks["false_pct"]), given.number(asks["confidence_pct"])
    given.fields.check()
    try:
        gaps = gaps_of(detections)
        hold = hold_of(gaps, false_1=false / 100, confidence_1=confidence / 100)
    except CalibrationError as exc:
        raise given.refused(exc, {}, "detections") from exc
    hold_s = hold.bound_s if hold.bound_s is not None else hold.hold_s
    lasted_s = detections[-1] - detections[0]
    rows = []
    tried = sorted({*TRIED_HOLDS_S, round(hold_s, 1)})
    for tried_s in tried:
        spans = held(detections, tried_s)
        on_s = sum(min(b, detections[-1]) - a for a, b in spans)
        rows.append(
            (
                span(tried_s),
                str(len(spans) - 1),
                figure(86_400 * (len(spans) - 1) / lasted_s, 0) if lasted_s else "–",
                f"{figure(100 * on_s / lasted_s, 1)} %" if lasted_s else "–",
            )
        )
    ordered = sorted(gaps)
    shares = [100 * (i + 1) / len(ordered) for i in range(len(ordered))]
    name = given.probe.name
    return Found(
        verdict=Verdict(
            state="holds" if hold.bound_s is not None else "not_shown",
            sentence=f"{name}: hold presence for {span(hold_s)}.",
            rest=f"From {len(gaps)} gaps; "
            + (
                f"{short(confidence)} % sure that no more than {short(false)} % of gaps are longer."
                if hold.bound_s is not None
                else f"{hold.needed} gaps are needed before {short(confidence)} % can be stated."
            ),
        ),
        facts=(
            ("In this recording alone", f"{span(hold.hold_s)}, the {hold.order}. of the gaps"),
            ("Longest gap", span(ordered[-1])),
            ("Recorded", span(lasted_s)),
        ),
        tables=(
            Table(
                title="What a hold would have done while somebody was there",
                head=("Held for", "Went dark", "that is a day", "Lit"),
                rows=tuple(rows),
                figures=frozenset({0, 1, 2, 3}),
                strong=frozenset({tried.index(round(hold_s, 1))}),
            ),
        ),
        sketches=(
            make_sketch(
                "Gaps no longer than that",
                x_words="gap, s",
                y_words="% of all",
                points=[("steps", [0.0, *ordered], [0.0, *shares])],
                moments=[(hold_s, span(hold_s))],
                from_zero=True,
            ),
        ),
        takes=sensor_take(
            f"Save {span(hold_s)} in the plan", given.subject, hold_s=round(hold_s, 1)
        ),
    )


HOLD = RecordingsBench(
    key="hold",
    computed="presence",
    called="a motion detector",
    heading="Motion hold",
    does="hold time from gaps in presence",
    takes="a day of recorded presence",
    subjects=probes_made_as("motion"),
    asks=_fields_of,
    work=_calculate,
    begin="Record an hour in which somebody sits there.",
    empty="Sit in the room for an hour as people do: read, write, sleep. Paste the seconds at "
    "which it detected you, or let the record give them.",
    enough=lambda typed: bool(typed["detections"].strip()) or typed["source"] == "record",
    in_plan=lambda plan, subject: (
        f"The plan holds for {span(sensor_of(plan, subject, MotionSensor).hold_s)}."
        if sensor_of(plan, subject, MotionSensor).hold_s
        else "The plan has no hold time yet."
    ),
)
