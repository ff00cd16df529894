"""The longest run, and the lock-out after it until each claim that asked has let go."""

from aldea.core.engine.layout import NONE, OFF, RANK_TRIP
from aldea.core.engine.tables.run import RunTables


def let_go_of_lock(run: RunTables, load: int, t_ms: int) -> None:
    """End a lock-out when each claim that was noted has let go, and the rest has passed."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    waits = False
    for k in range(spec.first, spec.last + 1):
        claim = run.now.claims[k]
        if claim.noted == 1:
            other = k == spec.hand and now.lock_author != now.hand_author
            if claim.asking == 0 or other:
                claim.noted = 0
            else:
                waits = True
    if not waits and t_ms - now.lock_ms >= spec.rest_ms:
        now.locked = 0
        now.relock = 0


def lock_out(run: RunTables, load: int, t_ms: int) -> None:
    """Begin a lock-out: every claim that wants the load on now is noted."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    for k in range(spec.first, spec.last + 1):
        claim = run.now.claims[k]
        claim.noted = claim.asking
    now.lock_author = now.hand_author
    now.locked = 1
    now.lock_ms = t_ms
    now.relock = 0


def run_out(run: RunTables, load: int, want: int, rank: int, target: int, t_ms: int) -> bool:
    """Whether its longest run ends the load in this scan: against all but a trip that wants on."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if spec.max_on_ms == NONE or now.state == OFF or target == OFF:
        return False
    if rank == RANK_TRIP and want != OFF:
        return False
    return t_ms - now.on_ms >= spec.max_on_ms
