"""One scan of the last stage: from wanted states to relay contacts."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.contacts.compiled import (
    D_DEAD_MS,
    D_END,
    D_FIRST,
    D_FIRST_ROW,
    D_MODE,
    D_PULSE_MS,
    D_STATES,
    STEADY,
    TOGGLE,
    CompiledContacts,
)
from aldea.core.engine.layout import NEVER

# columns of a load's line state
W_OPENED_MS, W_PULSE_END_MS, W_QUIET_UNTIL_MS = range(3)


W_INTS = 3


@kernel
def step_contacts(
    di: IntArray,
    combos: IntArray,
    exclusive: IntArray,
    wanted: IntArray,
    sensed: IntArray,
    conducts: IntArray,
    timers: IntArray,
    t_ms: int,
) -> int:
    """One scan of the last stage: opens at once, closes after the dead time; returns changes.

    `wanted` and `sensed` are states by load (sensed −1 where nobody knows, or while it moves): a
    toggle or pulse comes where they differ, never because the wish alone changed. `conducts` is
    changed in place. Relays that are not in the new combination open first; the new ones close
    when the dead time since the last opening has passed and no exclusive one conducts.
    """
    changes = 0
    for load in range(di.shape[0]):
        first = di[load, D_FIRST]
        end = di[load, D_END]
        if di[load, D_MODE] == STEADY:
            row = di[load, D_FIRST_ROW] + min(max(wanted[load], 0), di[load, D_STATES] - 1)
            for line in range(first, end):
                if conducts[line] == 1 and combos[row, line] == 0:
                    conducts[line] = 0
                    timers[load, W_OPENED_MS] = t_ms
                    changes += 1
        elif di[load, D_MODE] == TOGGLE:
            if (
                sensed[load] >= 0
                and min(wanted[load], 1) != sensed[load]
                and t_ms >= timers[load, W_QUIET_UNTIL_MS]
            ):
                conducts[first] = 1 - conducts[first]
                timers[load, W_QUIET_UNTIL_MS] = t_ms + di[load, D_DEAD_MS]
                changes += 1
        elif conducts[first] == 1:
            if t_ms >= timers[load, W_PULSE_END_MS]:
                conducts[first] = 0
                changes += 1
        elif (
            sensed[load] >= 0
            and min(wanted[load], 1) != sensed[load]
            and t_ms >= timers[load, W_QUIET_UNTIL_MS]
        ):
            conducts[first] = 1
            timers[load, W_PULSE_END_MS] = t_ms + di[load, D_PULSE_MS]
            timers[load, W_QUIET_UNTIL_MS] = t_ms + max(di[load, D_DEAD_MS], di[load, D_PULSE_MS])
            changes += 1
    for load in range(di.shape[0]):
        if di[load, D_MODE] != STEADY or t_ms - timers[load, W_OPENED_MS] < di[load, D_DEAD_MS]:
            continue
        row = di[load, D_FIRST_ROW] + min(max(wanted[load], 0), di[load, D_STATES] - 1)
        for line in range(di[load, D_FIRST], di[load, D_END]):
            if conducts[line] == 0 and combos[row, line] == 1:
                barred = False
                for pair in range(exclusive.shape[0]):
                    a = exclusive[pair, 0]
                    b = exclusive[pair, 1]
                    if (a == line and conducts[b] == 1) or (b == line and conducts[a] == 1):
                        barred = True
                if not barred:
                    conducts[line] = 1
                    changes += 1
    return changes


@dataclass(slots=True)
class ContactState:
    """What conducts now, with its timers."""

    conducts: IntArray
    timers: IntArray

    @classmethod
    def at_boot(
        cls, contacts: CompiledContacts, t_ms: int, *, first_start: bool = False
    ) -> "ContactState":
        """As the pins stand before the program's first scan.

        What conducted in the dark or during boot opens in the first scan, and dead times count from
        there. After a cut nothing closes before the dead time: a charge or a coasting motor may
        still be there.
        """
        timers = np.zeros((len(contacts.di), W_INTS), dtype=np.int64)
        timers[:, W_OPENED_MS] = NEVER if first_start else t_ms
        timers[:, W_QUIET_UNTIL_MS] = NEVER
        return cls(conducts=contacts.boot.copy(), timers=timers)
