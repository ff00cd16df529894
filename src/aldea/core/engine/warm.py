"""The first scan of a process, over nothing: compiles the engine, or loads it from its cache."""

import numpy as np

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.document import House, Plan
from aldea.core.readings.samples import Samples


def warm_up() -> None:
    """Run an empty house for a second, so that the kernels are ready.

    Takes about twenty seconds where nothing is compiled yet, under half a second from the cache.
    """
    empty = Plan(
        format="aldea-plan/1",
        house=House(name="none", time_zone="UTC"),
        places=(),
        probes=(),
        loads=(),
        claims=(),
    )
    nothing = np.zeros(0, dtype=np.int64)
    run_replay(
        compile_plan(empty),
        Samples(t_ms=nothing, probe=nothing, value=np.zeros(0)),
        start_ms=0,
        end_ms=1000,
    )
