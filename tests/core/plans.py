"""Small plans for tests of the engine."""

from typing import Any

import numpy as np

from aldea.core.plan.calibration import Calibration
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import (
    House,
    Load,
    OnSensorFault,
    Place,
    Plan,
    PowerReturn,
    Probe,
    Range,
    Rule,
)
from aldea.core.readings.samples import Samples


def one_band(**wanted: Any) -> Plan:
    """One probe, one load, one band; any field of probe, load or band can be given."""
    probe = {"stale_after_s": 600_000.0, **{k: wanted[k] for k in PROBE if k in wanted}}
    load = {
        "on_sensor_fault": OnSensorFault(after_s=600_000.0, state="off"),
        **{k: wanted[k] for k in LOAD if k in wanted},
    }
    band = {
        "direction": "rising",
        "on_threshold": 60.0,
        "off_threshold": 50.0,
        **{k: wanted[k] for k in BAND if k in wanted},
    }
    return Plan(
        format="aldea-plan/2",
        house=House(name="Test", time_zone="UTC"),
        scan_period_ms=wanted.get("scan_period_ms", 1000),
        places=(Place(id="room", name="Room", kind="room", level=0, from_m=0.0, to_m=4.0),),
        probes=(
            Probe(
                id="rh",
                name="RH",
                place="room",
                quantity="relative_humidity",
                range=Range(low=0.0, high=100.0),
                calibration=wanted.get("calibration", Calibration(expanded_uncertainty=1.0)),
                **probe,
            ),
        ),
        loads=(Load(id="fan", name="Fan", place="room", load_class="water", **load),),
        rules=(Rule(id="band", load="fan", condition=Band(probe="rh", **band)),),
    )


PROBE = ("stale_after_s", "stuck", "good_run", "smoothing")
LOAD = ("min_on_s", "min_off_s", "on_sensor_fault", "power_return")
BAND = ("direction", "on_threshold", "off_threshold", "delay_on_s", "delay_off_s")


def samples_of(pairs: list[tuple[float, float | None]]) -> Samples:
    """Samples of probe 0 from (seconds, reading); None is a missing reading."""
    return Samples(
        t_ms=np.array([round(t * 1000) for t, _ in pairs], dtype=np.int64),
        probe=np.zeros(len(pairs), dtype=np.int64),
        value=np.array([np.nan if v is None else v for _, v in pairs], dtype=np.float64),
    )


def returning(policy: str, delay_s: float = 0.0) -> PowerReturn:
    """A return policy with the reason that `last` needs."""
    return PowerReturn(policy=policy, delay_s=delay_s, reason="a test")  # type: ignore[arg-type]
