"""What is written when the state of a load, its decider, its want or its cause changes."""

import math

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_LOAD,
    INHIBIT_NONE,
    INHIBIT_RETURN_OFF,
    NOBODY,
    NONE,
    POLICY_OFF,
    RANK_HAND,
)
from aldea.core.engine.scan.arrays import (
    H_FREE,
    H_STIRRED,
)
from aldea.core.engine.scan.events import put_row
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    PROBES_NOW_VALUES,
    RUN_HEAD,
    float_row,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    K_SIGNAL,
    L_FIRST,
    L_HAND,
    L_POLICY,
    L_REST,
    O_ASKED,
    O_AUTHOR,
    O_CITED,
    O_DECIDER,
    O_HAND_AUTHOR,
    O_INHIBIT,
    O_WANT,
    Q_FRESH,
)


@kernel
def unheard_claim(run: int, load: int) -> int:
    """The first claim that is not heard since the boot, as its load returns with policy off."""
    li = int_table(run, LOADS_INTS)
    if li[load, L_POLICY] == POLICY_OFF and int_row(run, RUN_HEAD)[H_FREE] == 0:
        for k in range(li[load, L_FIRST], li[load, L_HAND]):
            below = int_table(run, LOADS_CLAIMS)[k, K_RANK] > RANK_HAND
            if below and int_table(run, LOADS_NOW_CLAIMS)[k, Q_FRESH] == 0:
                return k
    return NOBODY


@kernel
def note_change(
    run: int,
    load: int,
    was: int,
    now: int,
    claim: int,
    author: int,
    decider: int,
    want: int,
    inhibit: int,
    kept: int,
    t_ms: int,
) -> None:
    """Write a row where the state, who decides, what is wanted, what delays or the cause changed.

    The cause (`cited`) is the claim that decides. Where nobody asks it is the one that matters: the
    first that is not heard since the power cut, else the one that asked last.
    """
    li, oi, ki = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_table(run, LOADS_CLAIMS),
    )
    decided_by = oi[load, O_HAND_AUTHOR] if decider == li[load, L_HAND] else NOBODY
    cited = decider
    if decider >= li[load, L_REST]:
        unheard = unheard_claim(run, load)
        cited = oi[load, O_ASKED]
        if unheard != NOBODY:
            cited = unheard
            if inhibit == INHIBIT_NONE:
                inhibit = INHIBIT_RETURN_OFF
    elif ki[decider, K_RANK] > RANK_HAND:
        oi[load, O_ASKED] = decider
    if (
        now == was
        and decider == oi[load, O_DECIDER]
        and decided_by == oi[load, O_AUTHOR]
        and want == oi[load, O_WANT]
        and inhibit == oi[load, O_INHIBIT]
        and cited == oi[load, O_CITED]
    ):
        return
    value = math.nan
    if cited >= 0 and ki[cited, K_SIGNAL] != NONE:
        value = float_row(run, PROBES_NOW_VALUES)[ki[cited, K_SIGNAL]]
    put_row(
        run,
        t_ms,
        EVENT_LOAD,
        load,
        was,
        now,
        claim,
        author,
        decider,
        decided_by,
        want,
        inhibit,
        kept,
        cited,
        value,
    )
    oi[load, O_DECIDER] = decider
    oi[load, O_AUTHOR] = decided_by
    oi[load, O_WANT] = want
    oi[load, O_INHIBIT] = inhibit
    oi[load, O_CITED] = cited
    if now != was:
        int_row(run, RUN_HEAD)[H_STIRRED] = 1
