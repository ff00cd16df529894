"""Modes that a schedule or a condition sets: at its beginning and its end, as a press would."""

from aldea.core.engine.layout import NONE
from aldea.core.engine.scan.actions import set_mode
from aldea.core.engine.tables.conditions import UNSEEN
from aldea.core.engine.tables.run import RunTables


def boot_mode_changes(run: RunTables) -> None:
    """After a boot what a condition is found as is neither a beginning nor an end."""
    for c in range(len(run.plan.mode_changes)):
        run.now.mode_changes[c].seen = UNSEEN


def change_modes(run: RunTables, t_ms: int) -> bool:
    """Each change of a mode whose condition begins or ends in this scan; whether one was set.

    Of several in one scan the last in the plan's order decides.
    """
    changed = False
    for c in range(len(run.plan.mode_changes)):
        spec, now = run.plan.mode_changes[c], run.now.mode_changes[c]
        result = run.now.conditions[spec.node].now
        if result == now.seen:
            continue
        begins = result == 1 and (now.seen != UNSEEN or spec.on_boot == 1)
        ends = result == 0 and now.seen == 1
        now.seen = result
        wanted = spec.begin if begins else spec.end
        if (begins or ends) and wanted != NONE and run.now.modes[spec.mode] != wanted:
            set_mode(run, t_ms, spec.mode, wanted, spec.author)
            changed = True
    return changed
