"""A doorway: which sensor is the outer one, and the longest gap between the two."""

import math
import re
from collections.abc import Sequence

from aldea.core.base.errors import CalibrationError, spoken
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.doorway import (
    IN,
    OUT,
    Beam,
    Compared,
    Passage,
    Pulse,
    Side,
    by_beams,
    compared,
    in_order,
    passages_by_beams,
    passages_by_pulses,
    tried_on_others,
    try_gaps,
    turned_round,
    wrong_in_total,
)
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Table,
    filled,
    probes_made_as,
    sensor_of,
    sensor_take,
)
from aldea.web.shell.sketch import make_sketch

WAYS = {"in": IN, "out": OUT}
SEEN_WITHIN_S = 5.0  # a person who notes passages is not quicker
MOST_NAMED = 5
FEWEST_TO_TRY = 8  # persons: half of them set the gap, half try it
TRIED_GAPS_S = (*(0.25 * k for k in range(1, 25)), *(0.5 * k for k in range(13, 31)))
MOST_WRONG_1 = 0.25  # of all persons: above it no gap is worth saving


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    others = tuple(
        (p.id, p.name)
        for p in plan.probes
        if isinstance(p.sensor, MotionSensor) and p.id != subject
    )
    sensor = sensor_of(plan, subject, MotionSensor)
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
        Ask(
            name="persons",
            label="Or each of them, one a line: seconds and in or out",
            rows=4,
            note="Then errors are counted person by person: totals hide one missed and one too "
            "many.",
        ),
    )


def _persons(given: Given) -> list[Passage]:
    """Who was seen to pass, when, and which way."""
    rows: list[Passage] = []
    for number, line in enumerate(given.text("persons").splitlines(), 1):
        words = [w for w in re.split(r"[\s;,]+", line.strip().lower()) if w]
        if not words:
            continue
        if len(words) != 2 or words[1] not in WAYS or not re.fullmatch(r"\d+(\.\d+)?", words[0]):
            refusal = spoken(repr(line[:40]), "a line such as 12.5 in, or 40 out")
            given.fields.say("persons", f"Line {number}: {refusal}")
            return []
        rows.append((float(words[0]), WAYS[words[1]]))
    return sorted(rows)


def _one_by_one(passages: tuple[Passage, ...], persons: list[Passage]) -> Compared | None:
    return compared(passages, persons, within_s=SEEN_WITHIN_S) if persons else None


def _facts_of(by_person: Compared | None) -> tuple[tuple[str, str], ...]:
    if by_person is None:
        return ()
    named = ", ".join(f"{short(at)} s" for at, _ in by_person.missed[:MOST_NAMED])
    missed = f": {named}" if named else ""
    extra = ", ".join(f"{short(at)} s" for at, _ in by_person.extra[:MOST_NAMED])
    bound = f"under {figure(100 * by_person.share.at_most_1, 1)} % with 95 %"
    return (
        (
            "Missed",
            f"{len(by_person.missed)} of {by_person.persons}, {bound}{missed}",
        ),
        ("Counted, not there", f"{len(by_person.extra)}{f': {extra}' if extra else ''}"),
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
            refusal = spoken(repr(line[:40]), "a line such as 12.5 A, or 12.5 A 1 for a beam")
            given.fields.say("passes", f"Line {number}: {refusal}")
            return []
        side: Side = "A" if words[1].upper() == "A" else "B"
        rows.append((at, side, int(words[2]) if len(words) == 3 else -1))
    if rows and len({row[2] < 0 for row in rows}) > 1:
        given.fields.refuse("passes", "rows with and without a state", "one kind of rows")
    return rows


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    beams = _passes(given)
    entries, exits = given.whole(asks["entries"]), given.whole(asks["exits"])
    persons = _persons(given)
    if persons:
        entries = sum(way == IN for _, way in persons)
        exits = len(persons) - entries
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
        return _beams_found(given, beams, entries, exits, persons)
    pulses: list[Pulse] = [(at, side) for at, side, _ in beams]

    def wrong_of(passages: Sequence[Passage]) -> int:
        if persons:
            return compared(passages, persons, within_s=SEEN_WITHIN_S).wrong
        return wrong_in_total(passages, entries=entries, exits=exits)

    rows, best = try_gaps(pulses, wrong_of=wrong_of, gaps_s=TRIED_GAPS_S)
    _, other = try_gaps(turned_round(pulses), wrong_of=wrong_of, gaps_s=TRIED_GAPS_S)
    name, gap = given.probe.name, best.longest_gap_s
    passed = entries + exits
    each = _one_by_one(passages_by_pulses(pulses, longest_gap_s=gap), persons)
    wrong = best.wrong
    others: tuple[tuple[str, str], ...] = ()
    if len(persons) >= FEWEST_TO_TRY:
        set_s, tried = tried_on_others(pulses, persons, gaps_s=TRIED_GAPS_S, within_s=SEEN_WITHIN_S)
        words = f"{tried.wrong} of {tried.persons} wrong, with {short(set_s)} s set by the first"
        others = (("Tried on the second half", words),)
    if other.wrong < best.wrong:
        verdict = Verdict(
            state="fails",
            sentence=f"{name}: the order is the other way round.",
            rest=f"With A and B exchanged {other.wrong} are wrong instead of {best.wrong}. "
            "Open the bench of the other sensor, or change the wires.",
        )
    elif wrong > MOST_WRONG_1 * passed:
        verdict = Verdict(
            state="fails",
            sentence=f"{name}: no longest gap up to {short(TRIED_GAPS_S[-1])} s counts right.",
            rest=f"The best counts {wrong} of {passed} persons wrong. Move the two sensors closer "
            "together, narrow what they see, or count with two beams.",
        )
    else:
        verdict = Verdict(
            state="holds" if not wrong else "owed",
            sentence=f"{name}: a longest gap of {short(gap)} s counts {wrong} of {passed} "
            "persons wrong.",
            rest="Two at once and turning back are not told apart."
            if wrong
            else "The middle of the gaps that count all right.",
        )
    return Found(
        verdict=verdict,
        facts=(
            ("Counted with it", f"{best.count.entries} in, {best.count.exits} out"),
            ("Inside at the end, from nobody", str(best.count.inside)),
            *_facts_of(each),
            *others,
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
                strong=frozenset({rows.index(best)}),
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
        takes=sensor_take(
            f"Save both sensors and {short(gap)} s in the plan",
            given.subject,
            inner=inner or None,
            longest_gap_s=gap,
        )
        if inner and verdict.state != "fails"
        else (),
    )


def _beams_found(
    given: Given, beams: list[Beam], entries: int, exits: int, persons: list[Passage]
) -> Found:
    count = by_beams(beams)
    each = _one_by_one(passages_by_beams(beams), persons)
    totals = {"entries": entries, "exits": exits}
    wrong = wrong_in_total(passages_by_beams(beams), **totals) if each is None else each.wrong
    turned: list[Beam] = [(at, "B" if side == "A" else "A", on) for at, side, on in beams]
    swapped = wrong_in_total(passages_by_beams(turned), **totals)
    name = given.probe.name
    sentence = f"{name}: two beams count {wrong} of {entries + exits} persons wrong."
    return Found(
        verdict=Verdict(
            state="fails" if swapped < wrong else "holds" if not wrong else "owed",
            sentence=f"{name}: the order is the other way round." if swapped < wrong else sentence,
            rest=f"With A and B exchanged {swapped} are wrong instead of {wrong}."
            if swapped < wrong
            else "Turning back counts nothing; no gap is needed with beams that overlap.",
        ),
        facts=(
            ("Counted", f"{count.entries} in, {count.exits} out"),
            ("Inside at the end", str(count.inside)),
            *_facts_of(each),
        ),
    )


def _pair_in_plan(plan: Plan, subject: str) -> str:
    sensor = sensor_of(plan, subject, MotionSensor)
    inner = plan.probe(sensor.inner) if sensor.inner else None
    if inner is None:
        return "The plan has no pair here yet."
    return f"The plan: inside it is {inner.name}, longest gap {short(sensor.longest_gap_s)} s."


DOORWAY = RecordingsBench(
    key="doorway",
    computed="presence",
    called="the outer one of two motion detectors",
    heading="Doorway",
    does="order, longest gap, count errors",
    takes="10 min: some 20 passages",
    subjects=probes_made_as("motion"),
    asks=_fields_of,
    work=_calculate,
    begin="Record an hour at the door while somebody counts.",
    empty="Somebody sits at the door for an hour and counts who comes and goes; both sensors "
    "record each activation. Aldea tries every longest gap against that count.",
    enough=filled("passes"),
    in_plan=_pair_in_plan,
)
