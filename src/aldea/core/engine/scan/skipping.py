"""Inside which bounds nothing can change, and samples that are taken without a scan."""

import math

from aldea.core.base.jit import kernel
from aldea.core.engine.scan.arrays import (
    H_LISTENS,
)
from aldea.core.engine.scan.views import (
    CONDITIONS_FLOATS,
    CONDITIONS_INTS,
    LOADS_INTS,
    PROBES_MEMBERS,
    PROBES_NOW_QUIET,
    PROBES_NOW_VALUES,
    RUN_CONDITIONS,
    RUN_HEAD,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.conditions import (
    C_LET_GO,
    C_NOW,
    N_KIND,
    N_OFF,
    N_ON,
    N_RISING,
    N_SIGNAL,
    NODE_WITHIN,
)
from aldea.core.engine.tables.loads import L_POSITION
from aldea.core.engine.tables.probes import U_FEEDS, U_HIGH, U_LOW


@kernel
def quiet_bounds(run: int) -> None:
    """Per probe the open interval (low, high) inside which no condition on it can change.

    Of a probe that a derived signal reads each reading may change something: that is noted. While
    somebody listens for a condition to let go, that counts as a change.
    """
    listens = int_row(run, RUN_HEAD)[H_LISTENS] == 1
    at, quiet = int_table(run, RUN_CONDITIONS), float_table(run, PROBES_NOW_QUIET)
    probes = quiet.shape[0]
    for p in range(probes):
        quiet[p, U_LOW] = -math.inf
        quiet[p, U_HIGH] = math.inf
        quiet[p, U_FEEDS] = 0.0
    for index in range(int_row(run, PROBES_MEMBERS).shape[0]):
        p = int_row(run, PROBES_MEMBERS)[index]
        if p < probes:
            quiet[p, U_FEEDS] = 1.0
    for load in range(int_table(run, LOADS_INTS).shape[0]):
        p = int_table(run, LOADS_INTS)[load, L_POSITION]
        if 0 <= p < probes:
            quiet[p, U_LOW] = math.inf
    for n in range(at.shape[0]):
        kind, p = (
            int_table(run, CONDITIONS_INTS)[n, N_KIND],
            int_table(run, CONDITIONS_INTS)[n, N_SIGNAL],
        )
        if kind > NODE_WITHIN or p >= probes:
            continue
        on, off = (
            float_table(run, CONDITIONS_FLOATS)[n, N_ON],
            float_table(run, CONDITIONS_FLOATS)[n, N_OFF],
        )
        low, high = -math.inf, math.inf
        if kind == NODE_WITHIN:
            value = float_row(run, PROBES_NOW_VALUES)[p]
            if at[n, C_NOW] == 1:
                low, high = on, off
            elif value < on:
                high = on
            else:
                low = off
        elif int_table(run, CONDITIONS_INTS)[n, N_RISING] == 1:
            if at[n, C_NOW] == 1 or (listens and at[n, C_LET_GO] == 0):
                low = off
            if at[n, C_NOW] == 0:
                high = off if listens and at[n, C_LET_GO] == 1 else on
        else:
            if at[n, C_NOW] == 1 or (listens and at[n, C_LET_GO] == 0):
                high = off
            if at[n, C_NOW] == 0:
                low = off if listens and at[n, C_LET_GO] == 1 else on
        quiet[p, U_LOW] = max(quiet[p, U_LOW], low)
        quiet[p, U_HIGH] = min(quiet[p, U_HIGH], high)
