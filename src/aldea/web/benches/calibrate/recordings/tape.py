"""A leak tape: its states from a dry baseline, how often noise alone alarms, response, wear."""

import math
import re
from dataclasses import dataclass, replace

from aldea.core.base.errors import CalibrationError, spoken
from aldea.core.base.figures import figure, ohms, short, thousands, years
from aldea.core.base.instants import span
from aldea.core.base.numbers import number_of
from aldea.core.calibrate.tape import (
    Baseline,
    Watch,
    again_1,
    baseline_of,
    cell_years,
    check_steady,
    exceeds_1,
    margin_for,
    outliers_of,
    run_1,
    starts_a_year,
    water_ohm,
)
from aldea.core.devices.sensors.leak_tape.device import tape_divider
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.leak_tape.states import Edges, check_dry, edges_of, settling_s
from aldea.core.physics.divider import Divider
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Beside,
    Drawing,
    Found,
    Given,
    RecordingsBench,
    Table,
    filled,
    probes_made_as,
    sensor_of,
    sensor_take,
)
from aldea.web.benches.calibrate.recordings.tape_states import (
    often,
    rare,
    states_drawing,
    water_words,
)

MOST_NAMED = 4  # of counts that stand far out
USUAL_BITS = 12  # of a converter, where the plan has not yet chosen the board
ASKS = (
    Ask(name="readings", label="Counts of the dry tape, blanks between", rows=4),
    Ask(
        name="damp_pct", label="Damp from the baseline by", unit="%", first="5", low=0.01, high=1000
    ),
    Ask(
        name="wet_pct", label="Wet from the baseline by", unit="%", first="20", low=0.01, high=1000
    ),
    Ask(
        name="kept_as",
        label="Kept as",
        first="percent",
        options=(("percent", "percent of the baseline"), ("ohms", "ohms, as found now")),
    ),
    Ask(
        name="each_is",
        label="Each count is",
        first="averaged",
        options=(("averaged", "an average, as the board reads"), ("single", "a single sample")),
    ),
    Ask(
        name="outliers",
        label="Outlying counts",
        first="keep",
        options=(("keep", "are kept"), ("leave", "are left out")),
    ),
    Ask(name="samples", label="Samples averaged", unit="samples", first="4", low=1, high=1000),
    Ask(name="in_a_row", label="Readings in a row", unit="readings", first="3", low=1, high=20),
    Ask(name="interval_s", label="A reading every", unit="s", first="60", low=0.1, high=86_400),
    Ask(name="sample_ms", label="A sample takes", unit="ms", first="2", low=0.01, high=1000),
    Ask(
        name="target",
        label="Acceptable false alarms",
        unit="a year",
        first="0.01",
        low=1e-6,
        high=0.9,
    ),
    Ask(name="stores_a_day", label="Baseline is stored", unit="a day", first="1", high=86_400),
    Ask(name="slots", label="Cells in the ring", unit="cells", first="1", low=1, high=10_000),
    Ask(name="endurance", label="A cell bears", unit="writes", first="100000", low=100, high=1e9),
)
BY_NAME = {ask.name: ask for ask in ASKS}


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return ASKS


def divider_of(given: Given, tape: LeakTape) -> Divider:
    """The divider on its board; on a usual converter where it has no pin yet."""
    return tape_divider(given.probe, tape, given.plan) or Divider(
        side=tape.side,
        fixed_ohm=tape.fixed_ohm,
        supply_v=3.3,
        reference_v=3.3,
        full_scale_counts=2**USUAL_BITS - 1,
    )


def _readings(given: Given, divider: Divider) -> list[float]:
    values = []
    for number, word in enumerate(re.split(r"[\s;]+", given.text("readings")), 1):
        if not word:
            continue
        try:
            value = number_of(word)
        except ValueError:
            value = math.nan
        if not 0 <= value <= divider.full_scale_counts:
            wanted = f"counts from 0 to {thousands(divider.full_scale_counts)}, blanks between"
            refusal = spoken(repr(word[:20]), wanted)
            given.fields.say("readings", f"Reading {number}: {refusal}")
            break
        values.append(value)
    return values


def _calculate(given: Given) -> Found:
    tape = sensor_of(given.plan, given.subject, LeakTape)
    divider = divider_of(given, tape)
    readings = _readings(given, divider)
    damp, wet = given.number(BY_NAME["damp_pct"]), given.number(BY_NAME["wet_pct"])
    watch = Watch(
        samples=given.whole(BY_NAME["samples"]),
        in_a_row=given.whole(BY_NAME["in_a_row"]),
        interval_s=given.number(BY_NAME["interval_s"]),
        sample_ms=given.number(BY_NAME["sample_ms"]),
    )
    target = given.number(BY_NAME["target"])
    stores, slots = given.number(BY_NAME["stores_a_day"]), given.whole(BY_NAME["slots"])
    endurance = given.number(BY_NAME["endurance"])
    averaged = given.fields.sent.get("each_is") != "single"
    far = outliers_of(readings)
    leaves = given.fields.sent.get("outliers") == "leave"
    given.fields.check()
    kept = [value for i, value in enumerate(readings) if not (leaves and i in far)]
    try:
        baseline = baseline_of(kept)
        check_steady(baseline)
        check_dry(tape, divider, baseline.mean)
        edges = edges_of(
            divider,
            baseline.mean,
            damp_pct=damp,
            wet_pct=wet,
            has_end=tape.end_of_line_ohm is not None,
        )
    except CalibrationError as exc:
        raise given.refused(exc, {"readings": "readings"}, "wet_pct") from exc
    strays = sum(edges.state_of(reading) != "dry" for reading in kept)
    sd = baseline.reading_sd(watch.samples, averaged=averaged)
    drawn = states_drawing(divider, baseline, edges, strays)
    alarms = _alarms(edges, baseline, sd, watch, baseline.together_1 if averaged else None)
    margin = margin_for(sd, replace(watch, samples=1), target)
    wet_ohm = float(f"{divider.sensor_ohm(edges.wet_at) or 1.0:.3g}")
    damp_ohm = float(f"{divider.sensor_ohm(edges.damp_at) or 1.0:.3g}")
    water = water_ohm(divider, baseline.mean, edges.wet_at)
    worst = max(alarm.starts_a_year for alarm in alarms)
    needed = f"{figure(margin, 1)} counts, {figure(100 * margin / baseline.mean, 2)} %"
    cell = years(cell_years(slots, endurance, stores))
    return Found(
        verdict=_verdict(given.probe.name, worst, target, water, margin, baseline),
        wide=Drawing(template="calibrate/recordings/tape.html", view=drawn),
        tables=(
            Table(
                bold=frozenset({0}),
                title="States, without a hole",
                head=("State", "Counts", "Water on the tape", "Tape and water together"),
                rows=tuple((row.name, row.counts, row.water, row.whole) for row in drawn.states),
                figures=frozenset({1, 2, 3}),
            ),
            Table(
                bold=frozenset({0}),
                title="False alarms by noise alone",
                head=("To", "Margin", "One reading", "Any in a year", "Alarms a year"),
                rows=tuple(alarm.row for alarm in alarms),
                figures=frozenset({1, 2, 3, 4}),
            ),
        ),
        facts=(
            ("One reading scatters", _scatters(baseline, sd, watch, averaged=averaged)),
            *(
                (("Far out", f"{_named(readings, far)}: {'left out' if leaves else 'kept'}"),)
                if far
                else ()
            ),
            ("For the acceptable rate", f"{needed} from the baseline"),
            ("From wet to alarm", f"{span(watch.slowest_s + settling_s(tape))} at the most"),
            (
                "Current flows",
                f"{figure(100 * watch.share_fed_1, 4)} % of the time; {_corrodes(tape, watch)}",
            ),
            ("The baseline’s cell lasts", f"{cell} years"),
        ),
        takes=sensor_take(
            f"Save wet at {ohms(wet_ohm)}, damp at {ohms(damp_ohm)} in the plan",
            given.subject,
            wet_ohm=wet_ohm,
            damp_ohm=damp_ohm,
            baseline_counts=round(baseline.mean, 2),
            wet_pct=wet,
            damp_pct=damp,
            thresholds="percent" if given.fields.sent.get("kept_as") == "percent" else "ohms",
            samples=watch.samples,
            in_a_row=watch.in_a_row,
            interval_s=watch.interval_s,
        ),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Alarm:
    """An alarming state, its row in the table, and how often noise alone reaches it in a year."""

    row: tuple[str, ...]
    starts_a_year: float


def _alarms(
    edges: Edges, baseline: Baseline, sd: float, watch: Watch, together: float | None
) -> tuple[_Alarm, ...]:
    """Each alarming state with its margin and the odds of dry readings beyond it."""
    alarms = []
    n, k = watch.readings_a_year, watch.in_a_row
    for state, edge in (("damp", edges.damp_at), ("wet", edges.wet_at)):
        margin = abs(edge - baseline.mean)
        p = exceeds_1(margin, sd, 1)
        again = again_1(margin, sd, together) if together is not None and p > 0 else None
        starts = starts_a_year(p, k, n, again)
        row = (
            state,
            f"{figure(margin, 1)} counts, {figure(margin / sd, 1)} σ",
            rare(p),
            rare(run_1(p, k, n, again)),
            rare(starts),
        )
        alarms.append(_Alarm(row=row, starts_a_year=starts))
    return tuple(alarms)


def _scatters(baseline: Baseline, sd: float, watch: Watch, *, averaged: bool) -> str:
    """The noise of one reading, and what it rests on."""
    if averaged:
        text = f"{figure(sd, 2)} counts, as recorded"
    else:
        text = f"{figure(sd, 2)} counts, {watch.samples} samples of {figure(baseline.sd, 2)} each"
    if baseline.together_1 is None:
        few = f"{baseline.count} readings are too few to show whether they are correlated"
        return f"{text}; {few}: counted as independent"
    return f"{text}; correlation of one step: {figure(baseline.together_1, 2)}"


def _named(readings: list[float], far: tuple[int, ...]) -> str:
    """The first of those that stand out, by their place and what they are."""
    names = [f"the {i + 1}. is {short(readings[i])}" for i in far[:MOST_NAMED]]
    more = len(far) - MOST_NAMED
    return ", ".join(names) + (f", and {more} more" if more > 0 else "")


def _verdict(
    name: str,
    worst: float,
    target_1: float,
    water: float | None,
    margin: float,
    baseline: Baseline,
) -> Verdict:
    wet = f"water of {water_words(water)} and less is wet" if water else "wet needs no water"
    if worst <= target_1:
        return Verdict(
            state="holds",
            sentence=f"{name}: {wet}; noise alone alarms {often(worst)}.",
            rest="Noise that is correlated over hours alarms more often. Watch it for a week.",
        )
    needed = figure(100 * margin / baseline.mean, 2)
    return Verdict(
        state="fails",
        sentence=f"{name}: noise alone would alarm {often(worst)}.",
        rest=f"{short(target_1)} a year wants {needed} % or more, or more samples, or more in a "
        "row.",
    )


def _corrodes(tape: LeakTape, watch: Watch) -> str:
    if tape.excitation == "constant":
        return "constant current erodes one electrode: pulse it, or reverse it"
    if tape.excitation == "alternating":
        return "reversed each time, so no electrode erodes"
    return f"constant current would erode it {figure(1 / watch.share_fed_1, 0)} times as fast"


def _in_plan(plan: Plan, subject: str) -> str:
    tape = sensor_of(plan, subject, LeakTape)
    damp = f", damp at {ohms(tape.damp_ohm)}" if tape.damp_ohm else ""
    return f"The plan has wet at {ohms(tape.wet_ohm)}{damp} now."


def _beside(given: Given) -> tuple[Beside, ...]:
    tape = sensor_of(given.plan, given.subject, LeakTape)
    end = tape.end_of_line_ohm
    words = (
        f"{ohms(end)}: unplugged can be told from dry" if end else "nothing: unplugged reads dry"
    )
    facts = (("Across the far end", words), ("Excitation", tape.excitation))
    return (Beside(title="As it is made", facts=facts),)


TAPE = RecordingsBench(
    key="tape",
    computed="tape",
    called="a leak tape",
    heading="Leak tape",
    does="dry baseline, states, false alarms",
    takes="15 min dry, damp and wet; a day for false alarms",
    subjects=probes_made_as("leak_tape"),
    asks=_fields_of,
    work=_calculate,
    begin="Ten readings or more of the dry tape give its baseline and its scatter.",
    nothing="no dry baseline yet.",
    empty="Dry the tape, wait an hour, and let the board read it fifty times. Paste the counts "
    "into the form; then a drop of tap water on the tape shows what damp and wet read.",
    enough=filled("readings"),
    in_plan=_in_plan,
    beside=_beside,
    links=lambda _subject: (("Its circuit", "/wire/circuits"),),
    caution="A tape is never the only guard against water. Switch the valve off by hand where it "
    "may run on.",
)
