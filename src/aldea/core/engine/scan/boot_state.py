"""What probes, loads and conditions are at a boot, before anything is restored."""

import math

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_NONE,
    NEVER,
    NO_DECIDER,
    NOBODY,
    NONE,
    RANK_DEMAND,
    RANK_SCHEDULE,
    WARMING,
)
from aldea.core.engine.scan.arrays import (
    H_FREE,
)
from aldea.core.engine.scan.two_way import UNSENSED
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
    PROBES_NOW_FLOATS,
    PROBES_NOW_GOOD,
    PROBES_NOW_INTS,
    PROBES_NOW_RATES,
    PROBES_NOW_VALUES,
    RUN_HEAD,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.conditions import (
    C_DARK,
    C_GOOD,
    C_LET_GO,
    C_LETTING,
    C_MEMBER,
    C_NOW,
    C_SINCE_MS,
    UNSEEN,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    L_FIRST,
    L_LAST,
    L_UNPOWERED,
    O_ASKED,
    O_AUTHOR,
    O_BELOW,
    O_BLOCKED,
    O_CITED,
    O_DECIDER,
    O_HAND,
    O_HAND_AUTHOR,
    O_INHIBIT,
    O_KEPT,
    O_KEPT_FOR,
    O_LAST,
    O_MOVE_MS,
    O_OFF_MS,
    O_ON_MS,
    O_PATTERN_MS,
    O_PULSE_MS,
    O_SENSED,
    O_STATE,
    O_TOGGLED_MS,
    O_WAIT_MS,
    Q_ACTIVE,
    Q_ASKING,
    Q_BEGAN_MS,
    Q_FRESH,
    Q_NOTED,
    Q_RESET,
    Q_STILL,
    Q_TRIPPED,
    Q_WAS,
    W_CLOSED,
    W_OPENED_MS,
)
from aldea.core.engine.tables.probes import (
    S_ANCHOR,
    S_ANCHOR_MS,
    S_BASE,
    S_BASE_MS,
    S_BEEN_GOOD,
    S_ENTERED_MS,
    S_FILTERED,
    S_GOOD_MS,
    S_HELD,
    S_JUMPED,
    S_JUMPED_COUNT,
    S_JUMPED_MS,
    S_LAST_MS,
    S_NEXT,
    S_QUALITY,
    S_RUN,
    S_VALUE,
)


@kernel
def boot_probes(run: int, t_ms: int) -> None:
    """Filters, qualities and values begin anew; everything is counted from the boot itself."""
    sf, si = float_table(run, PROBES_NOW_FLOATS), int_table(run, PROBES_NOW_INTS)
    for p in range(si.shape[0]):
        sf[p, S_FILTERED] = math.nan
        sf[p, S_VALUE] = math.nan
        sf[p, S_ANCHOR] = math.nan
        sf[p, S_BASE] = math.nan
        sf[p, S_JUMPED] = math.nan
        si[p, S_LAST_MS] = t_ms
        si[p, S_GOOD_MS] = t_ms
        si[p, S_QUALITY] = WARMING
        si[p, S_RUN] = 0
        si[p, S_ANCHOR_MS] = t_ms
        si[p, S_ENTERED_MS] = t_ms
        si[p, S_BASE_MS] = t_ms
        si[p, S_JUMPED_MS] = t_ms
        si[p, S_JUMPED_COUNT] = 0
        si[p, S_HELD] = 0
        si[p, S_NEXT] = 0
        si[p, S_BEEN_GOOD] = 0
    for row in range(int_row(run, PROBES_NOW_GOOD).shape[0]):
        int_row(run, PROBES_NOW_GOOD)[row] = 0
        float_row(run, PROBES_NOW_VALUES)[row] = math.nan
    for d in range(int_table(run, PROBES_NOW_RATES).shape[0]):
        int_table(run, PROBES_NOW_RATES)[d, 0] = 0
        int_table(run, PROBES_NOW_RATES)[d, 1] = 0


@kernel
def boot_loads(run: int, t_ms: int) -> None:
    """Every load as it is without power; every claim as if it had never spoken."""
    li, ki = int_table(run, LOADS_INTS), int_table(run, LOADS_CLAIMS)
    oi, claims, lines = (
        int_table(run, LOADS_NOW_INTS),
        int_table(run, LOADS_NOW_CLAIMS),
        int_table(run, LOADS_NOW_LINES),
    )
    free = int_row(run, RUN_HEAD)[H_FREE] == 1
    for load in range(li.shape[0]):
        for column in range(oi.shape[1]):
            oi[load, column] = 0
        oi[load, O_STATE] = li[load, L_UNPOWERED]
        oi[load, O_ON_MS] = t_ms
        oi[load, O_OFF_MS] = NEVER if free else t_ms
        oi[load, O_PATTERN_MS] = t_ms
        oi[load, O_DECIDER] = NO_DECIDER
        oi[load, O_AUTHOR] = NOBODY
        oi[load, O_INHIBIT] = INHIBIT_NONE
        oi[load, O_CITED] = NO_DECIDER
        oi[load, O_KEPT] = INHIBIT_NONE
        oi[load, O_KEPT_FOR] = NEVER
        oi[load, O_HAND] = NONE
        oi[load, O_HAND_AUTHOR] = NOBODY
        oi[load, O_BELOW] = NEVER
        oi[load, O_LAST] = NONE
        oi[load, O_PULSE_MS] = NEVER
        oi[load, O_SENSED] = UNSENSED
        oi[load, O_TOGGLED_MS] = NEVER
        oi[load, O_BLOCKED] = NEVER
        oi[load, O_MOVE_MS] = NEVER
        oi[load, O_WAIT_MS] = FOREVER
        oi[load, O_ASKED] = NOBODY
        for k in range(li[load, L_FIRST], li[load, L_LAST] + 1):
            rank = ki[k, K_RANK]
            if oi[load, O_ASKED] == NOBODY and (rank == RANK_SCHEDULE or rank == RANK_DEMAND):
                oi[load, O_ASKED] = k
            claims[k, Q_TRIPPED] = 0
            claims[k, Q_BEGAN_MS] = FOREVER
            claims[k, Q_WAS] = NONE
            claims[k, Q_FRESH] = 0
            claims[k, Q_ACTIVE] = 0
            claims[k, Q_ASKING] = 0
            claims[k, Q_NOTED] = 0
            claims[k, Q_RESET] = 0
            claims[k, Q_STILL] = 0
    for line in range(lines.shape[0]):
        lines[line, W_CLOSED] = 0
        lines[line, W_OPENED_MS] = NEVER


@kernel
def boot_conditions(run: int, at: IntArray) -> None:
    """After a boot every condition is off, no delay runs, and what is found is no edge."""
    for n in range(at.shape[0]):
        at[n, C_NOW] = 0
        at[n, C_MEMBER] = UNSEEN
        at[n, C_SINCE_MS] = NEVER
        at[n, C_LET_GO] = 0
        at[n, C_GOOD] = 0
        at[n, C_DARK] = 0
        at[n, C_LETTING] = 0
