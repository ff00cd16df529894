"""The loop of a run: power, what comes in, scans.

It visits every tick, or only those at which something can change.
The order inside a scan is that of ENGINE.md. Timers compare instants and never count scans.
Skipping is exact against visiting every tick.
"""

from aldea.core.engine.layout import NONE
from aldea.core.engine.scan.boot import boot
from aldea.core.engine.scan.conditions import judge_conditions
from aldea.core.engine.scan.incoming import lose_inputs, next_input, take_inputs
from aldea.core.engine.scan.one_scan import decide, next_instant, trust
from aldea.core.engine.scan.power import power_off, put_power
from aldea.core.engine.scan.skipping import only_feeds, quiet_bounds, skip_samples
from aldea.core.engine.tables.run import RunTables


def tick_at(start_ms: int, period_ms: int, at_ms: int) -> int:
    """The first tick of a run at or after an instant."""
    return start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms


def scan_loop(
    run: RunTables,
    start_ms: int,
    end_ms: int,
    period_ms: int,
    running: bool,
    goes_on: bool,
    skipping: bool,
) -> None:
    """Run from `start_ms` up to but not including `end_ms`; one that `goes_on` boots nothing.

    Each input is seen by the first tick at or after it; one that falls into a cut is never seen.
    Events of the supply and of boots have their own instants, all others those of their tick.
    """
    cursor, cuts = run.now.cursor, len(run.inputs.cuts)
    dark = False
    # A run that begins without power boots when it comes.
    unpowered = cuts > 0 and run.inputs.cuts[0].from_ms <= start_ms
    if not goes_on:
        boot(run, start_ms, running or unpowered)
    t_ms = start_ms
    timer_ms = start_ms
    cursor.feeds = 0
    while t_ms < end_ms:
        # --- power: every cut that has begun by now, also those that passed between two scans
        back = NONE
        while cursor.cut < cuts and t_ms >= run.inputs.cuts[cursor.cut].from_ms:
            cut = run.inputs.cuts[cursor.cut]
            if not dark:
                dark = True
                power_off(run, cursor.cut, start_ms)
            if t_ms < cut.to_ms + cut.boot_ms:
                break
            dark = False
            back = cursor.cut
            cursor.cut += 1
            put_power(run, cut.to_ms, 0, 1)
            if cut.kept == 0:
                run.now.head.clock_known = 0
        if dark:
            # Nothing happens in the dark: on to the first tick after it.
            over = run.inputs.cuts[cursor.cut]
            t_ms = tick_at(start_ms, period_ms, over.to_ms + over.boot_ms)
            continue
        if back != NONE:
            last = run.inputs.cuts[back]
            lose_inputs(run, last.to_ms)
            boot(run, last.to_ms + last.boot_ms, False)
        # --- what comes in, and the scan
        take_inputs(run, t_ms)
        lightly = cursor.feeds == 1 and back == NONE and only_feeds(run)
        trust(run, t_ms)
        # Nothing is due, and where no condition says anything new, nobody decides anew.
        if not (lightly and not judge_conditions(run, t_ms)):
            decide(run, t_ms, period_ms)
            if not skipping:
                t_ms += period_ms
                continue
            # --- on to the next tick at which something can change
            quiet_bounds(run)
            timer_ms = min(next_instant(run, t_ms, period_ms), next_input(run, end_ms))
        at_ms = skip_samples(run, timer_ms, t_ms, period_ms)
        t_ms = max(t_ms + period_ms, tick_at(start_ms, period_ms, at_ms))
