"""Presence: how long motion is held, which sensor of a doorway pair is the outer one."""

import math
import re

import numpy as np

from aldea.core.calibrate.doorway import (
    Beam,
    Pulse,
    Side,
    by_beams,
    in_order,
    try_gaps,
    turned_round,
    wrong_persons,
)
from aldea.core.calibrate.hold import gaps_of, held, hold_of
from aldea.core.errors import CalibrationError
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import MotionSensor
from aldea.core.words.figures import figure, short
from aldea.core.words.times import span
from aldea.core.words.verdicts import Verdict
from aldea.web.trials.base import (
    Ask,
    Found,
    Given,
    Table,
    Trial,
    filled,
    probes_where,
    sensor_change,
    sensor_of,
)
from aldea.web.views.sketch import make_sketch

TRIED_HOLDS_S = (15.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1200.0)
TRIED_GAPS_S = tuple(round(0.25 * k, 2) for k in range(1, 25))


def _is_motion(probe: Probe) -> bool:
    return isinstance(probe.sensor, MotionSensor)


def _sensor(plan: Plan, subject: str) -> MotionSensor:
    return sensor_of(plan, subject, MotionSensor)


def _hold_asks(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
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
    return given.figures("detections")


def _hold_work(given: Given) -> Found:
    asks = {ask.name: ask for ask in _hold_asks(given.plan, given.subject)}
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
            mark="holds" if hold.bound_s is not None else "not_shown",
            sentence=f"{name}: hold presence for {span(hold_s)}.",
            rest=f"From {len(gaps)} gaps; "
            + (
                f"{short(confidence)} % sure that no more than {short(false)} % of gaps are longer."
                if hold.bound_s is not None
                else f"{hold.needed} gaps are needed before {short(confidence)} % can be promised."
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
                strong=tried.index(round(hold_s, 1)),
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
        change=sensor_change(given.subject, hold_s=round(hold_s, 1)),
        taken=f"Take {span(hold_s)} into the plan",
    )


HOLD = Trial(
    key="hold",
    called="a motion detector",
    heading="Motion hold",
    subjects=probes_where(_is_motion),
    asks=_hold_asks,
    work=_hold_work,
    begin="Record an hour in which somebody sits there.",
    empty="Sit in the room for an hour as people do: read, write, sleep. Paste the seconds at "
    "which it detected you, or let the record give them.",
    enough=lambda typed: bool(typed["detections"].strip()) or typed["source"] == "record",
    in_plan=lambda plan, subject: (
        f"The plan holds for {span(_sensor(plan, subject).hold_s)}."
        if _sensor(plan, subject).hold_s
        else "The plan has no hold time yet."
    ),
)


def _doorway_asks(plan: Plan, subject: str) -> tuple[Ask, ...]:
    others = tuple((p.id, p.name) for p in plan.probes if _is_motion(p) and p.id != subject)
    sensor = _sensor(plan, subject)
    return (
        Ask(
            name="inner",
            label="The inner sensor",
            first=sensor.inner or (others[0][0] if others else ""),
            options=others or (("", "no second motion detector"),),
        ),
        Ask(
            name="passes",
            label="Activations, one a line: seconds and A or B",
            rows=8,
            note="A is this one, outside; B is inside. For beams a third column: 1 "
            "interrupted, 0 free.",
        ),
        Ask(
            name="entries",
            label="Came in",
            unit="counted",
            first="0",
            high=10_000,
            heading="What a person at the door counted",
        ),
        Ask(name="exits", label="Went out", unit="counted", first="0", high=10_000),
    )


def _passes(given: Given) -> list[Beam]:
    rows: list[Beam] = []
    text = given.text("passes")
    for number, line in enumerate(text.splitlines(), 1):
        words = [w for w in re.split(r"[\s;,]+", line.strip()) if w]
        if not words:
            continue
        ok = len(words) in (2, 3) and words[1].upper() in ("A", "B")
        ok = ok and (len(words) == 2 or words[2] in ("0", "1"))
        at = float(words[0]) if re.fullmatch(r"\d+(\.\d+)?", words[0]) else math.nan
        if not ok or math.isnan(at):
            given.fields.refuse(
                "passes", f"line {number}, {line[:40]!r}", "such as 12.5 A, or 12.5 A 1 for a beam"
            )
            return []
        side: Side = "A" if words[1].upper() == "A" else "B"
        rows.append((at, side, int(words[2]) if len(words) == 3 else -1))
    if rows and len({row[2] < 0 for row in rows}) > 1:
        given.fields.refuse("passes", "rows with and without a state", "one kind of rows")
    return rows


def _doorway_work(given: Given) -> Found:
    asks = {ask.name: ask for ask in _doorway_asks(given.plan, given.subject)}
    beams = _passes(given)
    entries, exits = given.whole(asks["entries"]), given.whole(asks["exits"])
    inner = given.fields.choice("inner", tuple(o for o, _ in asks["inner"].options))
    given.fields.check()
    try:
        in_order([row[0] for row in beams])
    except CalibrationError as exc:
        raise given.refused(exc, {}, "passes") from exc
    if not beams:
        given.fields.refuse("passes", "no activations", "one a line, such as 12.5 A")
        given.fields.check()
    if beams[0][2] >= 0:
        return _beams_found(given, beams, entries, exits)
    pulses: list[Pulse] = [(at, side) for at, side, _ in beams]
    rows, best = try_gaps(pulses, entries=entries, exits=exits, gaps_s=TRIED_GAPS_S)
    _, other = try_gaps(turned_round(pulses), entries=entries, exits=exits, gaps_s=TRIED_GAPS_S)
    name, gap = given.probe.name, best.longest_gap_s
    passed = entries + exits
    if other.wrong < best.wrong:
        verdict = Verdict(
            mark="fails",
            sentence=f"{name}: the order is the other way round.",
            rest=f"With A and B changed over {other.wrong} are wrong instead of {best.wrong}. "
            "Open the bench of the other sensor, or change the wires.",
        )
    else:
        verdict = Verdict(
            mark="holds" if not best.wrong else "owed",
            sentence=f"{name}: a longest gap of {short(gap)} s counts {best.wrong} of {passed} "
            "persons wrong.",
            rest="Two at once and turning back are not told apart."
            if best.wrong
            else "The middle of the gaps that count all right.",
        )
    return Found(
        verdict=verdict,
        facts=(
            ("Counted with it", f"{best.count.entries} in, {best.count.exits} out"),
            ("Inside at the end, from nobody", str(best.count.inside)),
        ),
        tables=(
            Table(
                title="Longest gaps tried",
                head=("Gap", "In", "Out", "Wrong"),
                rows=tuple(
                    (
                        f"{figure(r.longest_gap_s, 2)} s",
                        str(r.count.entries),
                        str(r.count.exits),
                        str(r.wrong),
                    )
                    for r in rows
                ),
                figures=frozenset({0, 1, 2, 3}),
                strong=rows.index(best),
            ),
        ),
        sketches=(
            make_sketch(
                "Counted wrong over the longest gap",
                x_words="longest gap, s",
                y_words="persons",
                points=[("line", [r.longest_gap_s for r in rows], [float(r.wrong) for r in rows])],
                moments=[(gap, f"{short(gap)} s")],
                from_zero=True,
            ),
        ),
        change=sensor_change(given.subject, inner=inner or None, longest_gap_s=gap)
        if inner and verdict.mark != "fails"
        else None,
        taken=f"Take the pair and {short(gap)} s into the plan",
    )


def _beams_found(given: Given, beams: list[Beam], entries: int, exits: int) -> Found:
    count = by_beams(beams)
    wrong = wrong_persons(count, entries=entries, exits=exits)
    turned: list[Beam] = [(at, "B" if side == "A" else "A", on) for at, side, on in beams]
    swapped = wrong_persons(by_beams(turned), entries=entries, exits=exits)
    name = given.probe.name
    sentence = f"{name}: two beams count {wrong} of {entries + exits} persons wrong."
    return Found(
        verdict=Verdict(
            mark="fails" if swapped < wrong else "holds" if not wrong else "owed",
            sentence=f"{name}: the order is the other way round." if swapped < wrong else sentence,
            rest=f"With A and B changed over {swapped} are wrong instead of {wrong}."
            if swapped < wrong
            else "Turning back counts nothing; no gap is needed with beams that overlap.",
        ),
        facts=(
            ("Counted", f"{count.entries} in, {count.exits} out"),
            ("Inside at the end", str(count.inside)),
        ),
    )


def _pair_in_plan(plan: Plan, subject: str) -> str:
    sensor = _sensor(plan, subject)
    inner = plan.probe(sensor.inner) if sensor.inner else None
    if inner is None:
        return "The plan has no pair here yet."
    return f"The plan: inside it is {inner.name}, longest gap {short(sensor.longest_gap_s)} s."


DOORWAY = Trial(
    key="doorway",
    called="the outer one of two motion detectors",
    heading="Doorway pair",
    subjects=probes_where(_is_motion),
    asks=_doorway_asks,
    work=_doorway_work,
    begin="Record an hour at the door while somebody counts.",
    empty="Somebody sits at the door for an hour and counts who comes and goes; the two "
    "sensors record when each of them speaks. Aldea tries every longest gap against that count.",
    enough=filled("passes"),
    in_plan=_pair_in_plan,
)
