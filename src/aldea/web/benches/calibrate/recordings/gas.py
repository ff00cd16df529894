"""A gas or smoke hint: warm-up, clean air, ratio. The caution stands on the page."""

import math

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import as_typed, figure, short, signed
from aldea.core.base.instants import span
from aldea.core.calibrate.gas import WarmUp, warm_up_of
from aldea.core.devices.sensors.gas.model import GasSensor
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

RATIOS = (1.2, 1.5, 2.0, 3.0, 5.0)
FEW_SIGMAS, MOST_DRIFT_PCT_PER_H = 6.0, 3.0


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    sensor = sensor_of(plan, subject, GasSensor)
    return (
        Ask(name="curve", label="From switching on, in clean air: seconds and volts", rows=10),
        Ask(name="settled_pct", label="Settled within", unit="%", first="3", low=0.1, high=50),
        Ask(
            name="ratio",
            label="Speaks at",
            unit="times clean air",
            first=as_typed(sensor.alarm_ratio_1),
            low=1.01,
            high=100,
        ),
    )


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    rows = given.rows("curve", 2)
    settled, ratio = given.number(asks["settled_pct"]), given.number(asks["ratio"])
    given.fields.check()
    t_s, volts = [row[0] for row in rows], [row[1] for row in rows]
    try:
        warm_up = warm_up_of(t_s, volts, settled_pct=settled)
    except CalibrationError as exc:
        raise given.refused(exc, {}, "curve") from exc
    sensor = sensor_of(given.plan, given.subject, GasSensor)
    name, alarm = given.probe.name, warm_up.alarm_v(ratio)
    reached = alarm <= sensor.highest_v
    drift_most = abs(warm_up.drift_pct_per_h) + warm_up.drift_expanded_pct_per_h
    drifts = drift_most > MOST_DRIFT_PCT_PER_H
    if not reached:
        verdict = Verdict(
            state="fails",
            sentence=f"{name}: {short(ratio)} times clean air is {figure(alarm, 2)} V, and it "
            f"gives no more than {short(sensor.highest_v)} V.",
            rest="A smaller ratio.",
        )
    elif warm_up.sigmas(ratio) < FEW_SIGMAS or drifts:
        verdict = Verdict(
            state="owed",
            sentence=f"{name}: locked out for {span(warm_up.warm_up_s)}, "
            "but clean air is not still.",
            rest=f"{_sigmas(warm_up, ratio)} sigma below the alarm; drifts {_drift(warm_up)}."
            + (
                f" Nothing can be saved while it may drift more than "
                f"{short(MOST_DRIFT_PCT_PER_H)} % an hour: record longer."
                if drifts
                else ""
            ),
        )
    else:
        verdict = Verdict(
            state="holds",
            sentence=f"{name}: locked out for {span(warm_up.warm_up_s)}, then a hint at "
            f"{figure(alarm, 2)} V.",
            rest=f"Clean air reads {figure(warm_up.clean_air_v, 3)} V.",
        )
    return Found(
        verdict=verdict,
        facts=(
            ("Warm-up", span(warm_up.warm_up_s)),
            (
                "Clean air",
                f"{figure(warm_up.clean_air_v, 3)} V, noise {figure(1000 * warm_up.noise_v, 1)} mV",
            ),
            ("Drift at the end", _drift(warm_up)),
        ),
        tables=(
            Table(
                title="Ratios",
                head=("Times clean air", "Volts", "Sigma away"),
                rows=tuple(
                    (
                        short(r),
                        f"{figure(warm_up.alarm_v(r), 2)} V",
                        _sigmas(warm_up, r),
                    )
                    for r in RATIOS
                ),
                figures=frozenset({0, 1, 2}),
            ),
        ),
        sketches=(
            make_sketch(
                "Warm-up in clean air",
                x_words="seconds since switching on",
                y_words="V",
                points=[("line", t_s, volts)],
                levels=[
                    (warm_up.clean_air_v, "clean air"),
                    *([(alarm, f"hint at {figure(alarm, 2)} V")] if reached else []),
                ],
                moments=[(t_s[0] + warm_up.warm_up_s, "settled")],
                from_zero=True,
            ),
        ),
        takes=sensor_take(
            "Save warm-up, clean air and ratio in the plan",
            given.subject,
            warm_up_s=round(warm_up.warm_up_s, 1),
            clean_air_v=float(f"{warm_up.clean_air_v:.4g}"),
            alarm_ratio_1=ratio,
        )
        if reached and not drifts
        else (),
    )


def _sigmas(warm_up: WarmUp, ratio: float) -> str:
    """How many sigma lie below the alarm; without any noise there is no figure."""
    sigmas = warm_up.sigmas(ratio)
    return "no noise seen" if math.isinf(sigmas) else figure(sigmas, 0 if sigmas >= 10 else 1)


def _drift(warm_up: WarmUp) -> str:
    doubt = warm_up.drift_expanded_pct_per_h
    drift = signed(warm_up.drift_pct_per_h, 1)
    if math.isinf(doubt):
        return f"{drift} % an hour, from too few rows to say how sure that is"
    return f"{drift} ± {figure(doubt, 1)} % an hour (95 %)"


def _in_plan(plan: Plan, subject: str) -> str:
    sensor = sensor_of(plan, subject, GasSensor)
    if sensor.clean_air_v is None:
        return "The plan has no clean air yet."
    return (
        f"The plan: locked out for {span(sensor.warm_up_s)}, clean air "
        f"{short(sensor.clean_air_v)} V, "
        f"alarm at {short(sensor.alarm_ratio_1)} times that."
    )


GAS = RecordingsBench(
    key="gas",
    computed="gas",
    called="a heated gas or smoke sensor",
    heading="Gas or smoke hint",
    does="warm-up, clean air, ratio",
    takes="1 to 2 days of warm-up, then 10 min",
    subjects=probes_where(lambda p: isinstance(p.sensor, GasSensor)),
    asks=_fields_of,
    work=_calculate,
    begin="Switch on in clean air and record until it is stable.",
    empty="Open the windows, switch the sensor on and record seconds and volts until the reading "
    "is stable: ten minutes at least, two days for a new one.",
    enough=filled("curve"),
    in_plan=_in_plan,
    caution="A hint for ventilation. It replaces no certified smoke, gas or CO detector. In a "
    "gas alarm start no ordinary motor and switch no contact in that room.",
)
