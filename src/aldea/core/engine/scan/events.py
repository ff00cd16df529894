"""Events of a scan: written where there is room, counted where there is none."""

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    E_CITED,
    E_CLAIM,
    E_FROM,
    E_INHIBIT,
    E_T_MS,
    E_TO,
    E_TYPE,
    E_WHO,
)


@kernel
def put_event(
    ev: IntArray,
    ev_value: FloatArray,
    n: int,
    t_ms: int,
    event_type: int,
    who: int,
    was: int,
    now: int,
    claim: int,
    inhibit: int,
    cited: int,
    value: float,
) -> int:
    """Write one event where there is room; the count goes on, so that the caller can make room."""
    if n < ev.shape[0]:
        ev[n, E_T_MS] = t_ms
        ev[n, E_TYPE] = event_type
        ev[n, E_WHO] = who
        ev[n, E_FROM] = was
        ev[n, E_TO] = now
        ev[n, E_CLAIM] = claim
        ev[n, E_INHIBIT] = inhibit
        ev[n, E_CITED] = cited
        ev_value[n] = value
    return n + 1
