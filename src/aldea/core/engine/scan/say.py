"""Who has the say over each load: trips, rules by priority, overrides, and what is at idle."""

from aldea.core.engine.layout import (
    EVENT_TRIP,
    FOREVER,
    NOBODY,
    NONE,
    OFF,
    POLICY_FOLLOW_RULES,
    POLICY_OFF,
    PRIORITY_DEMAND,
    PRIORITY_FAULT,
    PRIORITY_OVERRIDE,
    PRIORITY_SCHEDULE,
    PRIORITY_TRIP,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.override import judge_override, override_asks, state_of_want
from aldea.core.engine.tables.run import RunTables


def judge_trip(run: RunTables, load: int, k: int, holds: bool, t_ms: int) -> bool:
    """A trip latches; a reset takes effect in its scan, where its condition does not hold."""
    now = run.now.rules[k]
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
    spec, now = run.plan.rules[k], run.now.rules[k]
    lets_go = run.now.conditions[spec.node].let_go == 1
    now.still = 0 if lets_go else 1
    if run.now.head.free == 1:
        return True
    policy = run.plan.loads[load].policy
    if policy == POLICY_OFF:
        if lets_go:
            now.fresh = 1
        return now.fresh == 1
    return policy != POLICY_FOLLOW_RULES or run.now.loads[load].decided == 1


def judge_rule(run: RunTables, load: int, k: int, t_ms: int) -> bool:
    """Whether a rule is heard now."""
    spec, now = run.plan.rules[k], run.now.rules[k]
    if spec.node == NONE:  # of a fault: its probe is not good, and was last good long enough ago
        probe = run.now.probes[spec.probe]
        bad = (spec.qualities >> probe.quality) & 1 == 1
        holds = bad and t_ms - probe.good_ms >= spec.after_ms
    else:
        holds = run.now.conditions[spec.node].now == 1
    if spec.priority == PRIORITY_TRIP:
        holds = judge_trip(run, load, k, holds, t_ms)
    speaks = holds
    if spec.priority == PRIORITY_SCHEDULE or spec.priority == PRIORITY_DEMAND:
        may = heard_since_boot(run, load, k)
        speaks = speaks and may
    if spec.pulse_ms != NONE:
        # It speaks for its time from the scan in which it becomes active, heard or not.
        if holds and now.was == 0:
            now.began_ms = t_ms
        elif not holds:
            now.began_ms = FOREVER
        now.was = 1 if holds else 0
        speaks = speaks and 0 <= t_ms - now.began_ms < spec.pulse_ms
    return speaks


def judge_decided(run: RunTables, load: int) -> None:
    """Whether each probe that a fault rule of the load looks at has been good since the boot."""
    spec = run.plan.loads[load]
    for k in range(spec.first, spec.override):
        rule = run.plan.rules[k]
        if rule.priority == PRIORITY_FAULT and rule.node == NONE:
            if run.now.probes[rule.probe].been_good == 0:
                return
    run.now.loads[load].decided = 1


def say(run: RunTables, load: int, t_ms: int) -> int:
    """The rule that decides over a load, as a row; which rules ask for it to be on is noted."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    override, rest, last = spec.override, spec.rest, spec.last
    if now.decided == 0:
        judge_decided(run, load)
    above, below, some = NONE, NONE, False
    for k in range(spec.first, override):
        rule, rule_now = run.plan.rules[k], run.now.rules[k]
        speaks = judge_rule(run, load, k, t_ms)
        rule_now.active = 1 if speaks else 0
        asks = False
        if speaks:
            some = True
            asks = state_of_want(spec, rule.want) > OFF
            if rule.priority < PRIORITY_OVERRIDE:
                if above == NONE:
                    above = k
            elif below == NONE:
                below = k
        if not asks and now.relock == 1 and rule_now.still == 1:
            asks = True  # of a lock-out that the boot brought back: its condition is not false yet
        rule_now.asking = 1 if asks else 0
    idle = rest
    if now.last != NONE:
        spoken = now.override != NONE and (
            now.override_asleep == 0 or run.now.head.clock_known == 1
        )
        if some or spoken:
            now.last = NONE
        else:
            idle = last
    if now.override != NONE:
        judge_override(run, load, want_of(run, load, below if below != NONE else idle), t_ms)
    run.now.rules[override].asking = 1 if override_asks(run, load) else 0
    rest_asks = idle == rest and want_of(run, load, rest) > OFF
    run.now.rules[rest].asking = 1 if rest_asks else 0
    run.now.rules[last].asking = 1 if idle == last and now.last > OFF else 0
    if above != NONE:
        return above
    if now.override != NONE and now.override_asleep == 0:
        return override
    return below if below != NONE else idle


def want_of(run: RunTables, load: int, k: int) -> int:
    """The state of its load that a rule wants."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if k == spec.override:
        return state_of_want(spec, now.override)
    if k == spec.last:
        return now.last
    return state_of_want(spec, run.plan.rules[k].want)
