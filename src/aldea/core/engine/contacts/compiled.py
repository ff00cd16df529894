"""The wiring compiled for the last stage of a scan: which relays conduct in which state.

Polarity, contact kind, combination tables, exclusive relays, break before make, the level while
the board starts: all compiled from the plan's own wiring, so that there is no second truth.
"Conducts" is whether the relay lets its load's circuit through; the coil follows from the contact
kind, the pin's level from the coil and the module's polarity.
"""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.base.errors import PlanError
from aldea.core.base.memo import per_plan
from aldea.core.devices.loads.device import Drive
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.seats import boot_coil

STEADY, TOGGLE, PULSE = range(3)
MODES: dict[Drive, int] = {"steady": STEADY, "toggle": TOGGLE, "pulse": PULSE}
# Columns of the load table.
D_MODE, D_FIRST, D_END, D_FIRST_ROW, D_STATES, D_DEAD_MS, D_PULSE_MS = range(7)
D_INTS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class CompiledContacts:
    """Compiled wiring: one row a load, one column a relay.

    `combos` has a row for each state of each load: 1 where the relay conducts. `boot` is what
    conducts before the program runs. `exclusive` holds pairs that never conduct together.
    """

    load_ids: tuple[str, ...]
    relays: tuple[RelayOutput, ...]
    di: IntArray
    combos: IntArray
    exclusive: IntArray
    boot: IntArray
    unpowered: IntArray

    def coil(self, line: int, conducts: int) -> bool:
        """Whether the relay's coil is energised while its contact conducts or not."""
        return bool(conducts) != (self.relays[line].contact == "nc")

    def level(self, line: int, conducts: int) -> bool:
        """Whether the pin is high then."""
        return self.coil(line, conducts) != (self.relays[line].active == "low")


@per_plan
def compile_contacts(plan: Plan) -> CompiledContacts:
    """Compile the relays of a plan.

    Raises `PlanError` where a load lacks a relay that one of its states needs, and where two
    exclusive relays would conduct before the program runs.
    """
    loads = [load for load in plan.loads if plan.relays_of(load.id)]
    relays: list[RelayOutput] = []
    rows: list[list[int]] = []
    combos: list[tuple[set[int], int]] = []
    pairs: list[tuple[int, int]] = []
    for load in loads:
        own = plan.relays_of(load.id)
        first = len(relays)
        at = {relay.role: first + i for i, relay in enumerate(own)}
        device = load_device(load)
        states = device.states(load)
        missing = {role for state in states for role in state} - set(at)
        if missing:
            raise PlanError(
                f"relays of {load.id}",
                got="no relay for " + ", ".join(sorted(missing)),
                allowed="a relay for every role",
                mend="Propose its relays at Wire.",
            )
        how = device.contacts(load)
        row = [0] * D_INTS
        row[D_MODE] = MODES[how.drive]
        row[D_FIRST], row[D_END] = first, first + len(own)
        row[D_FIRST_ROW], row[D_STATES] = len(combos), len(states)
        row[D_DEAD_MS] = round(how.dead_s * 1000)
        row[D_PULSE_MS] = round(how.pulse_s * 1000)
        pairs += [(at[a], at[b]) for a, b in how.exclusive if a in at and b in at]
        rows.append(row)
        combos.extend(({at[role] for role in state}, len(combos)) for state in states)
        relays.extend(own)
    table = np.zeros((len(combos), len(relays)), dtype=np.int64)
    for index, (closed, _) in enumerate(combos):
        table[index, sorted(closed)] = 1
    made = CompiledContacts(
        load_ids=tuple(load.id for load in loads),
        relays=tuple(relays),
        di=np.array(rows, dtype=np.int64).reshape(len(rows), D_INTS),
        combos=table,
        exclusive=np.array(pairs, dtype=np.int64).reshape(len(pairs), 2),
        boot=np.array(
            [int(bool(boot_coil(r, plan)) != (r.contact == "nc")) for r in relays], dtype=np.int64
        ),
        unpowered=np.array([int(r.contact == "nc") for r in relays], dtype=np.int64),
    )
    for first, second in pairs:
        if (made.boot[first] and made.boot[second]) or (
            made.unpowered[first] and made.unpowered[second]
        ):
            raise PlanError(
                f"relays {relays[first].id} and {relays[second].id}",
                got="two exclusive contacts that conduct before the program runs",
                allowed="at most one",
                mend="Use normally open contacts, and pins that stay quiet while the board starts.",
            )
    return made
