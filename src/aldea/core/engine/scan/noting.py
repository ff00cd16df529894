"""What is written when the state of a load, its decider, its want or its cause changes."""

import math

from aldea.core.engine.layout import (
    EVENT_LOAD,
    INHIBIT_NONE,
    INHIBIT_RETURN_OFF,
    NOBODY,
    NONE,
    POLICY_OFF,
    RANK_HAND,
)
from aldea.core.engine.scan.events import put_row
from aldea.core.engine.tables.run import RunTables


def unheard_claim(run: RunTables, load: int) -> int:
    """The first claim that is not heard since the boot, as its load returns with policy off."""
    spec = run.plan.loads[load]
    if spec.policy == POLICY_OFF and run.now.head.free == 0:
        for k in range(spec.first, spec.hand):
            if run.plan.claims[k].rank > RANK_HAND and run.now.claims[k].fresh == 0:
                return k
    return NOBODY


def note_change(
    run: RunTables,
    load: int,
    was: int,
    state: int,
    claim: int,
    author: int,
    inhibit: int,
    kept: int,
    t_ms: int,
) -> None:
    """Write a row where the state, who decides, what is wanted, what delays or the cause changed.

    `claim` is the one that the change of state goes by. The cause (`cited`) is the claim that
    decides. Where nobody asks it is the one that matters: the first that is not heard since the
    power cut, else the one that asked last.
    """
    spec, now = run.plan.loads[load], run.now.loads[load]
    decider, want = now.chosen, now.chosen_want
    decided_by = now.hand_author if decider == spec.hand else NOBODY
    cited = decider
    if decider >= spec.rest:
        unheard = unheard_claim(run, load)
        cited = now.asked
        if unheard != NOBODY:
            cited = unheard
            if inhibit == INHIBIT_NONE:
                inhibit = INHIBIT_RETURN_OFF
    elif run.plan.claims[decider].rank > RANK_HAND:
        now.asked = decider
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
    if cited >= 0 and run.plan.claims[cited].signal != NONE:
        value = run.now.signals[run.plan.claims[cited].signal].value
    put_row(
        run, t_ms, EVENT_LOAD, load, was, state, claim, author, decider, decided_by, want, inhibit,
        kept, cited, value,
    )  # fmt: skip
    now.decider = decider
    now.author = decided_by
    now.want = want
    now.inhibit = inhibit
    now.cited = cited
    if state != was:
        run.now.head.stirred = 1
