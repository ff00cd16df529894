"""A made-up house at work: so many probes with recorded days, each with a load that follows it."""

import numpy as np

from aldea.core.plan.calibration import Calibration
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import House, Load, Place, Plan, Probe, Range, Rule
from aldea.core.readings.trace import Trace

DAY_MS = 86_400_000


def working_house(probes: int, name: str) -> Plan:
    """The plan: a place of two probes each, every probe with a load that follows it."""
    places = (probes + 1) // 2
    return Plan(
        format="aldea-plan/2",
        house=House(name=name, time_zone="Europe/Madrid"),
        places=tuple(
            Place(
                id=f"p{i}",
                name=f"Place {i}",
                kind="room",
                level=i // 6,
                from_m=4.0 * (i % 6),
                to_m=4.0 * (i % 6) + 4,
            )
            for i in range(places)
        ),
        probes=tuple(
            Probe(
                id=f"probe{i}",
                name=f"Probe {i}",
                place=f"p{i // 2}",
                quantity="relative_humidity",
                stage="working",
                range=Range(low=0.0, high=100.0),
                calibration=Calibration(expanded_uncertainty=1.5),
            )
            for i in range(probes)
        ),
        loads=tuple(
            Load(
                id=f"load{i}",
                name=f"Load {i}",
                place=f"p{i // 2}",
                load_class="air",
                stage="working",
                power_w=60.0,
                feed=f"F{i % 9 + 1}",
            )
            for i in range(probes)
        ),
        rules=tuple(
            Rule(
                id=f"rule{i}",
                load=f"load{i}",
                condition=Band(
                    probe=f"probe{i}", direction="rising", on_threshold=60.0, off_threshold=54.0
                ),
            )
            for i in range(probes)
        ),
    )


def recorded(index: int, *, days: float, every_s: float, end_ms: int) -> Trace:
    """A day's swing, slow weather and noise, of its own phase and instants."""
    count = int(days * 86_400 / every_s)
    step_ms = round(every_s * 1000)
    t_ms = end_ms - step_ms * np.arange(count, 0, -1, dtype=np.int64) + 137 * index
    day = (t_ms % DAY_MS) / DAY_MS
    noise = np.random.default_rng(index).normal(0.0, 0.4, count)
    raw = 57 + 6 * np.sin(2 * np.pi * (day + index / 17)) + noise
    return Trace(t_ms=t_ms, raw=np.round(raw, 1))
