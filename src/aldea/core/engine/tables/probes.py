"""Probes and derived signals: parameters and state."""

from typing import NamedTuple

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray

# probe parameters as float64
P_SLOPE, P_INTERCEPT, P_LOW, P_HIGH, P_TAU_S, P_STUCK_BAND, P_JUMP_PER_S = range(7)
P_FLOATS = 7
# probe parameters, int64
(
    P_STALE_MS,
    P_STUCK_MS,
    P_GOOD_RUN,
    P_WARM_MS,
    P_FILTER,
    P_TAKES,
    P_RING,
    P_JUMP_AFTER,
    P_RATES,
    P_RATES_END,
) = range(10)
P_INTS = 10
FILTER_NONE, FILTER_TIME, FILTER_MEAN, FILTER_MEDIAN = range(4)
FILTER_CODES = {"exponential": FILTER_TIME, "mean": FILTER_MEAN, "median": FILTER_MEDIAN}
# derived signals: rows after those of the probes
D_KIND, D_FIRST, D_END, D_OVER_MS, D_LOAD, D_RING, D_RING_ROOM = range(7)
D_INTS = 7
(
    SIGNAL_MEAN,
    SIGNAL_HIGHEST,
    SIGNAL_LOWEST,
    SIGNAL_DIFFERENCE,
    SIGNAL_RATE,
    SIGNAL_DEW_POINT,
    SIGNAL_ABSOLUTE_HUMIDITY,
    SIGNAL_ECHO,
    SIGNAL_LESS_LAMP,
    SIGNAL_LUX,
    SIGNAL_RATIO,
) = range(11)
D_A, D_B, D_C, D_D = range(4)
D_FLOATS = 4

# probe state: float64 and int64
S_FILTERED, S_VALUE, S_ANCHOR, S_BASE, S_JUMPED = range(5)
S_FLOATS = 5
(
    S_LAST_MS,
    S_GOOD_MS,
    S_QUALITY,
    S_RUN,
    S_ANCHOR_MS,
    S_SEEN_QUALITY,
    S_ENTERED_MS,
    S_BASE_MS,
    S_JUMPED_MS,
    S_JUMPED_COUNT,
    S_HELD,
    S_NEXT,
    S_SPOKEN,
    S_BEEN_GOOD,
) = range(14)
S_INTS = 14
# for skipping: bounds in which no condition on a probe changes; whether a derived signal reads it
U_LOW, U_HIGH, U_FEEDS = range(3)
U_FLOATS = 3
# what a scan reads of a probe or a derived signal
V_GOOD, V_NOW = range(2)
# state of a rate's ring: where the pair to compare with lies, how many are held
R_FIRST, R_HELD = range(2)


class ProbePlan(NamedTuple):
    """Parameters of probes, of derived signals and the members of these."""

    floats: FloatArray
    ints: IntArray
    derived: IntArray
    derived_floats: FloatArray
    members: IntArray
    rates: IntArray  # the derived rows that a probe feeds, by P_RATES to P_RATES_END


class ProbeState(NamedTuple):
    """State of probes; `values` and `good` of probes and derived signals; `quiet` for skipping."""

    floats: FloatArray
    ints: IntArray
    ring: FloatArray
    scratch: FloatArray
    values: FloatArray
    good: IntArray
    quiet: FloatArray
    rate_ms: IntArray
    rate_values: FloatArray
    rates: IntArray


def fresh_probes(plan: ProbePlan, rate_room: int) -> ProbeState:
    """State of a run that has not begun; `rate_room` readings a rate."""
    probes, derived = len(plan.ints), len(plan.derived)
    takes = plan.ints[:, P_TAKES]
    rows = probes + derived
    return ProbeState(
        floats=np.full((probes, S_FLOATS), np.nan),
        ints=np.zeros((probes, S_INTS), dtype=np.int64),
        ring=np.zeros(int(takes.sum())),
        scratch=np.zeros(int(takes.max(initial=0))),
        values=np.full(rows, np.nan),
        good=np.zeros(rows, dtype=np.int64),
        quiet=np.zeros((probes, U_FLOATS)),
        rate_ms=np.zeros((derived, rate_room), dtype=np.int64),
        rate_values=np.zeros((derived, rate_room)),
        rates=np.zeros((derived, 2), dtype=np.int64),
    )
