"""A distance: the threshold midway, what the air's span does to it, a tank."""

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import as_typed, figure, short, signed
from aldea.core.calibrate.distance import Geometry, geometry_of, tank_of
from aldea.core.devices.sensors.echo.model import EchoSensor
from aldea.core.physics.sound import ping_interval_s
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
from aldea.web.shell.sketch import make_sketch

STATES = (("closed", "closed"), ("open", "open"))


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    probe = plan.probe(subject)
    top = probe.range.high if probe else 6.0
    return (
        Ask(name="empty", label="Readings with nothing below", unit="m", rows=3),
        Ask(name="occupied", label="Readings with the lowest thing below", unit="m", rows=3),
        Ask(name="at_degc", label="Air was", unit="°C", first="18", low=-40, high=80),
        Ask(name="low_degc", label="Air in winter", unit="°C", first="-5", low=-40, high=80),
        Ask(name="high_degc", label="Air in summer", unit="°C", first="35", low=-40, high=80),
        Ask(
            name="compensated",
            label="The controller",
            first="no",
            options=(("no", "does not know the air"), ("yes", "has a thermometer there")),
        ),
        Ask(name="longest_m", label="Reaches", unit="m", first=as_typed(top), low=0.1, high=20),
        Ask(
            name="full_m",
            label="Full, it reads",
            unit="m",
            low=0.01,
            high=20,
            heading="Over a tank: leave empty for anything else",
        ),
        Ask(name="area_m2", label="Area of the water", unit="m²", low=0.001, high=1000),
        Ask(name="now_m", label="It reads now", unit="m", low=0.01, high=20),
    )


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    empty, occupied = (
        given.figures("empty", "m", high=1000),
        given.figures("occupied", "m", high=1000),
    )
    at, low, high, longest = (
        given.number(asks[name]) for name in ("at_degc", "low_degc", "high_degc", "longest_m")
    )
    compensated = given.fields.choice("compensated", ("no", "yes")) == "yes"
    given.fields.check()
    try:
        geometry = geometry_of(
            empty,
            occupied,
            at_degc=at,
            span_degc=(low, high),
            compensated=compensated,
            longest_m=longest,
        )
    except CalibrationError as exc:
        at_field = {"empty": "empty", "occupied": "occupied", "span": "low_degc"}
        raise given.refused(exc, at_field, "empty") from exc
    name, threshold = given.probe.name, round(geometry.threshold_m, 3)
    least = min(geometry.room_empty_m, geometry.room_occupied_m)
    facts = [
        ("Threshold, midway", f"{figure(threshold, 3)} m"),
        ("Noise", f"{figure(1000 * geometry.noise_m, 1)} mm"),
        ("Left on the worse side", f"{figure(100 * least, 1)} cm"),
        ("Damp summer air", f"{figure(1000 * geometry.moist_m, 1)} mm at the empty distance"),
        (
            "Not more often than every",
            f"{figure(1000 * ping_interval_s(reach_m=longest, temp_degc=low), 0)} ms",
        ),
    ]
    if geometry.lost:
        facts.append(("Lost echoes left out", str(geometry.lost)))
    if geometry.stray:
        facts.append(("Stray echoes left out", f"{geometry.stray} of {geometry.readings}"))
    facts += _tank_facts(given, asks, geometry.empty_m)
    airs = [row.air_degc for row in geometry.rows]
    order = sorted(range(len(airs)), key=lambda i: airs[i])
    return Found(
        verdict=Verdict(
            state="holds" if geometry.holds else "fails",
            sentence=f"{name}: occupied under {figure(threshold, 3)} m; "
            + (
                f"{figure(100 * least, 1)} cm are left in the worst air."
                if geometry.holds
                else "not in every air."
            ),
            rest=_rest_of(geometry, compensated=compensated),
        ),
        facts=tuple(facts),
        tables=(
            Table(
                title="What would be read over the span of air",
                head=("Air", "Empty", "Occupied", "Empty is off by"),
                rows=tuple(
                    (
                        f"{short(geometry.rows[i].air_degc)} °C",
                        f"{figure(geometry.rows[i].empty_m, 3)} m",
                        f"{figure(geometry.rows[i].occupied_m, 3)} m",
                        f"{signed(100 * (geometry.rows[i].empty_m - geometry.empty_m), 1)} cm",
                    )
                    for i in order
                ),
                figures=frozenset({0, 1, 2, 3}),
            ),
        ),
        sketches=(
            make_sketch(
                "Read distance over the air’s temperature",
                x_words="air, °C",
                y_words="m",
                points=[
                    ("line", [airs[i] for i in order], [geometry.rows[i].empty_m for i in order]),
                    (
                        "line",
                        [airs[i] for i in order],
                        [geometry.rows[i].occupied_m for i in order],
                    ),
                    ("dots", [at, at], [geometry.empty_m, geometry.occupied_m]),
                ],
                levels=[(threshold, f"threshold {figure(threshold, 3)} m")],
                from_zero=True,
            ),
        ),
        takes=sensor_take(
            f"Save {figure(threshold, 3)} m in the plan",
            given.subject,
            occupied_below_m=threshold,
        )
        if geometry.holds
        else (),
    )


def _rest_of(geometry: Geometry, *, compensated: bool) -> str:
    """What to do where the threshold does not hold, and what the controller must leave out."""
    if not geometry.is_clean:
        return (
            f"{geometry.stray} of {geometry.readings} echoes come from something else: turn the "
            "sensor, or clear what stands in its cone."
        )
    if not geometry.holds:
        if compensated:
            return "Mount it nearer, or let it read more steadily."
        return "Give the controller the air’s temperature, or mount it nearer."
    if geometry.stray:
        return "Stray echoes: smooth its readings by a median of three or more."
    return ""


def _tank_facts(given: Given, asks: dict[str, Ask], empty_m: float) -> list[tuple[str, str]]:
    names = ("full_m", "area_m2", "now_m")
    if not any(given.fields.text(name) for name in names):
        return []
    full, area, now = (given.number(asks[name]) for name in names)
    given.fields.check()
    try:
        tank = tank_of(area_m2=area, empty_m=empty_m, full_m=full, measured_m=now)
    except CalibrationError as exc:
        raise given.refused(exc, {}, "full_m") from exc
    return [
        ("Water stands", f"{figure(tank.level_m, 3)} m, {figure(tank.level_pct, 1)} %"),
        ("That is", f"{figure(1000 * tank.volume_m3, 0)} litres"),
    ]


DISTANCE = RecordingsBench(
    key="distance",
    computed="distance",
    called="an echo sensor",
    heading="Distance",
    does="threshold midway, span of the air, tank",
    takes="10 min: two positions",
    subjects=probes_where(lambda p: isinstance(p.sensor, EchoSensor)),
    asks=_fields_of,
    work=_calculate,
    begin="Read with nothing below, then with the lowest thing that counts.",
    empty="Note a dozen readings with nothing below, then with the lowest thing that must be "
    "seen, such as a cart. Say how cold and how hot the air gets there.",
    enough=filled("empty", "occupied"),
    in_plan=lambda plan, subject: (
        f"The plan: occupied under {short(below)} m."
        if (below := sensor_of(plan, subject, EchoSensor).occupied_below_m)
        else "The plan has no threshold yet."
    ),
)
