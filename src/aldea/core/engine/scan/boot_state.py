"""What probes, loads and conditions are at a boot, before anything is restored."""

import math

from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_NONE,
    NEVER,
    NO_DECIDER,
    NO_WISH,
    NOBODY,
    NONE,
    PRIORITY_DEMAND,
    PRIORITY_SCHEDULE,
    WARMING,
)
from aldea.core.engine.scan.two_way import UNSENSED
from aldea.core.engine.tables.conditions import LIT, UNSEEN
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.run import RunTables


def boot_probes(run: RunTables, t_ms: int) -> None:
    """Filters, qualities and values begin anew; everything is counted from the boot itself."""
    for p in range(len(run.plan.probes)):
        now = run.now.probes[p]
        now.filtered = math.nan
        now.value = math.nan
        now.anchor = math.nan
        now.base = math.nan
        now.jumped = math.nan
        now.last_ms = t_ms
        now.good_ms = t_ms
        now.anchor_ms = t_ms
        now.entered_ms = t_ms
        now.base_ms = t_ms
        now.jumped_ms = t_ms
        now.jumped_count = 0
        now.quality = WARMING
        now.good_count = 0
        now.held = 0
        now.next = 0
        now.been_good = 0
    for row in range(len(run.now.signals)):
        run.now.signals[row].good = 0
        run.now.signals[row].good_ms = t_ms
        run.now.signals[row].value = math.nan
    for d in range(len(run.plan.derived)):
        run.now.rates[d].first = 0
        run.now.rates[d].held = 0


def boot_load(run: RunTables, load: int, t_ms: int) -> None:
    """A load as it is without power, and as if nobody had ever asked for it."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    now.state = spec.unpowered
    now.on_ms = t_ms
    now.off_ms = NEVER if run.now.head.free == 1 else t_ms
    now.decider = NO_DECIDER
    now.author = NOBODY
    now.want = 0
    now.inhibit = INHIBIT_NONE
    now.cited = NO_DECIDER
    now.asker = NOBODY
    now.kept = INHIBIT_NONE
    now.kept_for = NO_STATE
    now.locked = 0
    now.lock_ms = 0
    now.relock = 0
    now.lock_author = 0
    now.override = NONE
    now.commanded_ms = NEVER
    now.override_author = NOBODY
    now.override_mode = NONE
    now.override_value = NONE
    now.wait_group = NONE
    now.wait_mode = NONE
    now.wait_value = NONE
    now.override_ends_by = 0
    now.override_end_ms = 0
    now.override_until_ms = 0
    now.override_asleep = 0
    now.override_stored_ms = 0
    now.below = NO_STATE
    now.last = NONE
    now.decided = 0
    now.pattern_ms = t_ms
    now.pulse_ms = NEVER
    now.sensed = UNSENSED
    now.toggled_ms = NEVER
    now.tried = 0
    now.unasked = 0
    now.blocked = NO_STATE
    now.move_ms = NEVER
    now.pulsed_ms = NEVER
    now.failed = 0
    now.not_arriving = 0
    now.late = 0
    now.late_want = NO_WISH
    now.unplaced = 1
    now.measured = 0
    now.outside = 0
    now.at_open = 0
    now.at_shut = 0
    now.starts_next = 0
    now.starts_held = 0
    now.wait_ms = FOREVER


def boot_loads(run: RunTables, t_ms: int) -> None:
    """Every load as it is without power; every rule as if it had never spoken."""
    for load in range(len(run.plan.loads)):
        spec, now = run.plan.loads[load], run.now.loads[load]
        boot_load(run, load, t_ms)
        for k in range(spec.first, spec.last + 1):
            priority, rule = run.plan.rules[k].priority, run.now.rules[k]
            if now.asker == NOBODY and (
                priority == PRIORITY_SCHEDULE or priority == PRIORITY_DEMAND
            ):
                now.asker = k
            rule.tripped = 0
            rule.began_ms = FOREVER
            rule.was = NONE
            rule.fresh = 0
            rule.active = 0
            rule.asking = 0
            rule.noted = 0
            rule.reset = 0
            rule.still = 0
    for line in range(len(run.plan.lines)):
        run.now.lines[line].closed = 0
        run.now.lines[line].opened_ms = NEVER


def boot_conditions(run: RunTables) -> None:
    """After a boot every condition is off, no delay runs, and what is found is no edge."""
    for n in range(len(run.plan.conditions)):
        now = run.now.conditions[n]
        now.now = 0
        now.own = 0
        now.member = UNSEEN
        now.since_ms = NEVER
        now.let_go = 0
        now.good = 0
        now.dark = LIT
        now.letting = 0
