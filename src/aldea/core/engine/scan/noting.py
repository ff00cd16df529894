"""What is written when the state of a load, its decider, its want or its cause changes."""

import math

from aldea.core.engine.layout import (
    EVENT_LOAD,
    INHIBIT_NONE,
    INHIBIT_RETURN_OFF,
    NOBODY,
    NONE,
    POLICY_OFF,
    PRIORITY_OVERRIDE,
)
from aldea.core.engine.scan.events import put_row
from aldea.core.engine.tables.run import RunTables


def unheard_rule(run: RunTables, load: int) -> int:
    """The first rule that is not heard since the boot, as its load returns with policy off."""
    spec = run.plan.loads[load]
    if spec.policy == POLICY_OFF and run.now.head.free == 0:
        for k in range(spec.first, spec.override):
            if run.plan.rules[k].priority > PRIORITY_OVERRIDE and run.now.rules[k].fresh == 0:
                return k
    return NOBODY


def note_change(
    run: RunTables,
    load: int,
    was: int,
    state: int,
    rule: int,
    author: int,
    inhibit: int,
    kept: int,
    t_ms: int,
) -> None:
    """Write a row where the state, who decides, what is wanted, what delays or the cause changed.

    `rule` is the one that the change of state goes by. The cause (`cited`) is the rule that
    decides. Where no rule applies it is the one that matters: the first that is not heard since the
    power cut, else the one that asked last.
    """
    spec, now = run.plan.loads[load], run.now.loads[load]
    decider, want = now.chosen, now.chosen_want
    decided_by = now.override_author if decider == spec.override else NOBODY
    cited = decider
    if decider >= spec.rest:
        unheard = unheard_rule(run, load)
        cited = now.asker
        if unheard != NOBODY:
            cited = unheard
            if inhibit == INHIBIT_NONE:
                inhibit = INHIBIT_RETURN_OFF
    elif run.plan.rules[decider].priority > PRIORITY_OVERRIDE:
        now.asker = decider
    if (
        state == was
        and decider == now.decider
        and decided_by == now.author
        and want == now.want
        and inhibit == now.inhibit
        and cited == now.cited
    ):
        return
    value = math.nan
    if cited >= 0 and run.plan.rules[cited].signal != NONE:
        value = run.now.signals[run.plan.rules[cited].signal].value
    put_row(
        run, t_ms, EVENT_LOAD, load, was, state, rule, author, decider, decided_by, want, inhibit,
        kept, cited, value,
    )  # fmt: skip
    now.decider = decider
    now.author = decided_by
    now.want = want
    now.inhibit = inhibit
    now.cited = cited
    if state != was:
        run.now.head.stirred = 1
