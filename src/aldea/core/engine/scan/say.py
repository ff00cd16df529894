"""Who has the say over each load: trips, claims by rank, hands, and what is at idle."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_TRIP,
    FOREVER,
    NOBODY,
    NONE,
    OFF,
    POLICY_DECIDE,
    POLICY_OFF,
    RANK_DEMAND,
    RANK_FAULT,
    RANK_HAND,
    RANK_SCHEDULE,
    RANK_TRIP,
)
from aldea.core.engine.scan.arrays import (
    H_CLOCK_KNOWN,
    H_FREE,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.hand import hand_asks, judge_hand, state_of_want
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    PROBES_NOW_INTS,
    RUN_CONDITIONS,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.conditions import C_LET_GO, C_NOW
from aldea.core.engine.tables.loads import (
    K_AFTER_MS,
    K_NODE,
    K_PROBE,
    K_PULSE_MS,
    K_QUALITIES,
    K_RANK,
    K_WANT,
    L_FIRST,
    L_HAND,
    L_LAST,
    L_POLICY,
    L_REST,
    O_DECIDED,
    O_HAND,
    O_HAND_ASLEEP,
    O_LAST,
    O_RELOCK,
    Q_ACTIVE,
    Q_ASKING,
    Q_BEGAN_MS,
    Q_FRESH,
    Q_RESET,
    Q_STILL,
    Q_TRIPPED,
    Q_WAS,
)
from aldea.core.engine.tables.probes import S_BEEN_GOOD, S_GOOD_MS, S_QUALITY


@kernel
def judge_trip(run: int, load: int, k: int, holds: bool, t_ms: int) -> bool:
    """A trip latches; a reset takes effect in its scan, where its condition does not hold."""
    claims = int_table(run, LOADS_NOW_CLAIMS)
    was = claims[k, Q_TRIPPED]
    if claims[k, Q_RESET] != 0:
        if not holds:
            claims[k, Q_TRIPPED] = 0
            put_event(run, t_ms, EVENT_TRIP, load, 1, 0, k, claims[k, Q_RESET] - 1, 0.0)
        claims[k, Q_RESET] = 0
    if holds and was == 0:
        claims[k, Q_TRIPPED] = 1
        put_event(run, t_ms, EVENT_TRIP, load, 0, 1, k, NOBODY, 0.0)
    return claims[k, Q_TRIPPED] == 1


@kernel
def judge_claim(run: int, load: int, k: int, t_ms: int) -> bool:
    """Whether a claim is heard now."""
    ki, claims = int_table(run, LOADS_CLAIMS), int_table(run, LOADS_NOW_CLAIMS)
    rank, node = ki[k, K_RANK], ki[k, K_NODE]
    if node == NONE:  # of a fault: its probe is not good, and was last good long enough ago
        p = ki[k, K_PROBE]
        quality = int_table(run, PROBES_NOW_INTS)[p, S_QUALITY]
        bad = (ki[k, K_QUALITIES] >> quality) & 1 == 1
        holds = bad and t_ms - int_table(run, PROBES_NOW_INTS)[p, S_GOOD_MS] >= ki[k, K_AFTER_MS]
    else:
        holds = int_table(run, RUN_CONDITIONS)[node, C_NOW] == 1
    if rank == RANK_TRIP:
        holds = judge_trip(run, load, k, holds, t_ms)
    heard = holds
    if rank == RANK_SCHEDULE or rank == RANK_DEMAND:
        lets_go = int_table(run, RUN_CONDITIONS)[node, C_LET_GO] == 1
        claims[k, Q_STILL] = 0 if lets_go else 1
        policy = int_table(run, LOADS_INTS)[load, L_POLICY]
        if int_row(run, RUN_HEAD)[H_FREE] == 0:
            if policy == POLICY_OFF:
                if lets_go:
                    claims[k, Q_FRESH] = 1
                heard = heard and claims[k, Q_FRESH] == 1
            elif policy == POLICY_DECIDE and int_table(run, LOADS_NOW_INTS)[load, O_DECIDED] == 0:
                heard = False
    if ki[k, K_PULSE_MS] != NONE:
        # It speaks for its time from the scan in which it becomes active, heard or not.
        if holds and claims[k, Q_WAS] == 0:
            claims[k, Q_BEGAN_MS] = t_ms
        elif not holds:
            claims[k, Q_BEGAN_MS] = FOREVER
        claims[k, Q_WAS] = 1 if holds else 0
        since_ms = t_ms - claims[k, Q_BEGAN_MS]
        heard = heard and 0 <= since_ms < ki[k, K_PULSE_MS]
    return heard


@kernel
def judge_decided(run: int, load: int) -> None:
    """Whether each probe that a fault claim of the load looks at has been good since the boot."""
    ki, li = int_table(run, LOADS_CLAIMS), int_table(run, LOADS_INTS)
    for k in range(li[load, L_FIRST], li[load, L_HAND]):
        if ki[k, K_RANK] == RANK_FAULT and ki[k, K_NODE] == NONE:
            if int_table(run, PROBES_NOW_INTS)[ki[k, K_PROBE], S_BEEN_GOOD] == 0:
                return
    int_table(run, LOADS_NOW_INTS)[load, O_DECIDED] = 1


@kernel
def say(run: int, load: int, t_ms: int) -> int:
    """The claim that decides over a load, as a row; which claims ask for it to be on is noted."""
    ki, li, oi = (
        int_table(run, LOADS_CLAIMS),
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
    )
    claims = int_table(run, LOADS_NOW_CLAIMS)
    first, hand, rest = li[load, L_FIRST], li[load, L_HAND], li[load, L_REST]
    if oi[load, O_DECIDED] == 0:
        judge_decided(run, load)
    above, below, some = NONE, NONE, False
    for k in range(first, hand):
        heard = judge_claim(run, load, k, t_ms)
        claims[k, Q_ACTIVE] = 1 if heard else 0
        asks = False
        if heard:
            some = True
            wanted = state_of_want(li, load, ki[k, K_WANT])
            asks = wanted > OFF
            if ki[k, K_RANK] < RANK_HAND:
                if above == NONE:
                    above = k
            elif below == NONE:
                below = k
        if not asks and oi[load, O_RELOCK] == 1 and claims[k, Q_STILL] == 1:
            asks = True  # of a lock-out that the boot brought back: it has not let go yet
        claims[k, Q_ASKING] = 1 if asks else 0
    idle = rest
    if oi[load, O_LAST] != NONE:
        spoken = oi[load, O_HAND] != NONE and (
            oi[load, O_HAND_ASLEEP] == 0 or int_row(run, RUN_HEAD)[H_CLOCK_KNOWN] == 1
        )
        if some or spoken:
            oi[load, O_LAST] = NONE
        else:
            idle = li[load, L_LAST]
    if oi[load, O_HAND] != NONE:
        under = want_of(run, load, below if below != NONE else idle)
        judge_hand(li, oi, int_row(run, RUN_HEAD), load, under, t_ms)
    claims[hand, Q_ASKING] = 1 if hand_asks(run, load) else 0
    claims[rest, Q_ASKING] = 1 if idle == rest and want_of(run, load, rest) > OFF else 0
    last = li[load, L_LAST]
    claims[last, Q_ASKING] = 1 if idle == last and oi[load, O_LAST] > OFF else 0
    if above != NONE:
        return above
    if oi[load, O_HAND] != NONE and oi[load, O_HAND_ASLEEP] == 0:
        return hand
    return below if below != NONE else idle


@kernel
def want_of(run: int, load: int, k: int) -> int:
    """The state of its load that a claim wants."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    if k == li[load, L_HAND]:
        return state_of_want(li, load, oi[load, O_HAND])
    if k == li[load, L_LAST]:
        return oi[load, O_LAST]
    return state_of_want(li, load, int_table(run, LOADS_CLAIMS)[k, K_WANT])
