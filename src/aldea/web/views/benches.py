"""The list of benches: every kind, for whom it is, and how it is used."""

from dataclasses import dataclass

from aldea.core.plan.document import Plan
from aldea.web.trials import TRIALS

PAIRS = {
    "relative_humidity": ("Humidity over salts", "calibrate", "pairs in jars, fit, certificate"),
    "air_temperature": ("Thermometer", "calibrate", "ice, boiling, beside, between two"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchRow:
    """A kind of bench: what it is called, what it does, whose there are, (name, address)."""

    heading: str
    does: str
    links: tuple[tuple[str, str], ...]
    lacks: str = ""


def make_benches_view(plan: Plan, base: str) -> tuple[BenchRow, ...]:
    """Every kind, also those that this house has nothing for, with what they are for."""
    rows = [
        BenchRow(
            heading=heading,
            does=does,
            links=tuple(
                (p.name, f"{base}/{where}/{p.id}") for p in plan.probes if p.quantity == quantity
            ),
            lacks="no such probe",
        )
        for quantity, (heading, where, does) in PAIRS.items()
    ]
    for heading, where, kind, does in (
        ("Thermistor’s curve", "curve", "thermistor", "counts to ohms to °C, many points"),
        ("Supply detective", "detective", "thermistor", "which assumption explains an error"),
        ("Leak tape", "tape", "leak_tape", "dry baseline, states, false alarms"),
    ):
        rows.append(_made_as(plan, base, heading, where, kind, does))
    radars = tuple(
        (p.name, f"{base}/radar/{p.id}")
        for p in plan.probes
        if p.quantity == "presence" and p.sensor is not None and p.sensor.kind == "serial"
    )
    rows.append(
        BenchRow(
            heading="Presence radar",
            does="gates by distance, hold",
            links=radars,
            lacks="no presence probe on serial lines",
        )
    )
    rows += [
        BenchRow(
            heading=trial.heading,
            does=DOES[trial.key],
            links=tuple(
                (name, f"{base}/trial/{trial.key}/{subject}")
                for subject, name in trial.subjects(plan)
            ),
            lacks=f"for {trial.called}",
        )
        for trial in TRIALS.values()
    ]
    return tuple(rows)


DOES = {
    "hold": "hold time from gaps in presence",
    "doorway": "order, longest gap, count errors",
    "distance": "threshold midway, span of the air, tank",
    "contact": "bounce, inverted",
    "light": "resistor for a threshold, the lamp’s own share",
    "photodiode": "responsivity, full scale",
    "air": "dew point, condensation, mould",
    "gas": "warm-up, clean air, ratio",
    "multiplexer": "order, settling, crosstalk",
    "addresses": "missing, twice, unexpected",
}


def _made_as(plan: Plan, base: str, heading: str, where: str, kind: str, does: str) -> BenchRow:
    return BenchRow(
        heading=heading,
        does=does,
        links=tuple(
            (p.name, f"{base}/{where}/{p.id}")
            for p in plan.probes
            if p.sensor is not None and p.sensor.kind == kind
        ),
        lacks="no such probe",
    )
