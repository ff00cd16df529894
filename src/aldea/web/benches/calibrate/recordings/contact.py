"""An end contact: how long it bounces, and what closed means."""

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.contact import bounce_of, means_of
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.facts import ContactMeans
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Table,
    filled,
    probes_where,
    sensor_of,
    sensor_take,
)
from aldea.web.benches.calibrate.recordings.distance import STATES
from aldea.web.shell.sketch import make_sketch

MOST_SHOWN = 40


def _fields_of(_plan: Plan, _subject: str) -> tuple[Ask, ...]:
    return (
        Ask(
            name="at_end",
            label="At its end it is",
            first="closed",
            options=STATES,
            heading="Move the part by hand and watch",
        ),
        Ask(name="away", label="Away from it", first="open", options=STATES),
        Ask(
            name="edges",
            label="Moments at which the input changed",
            unit="ms",
            rows=6,
            note="Work it ten times. Blanks or line ends between.",
        ),
        Ask(
            name="quiet_ms",
            label="One movement while quiet under",
            unit="ms",
            first="100",
            low=1,
            high=5000,
        ),
    )


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    states = dict(STATES)
    at_end, away = given.fields.choice("at_end", states), given.fields.choice("away", states)
    edges = given.figures("edges", "ms")
    quiet = given.number(asks["quiet_ms"])
    given.fields.check()
    try:
        means: ContactMeans = means_of(
            "closed" if at_end == "closed" else "open", "closed" if away == "closed" else "open"
        )
    except CalibrationError as exc:
        raise given.refused(exc, {}, "away") from exc
    try:
        bounce = bounce_of(edges, quiet_ms=quiet)
    except CalibrationError as exc:
        raise given.refused(exc, {}, "edges") from exc
    sensor = sensor_of(given.plan, given.subject, ContactSensor)
    inverted = means != sensor.closed_means
    name = given.probe.name
    if not bounce.fits:
        verdict = Verdict(
            state="fails",
            sentence=f"{name}: it bounces for {figure(bounce.longest_ms, 1)} ms and rests only "
            f"{figure(bounce.shortest_rest_ms or 0.0, 1)} ms.",
            rest="No debounce time fits between; work it slower, or the contact is worn.",
        )
    elif inverted:
        verdict = Verdict(
            state="fails",
            sentence=f"{name}: inverted. Closed means {means} here, the plan sets "
            f"{sensor.closed_means}.",
            rest=f"It bounces for {figure(bounce.longest_ms, 1)} ms.",
        )
    else:
        verdict = Verdict(
            state="holds",
            sentence=f"{name}: closed means {means}, debounce {short(bounce.debounce_ms)} ms.",
            rest=f"{len(bounce.bursts)} movements, the longest bounce "
            f"{figure(bounce.longest_ms, 1)} ms.",
        )
    numbers = [float(i + 1) for i in range(len(bounce.bursts))]
    return Found(
        verdict=verdict,
        facts=(
            (
                "Debounce",
                f"{short(bounce.debounce_ms)} ms, half as much again as the longest bounce",
            ),
            ("Minimum off time", f"{figure(bounce.shortest_rest_ms, 0)} ms")
            if bounce.shortest_rest_ms is not None
            else ("Minimum off time", "one movement only"),
        ),
        tables=(
            Table(
                title=f"Movements, the first {MOST_SHOWN}",
                head=("#", "At", "Changes", "Bounced for"),
                rows=tuple(
                    (
                        str(i + 1),
                        f"{figure(b.at_ms, 0)} ms",
                        str(b.edges),
                        f"{figure(b.lasts_ms, 1)} ms",
                    )
                    for i, b in enumerate(bounce.bursts[:MOST_SHOWN])
                ),
                figures=frozenset({0, 1, 2, 3}),
            ),
        ),
        sketches=(
            make_sketch(
                "Bounce of each movement",
                x_words="movement",
                y_words="ms",
                points=[("dots", numbers, [b.lasts_ms for b in bounce.bursts])],
                levels=[
                    (bounce.debounce_ms, f"debounce {short(bounce.debounce_ms)} ms"),
                ],
                from_zero=True,
            ),
        ),
        takes=sensor_take(
            f"Save “closed means {means}” and {short(bounce.debounce_ms)} ms in the plan",
            given.subject,
            closed_means=means,
            debounce_ms=bounce.debounce_ms,
        )
        if bounce.fits
        else (),
    )


CONTACT = RecordingsBench(
    key="contact",
    computed="contact",
    called="a bare contact",
    heading="End contact",
    does="bounce, inverted",
    takes="2 min: operate it some 30 times",
    subjects=probes_where(lambda p: isinstance(p.sensor, ContactSensor)),
    asks=_fields_of,
    work=_calculate,
    begin="Move the part by hand and record every change of the input.",
    empty="Move the part to its end and away from it, and note the state of the contact. Then "
    "work it ten times while every change of the input is recorded with its moment.",
    enough=filled("edges"),
    in_plan=lambda plan, subject: (
        f"The plan: closed means {sensor_of(plan, subject, ContactSensor).closed_means}, debounce "
        f"{short(sensor_of(plan, subject, ContactSensor).debounce_ms)} ms."
    ),
    caution="A drive that moves needs its own obstruction protection. Keep hands out while it "
    "has supply.",
)
