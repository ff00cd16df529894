"""Random plans with random logs and power cuts, for laws that hold whatever is planned."""

import math

import numpy as np
from hypothesis import strategies as st
from tests.core.plans import one_band, returning

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import OnSensorFault, Rule, Smoothing, Stuck
from aldea.core.readings.samples import Samples

SECONDS = st.sampled_from([0.0, 0.5, 3.0, 20.0, 75.0])


@st.composite
def bands(draw, probes):
    low, gap, rising = draw(st.integers(20, 60)), draw(st.integers(1, 15)), draw(st.booleans())
    return Band(
        probe=draw(st.sampled_from([probe.id for probe in probes])),
        direction="rising" if rising else "falling",
        on_threshold=float(low + gap if rising else low),
        off_threshold=float(low if rising else low + gap),
        delay_on_s=draw(SECONDS),
        delay_off_s=draw(SECONDS),
    )


@st.composite
def trials(draw):
    """A random plan of 1-3 probes, 1-3 loads and 0-3 rules each, a random log, power cuts."""
    base = one_band()
    probes = tuple(
        base.probes[0].model_copy(
            update={
                "id": f"p{row}",
                "stale_after_s": draw(st.sampled_from([5.0, 30.0, 120.0])),
                "good_run": draw(st.integers(1, 4)),
                "stuck": draw(st.sampled_from([None, Stuck(after_s=40.0, band=0.0)])),
                "smoothing": draw(st.sampled_from([None, Smoothing(tau_s=15.0)])),
                "calibration": Calibration(slope=1.08, intercept=-4.5, expanded_uncertainty=1.0),
            }
        )
        for row in range(draw(st.integers(1, 3)))
    )
    loads = tuple(
        base.loads[0].model_copy(
            update={
                "id": f"l{row}",
                "min_on_s": draw(SECONDS),
                "min_off_s": draw(SECONDS),
                "on_sensor_fault": OnSensorFault(
                    after_s=draw(st.sampled_from([0.0, 10.0, 60.0])),
                    state=draw(st.sampled_from(["off", "on"])),
                ),
                "power_return": returning(
                    draw(st.sampled_from(["off", "follow_rules", "last"])), draw(SECONDS)
                ),
            }
        )
        for row in range(draw(st.integers(1, 3)))
    )
    rules = tuple(
        Rule(id=f"{load.id}c{row}", load=load.id, condition=draw(bands(probes)))
        for load in loads
        for row in range(draw(st.integers(0, 3)))
    )
    plan = base.model_copy(
        update={
            "scan_period_ms": draw(st.sampled_from([250, 1000, 1700, 10_000])),
            "probes": probes,
            "loads": loads,
            "rules": rules,
        }
    )
    count = draw(st.integers(1, 60))
    steps = draw(
        st.lists(st.sampled_from([0, 1, 250, 3000, 10_000, 47_000]), min_size=count, max_size=count)
    )
    readings = st.one_of(st.floats(-5, 110), st.just(55.0), st.just(math.nan))
    values = draw(st.lists(readings, min_size=count, max_size=count))
    read = len(compile_plan(plan).probe_ids)
    if not read:
        count = 0
    owners = draw(st.lists(st.integers(0, max(0, read - 1)), min_size=count, max_size=count))
    times = np.cumsum(steps)
    samples = Samples(
        t_ms=times[:count].astype(np.int64),
        probe=np.array(owners, dtype=np.int64),
        value=np.array(values[:count], dtype=np.float64),
    )
    end_ms = int(times[-1]) + draw(st.sampled_from([1000, 90_000, 400_000]))
    cuts, after = [], 0
    for _ in range(draw(st.integers(0, 3))):
        start = after + draw(st.sampled_from([0, 300, 12_000, 60_000]))
        after = start + draw(st.sampled_from([200, 5000, 33_000]))
        cuts.append((start, after))
    return plan, samples, end_ms, cuts
