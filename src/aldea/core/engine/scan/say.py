"""Who has the say over each load: trips, claims by rank, hands, and what is at idle."""

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
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.hand import hand_asks, judge_hand, state_of_want
from aldea.core.engine.tables.run import RunTables


def judge_trip(run: RunTables, load: int, k: int, holds: bool, t_ms: int) -> bool:
    """A trip latches; a reset takes effect in its scan, where its condition does not hold."""
    now = run.now.claims[k]
    was = now.tripped
    if now.reset != 0:
        if not holds:
            now.tripped = 0
            put_event(run, t_ms, EVENT_TRIP, load, 1, 0, k, now.reset - 1, 0.0)
        now.reset = 0
    if holds and was == 0:
        now.tripped = 1
        put_event(run, t_ms, EVENT_TRIP, load, 0, 1, k, NOBODY, 0.0)
    return now.tripped == 1


def heard_since_boot(run: RunTables, load: int, k: int) -> bool:
    """Whether a schedule or a demand may be heard again after a boot."""
    spec, now = run.plan.claims[k], run.now.claims[k]
    lets_go = run.now.conditions[spec.node].let_go == 1
    now.still = 0 if lets_go else 1
    if run.now.head.free == 1:
        return True
    policy = run.plan.loads[load].policy
    if policy == POLICY_OFF:
        if lets_go:
            now.fresh = 1
        return now.fresh == 1
    return policy != POLICY_DECIDE or run.now.loads[load].decided == 1


def judge_claim(run: RunTables, load: int, k: int, t_ms: int) -> bool:
    """Whether a claim is heard now."""
    spec, now = run.plan.claims[k], run.now.claims[k]
    if spec.node == NONE:  # of a fault: its probe is not good, and was last good long enough ago
        probe = run.now.probes[spec.probe]
        bad = (spec.qualities >> probe.quality) & 1 == 1
        holds = bad and t_ms - probe.good_ms >= spec.after_ms
    else:
        holds = run.now.conditions[spec.node].now == 1
    if spec.rank == RANK_TRIP:
        holds = judge_trip(run, load, k, holds, t_ms)
    heard = holds
    if spec.rank == RANK_SCHEDULE or spec.rank == RANK_DEMAND:
        may = heard_since_boot(run, load, k)
        heard = heard and may
    if spec.pulse_ms != NONE:
        # It speaks for its time from the scan in which it becomes active, heard or not.
        if holds and now.was == 0:
            now.began_ms = t_ms
        elif not holds:
            now.began_ms = FOREVER
        now.was = 1 if holds else 0
        heard = heard and 0 <= t_ms - now.began_ms < spec.pulse_ms
    return heard


def judge_decided(run: RunTables, load: int) -> None:
    """Whether each probe that a fault claim of the load looks at has been good since the boot."""
    spec = run.plan.loads[load]
    for k in range(spec.first, spec.hand):
        claim = run.plan.claims[k]
        if claim.rank == RANK_FAULT and claim.node == NONE:
            if run.now.probes[claim.probe].been_good == 0:
                return
    run.now.loads[load].decided = 1


def say(run: RunTables, load: int, t_ms: int) -> int:
    """The claim that decides over a load, as a row; which claims ask for it to be on is noted."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    hand, rest, last = spec.hand, spec.rest, spec.last
    if now.decided == 0:
        judge_decided(run, load)
    above, below, some = NONE, NONE, False
    for k in range(spec.first, hand):
        claim, claim_now = run.plan.claims[k], run.now.claims[k]
        heard = judge_claim(run, load, k, t_ms)
        claim_now.active = 1 if heard else 0
        asks = False
        if heard:
            some = True
            asks = state_of_want(spec, claim.want) > OFF
            if claim.rank < RANK_HAND:
                if above == NONE:
                    above = k
            elif below == NONE:
                below = k
        if not asks and now.relock == 1 and claim_now.still == 1:
            asks = True  # of a lock-out that the boot brought back: it has not let go yet
        claim_now.asking = 1 if asks else 0
    idle = rest
    if now.last != NONE:
        spoken = now.hand != NONE and (now.hand_asleep == 0 or run.now.head.clock_known == 1)
        if some or spoken:
            now.last = NONE
        else:
            idle = last
    if now.hand != NONE:
        judge_hand(run, load, want_of(run, load, below if below != NONE else idle), t_ms)
    run.now.claims[hand].asking = 1 if hand_asks(run, load) else 0
    rest_asks = idle == rest and want_of(run, load, rest) > OFF
    run.now.claims[rest].asking = 1 if rest_asks else 0
    run.now.claims[last].asking = 1 if idle == last and now.last > OFF else 0
    if above != NONE:
        return above
    if now.hand != NONE and now.hand_asleep == 0:
        return hand
    return below if below != NONE else idle


def want_of(run: RunTables, load: int, k: int) -> int:
    """The state of its load that a claim wants."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if k == spec.hand:
        return state_of_want(spec, now.hand)
    if k == spec.last:
        return now.last
    return state_of_want(spec, run.plan.claims[k].want)
