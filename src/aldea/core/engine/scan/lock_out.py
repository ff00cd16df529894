"""The maximum on time, and the lock-out until each rule's condition has been false."""

from aldea.core.engine.layout import NONE, OFF, PRIORITY_TRIP
from aldea.core.engine.tables.run import RunTables


def let_go_of_lock(run: RunTables, load: int, t_ms: int) -> None:
    """End a lock-out when each noted rule's condition is false and the lock-out time has passed."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    waits = False
    for k in range(spec.first, spec.last + 1):
        rule = run.now.rules[k]
        if rule.noted == 1:
            other = k == spec.override and now.lock_author != now.override_author
            if rule.asking == 0 or other:
                rule.noted = 0
            else:
                waits = True
    if not waits and t_ms - now.lock_ms >= spec.rest_ms:
        now.locked = 0
        now.relock = 0


def lock_out(run: RunTables, load: int, t_ms: int) -> None:
    """Begin a lock-out: every rule that wants the load on now is noted."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    for k in range(spec.first, spec.last + 1):
        rule = run.now.rules[k]
        rule.noted = rule.asking
    now.lock_author = now.override_author
    now.locked = 1
    now.lock_ms = t_ms
    now.relock = 0


def run_out(run: RunTables, load: int, want: int, priority: int, target: int, t_ms: int) -> bool:
    """Whether its maximum on time ends the load in this scan: against all but a trip to on."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if spec.max_on_ms == NONE or now.state == OFF or target == OFF:
        return False
    if priority == PRIORITY_TRIP and want != OFF:
        return False
    return t_ms - now.on_ms >= spec.max_on_ms
