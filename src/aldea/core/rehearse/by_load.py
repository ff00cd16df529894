"""A rehearsal part by part: a load hangs on its own rules, on what they read, and on few others.

Those are the loads that it stands on or shares exclusive relays with. So a mark that is moved makes
one part's replay anew and no other's. The parts put together are what the whole plan does in one
run; a law in the tests holds both together.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from aldea.core.base.memo import per_plan
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.engine.replay import Run
from aldea.core.plan.conditions import (
    Dark,
    InWindow,
    LoadState,
    Named,
    Position,
    QualityIs,
    Sun,
    Tape,
)
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.panel import Assignment
from aldea.core.plan.reading import (
    contacts_of,
    expanded,
    named_conditions,
    position_probes,
    probes_of_claim,
    working_claims,
)
from aldea.core.rehearse.rehearsal import Rehearsal

# Of one instant, as a scan goes through them; a load that missed is told with its own changes.
ORDER = {
    lay.EVENT_POWER: 0,
    lay.EVENT_PROBE: 1,
    lay.EVENT_CONDITION: 2,
    lay.EVENT_TRIP: 3,
    lay.EVENT_MISSED: 4,
    lay.EVENT_LOAD: 4,
}


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class LoadPart:
    """Working loads that hang together, with their rules and what they read: a plan of its own.

    `contacts` are the probes that are read as contacts. Two parts are equal where nothing that
    their replay hangs on differs.
    """

    plan: Plan
    probes: tuple[str, ...]
    contacts: tuple[str, ...]
    hashed: int

    @classmethod
    def of(cls, plan: Plan, loads: tuple[Load, ...]) -> "LoadPart":
        """The part of some loads."""
        claims = tuple(claim for load in loads for claim in working_claims(plan, load.id))
        read = {probe for load in loads for probe in position_probes(load)}
        contacts: dict[str, None] = {}
        named: set[str] = set()
        for claim in claims:
            read.update(probes_of_claim(plan, claim))
            contacts.update(dict.fromkeys(_contacts(plan, claim)))
            for part in _parts(plan, claim):
                if isinstance(part, QualityIs):
                    read.add(part.probe)
                if isinstance(part, Named):
                    named.add(part.condition)
        probes = tuple(probe for probe in plan.probes if probe.id in read)
        ids = {load.id for load in loads}
        relays = tuple(relay for relay in plan.relays if relay.load in ids)
        known = {relay.id for relay in relays}
        alone = plan.model_copy(
            update={
                "loads": loads,
                "claims": claims,
                "probes": probes,
                "conditions": tuple(row for row in plan.conditions if row.id in named),
                "relays": relays,
                "exclusive": tuple(g for g in plan.exclusive if known & set(g.relays)),
                "controls": (),
                "groups": (),
                "assignments": _pins_of_tapes(plan, claims),
                "memory": _memory(plan, ids),
            }
        )
        return cls(
            plan=alone,
            probes=tuple(probe.id for probe in probes),
            contacts=tuple(contacts),
            hashed=hash(_hangs_on(alone)),
        )

    @property
    def reads(self) -> tuple[str, ...]:
        """Every probe that the replay looks at."""
        return tuple(dict.fromkeys((*self.probes, *self.contacts)))

    @property
    def loads(self) -> frozenset[str]:
        """The loads that hang together."""
        return frozenset(load.id for load in self.plan.loads)

    def __hash__(self) -> int:
        return self.hashed

    def __eq__(self, other: object) -> bool:
        return isinstance(other, LoadPart) and _hangs_on(self.plan) == _hangs_on(other.plan)


def _hangs_on(plan: Plan) -> tuple[object, ...]:
    by_clock = any(
        isinstance(part, InWindow | Sun) for claim in plan.claims for part in _parts(plan, claim)
    )
    return (
        plan.loads,
        plan.claims,
        plan.probes,
        plan.derived,
        plan.conditions,
        plan.modes,
        plan.doorways,
        plan.relays,
        plan.exclusive,
        plan.memory,
        plan.boot,
        plan.scan_period_ms,
        (plan.assignments, plan.boards, plan.board_types, plan.supplies)
        if plan.assignments
        else None,
        (plan.schedules, plan.house.time_zone, plan.house.latitude_deg, plan.house.longitude_deg)
        if by_clock
        else None,
    )


def _pins_of_tapes(plan: Plan, claims: tuple[Claim, ...]) -> tuple[Assignment, ...]:
    """The pins of the tapes that are read: a tape's states hang on its divider, and so on its pin.

    Those of any other probe change nothing that its rules do.
    """
    tapes = {
        f"probe:{part.probe}"
        for claim in claims
        for part in _parts(plan, claim)
        if isinstance(part, Tape)
    }
    return tuple(row for row in plan.assignments if row.signal.partition(".")[0] in tapes)


def _parts(plan: Plan, claim: Claim) -> list[object]:
    return list(expanded(plan, claim.condition)) if claim.condition is not None else []


def _contacts(plan: Plan, claim: Claim) -> tuple[str, ...]:
    return contacts_of(plan, claim.condition) if claim.condition is not None else ()


def _memory(plan: Plan, loads: set[str]) -> object:
    """What of the memory's fields the part has; which fields there are changes no other load."""
    if plan.memory.fields is None:
        return plan.memory
    of_loads = ("load", "hand", "lock_out")
    kept = tuple(
        field
        for field in plan.memory.fields
        if field.partition(":")[0] not in of_loads or field.partition(":")[2] in loads
    )
    return plan.memory.model_copy(update={"fields": kept})


def _stands_on(plan: Plan, load: Load) -> set[str]:
    """The other loads that a load's rules or relays hang on."""
    found: set[str] = set()
    for claim in working_claims(plan, load.id):
        for part in _parts(plan, claim):
            if isinstance(part, LoadState | Position):
                found.add(part.load)
            if isinstance(part, Dark) and part.lamp is not None:
                found.add(part.lamp)
    mine = {relay.id for relay in plan.relays_of(load.id)}
    owner = {relay.id: relay.load for relay in plan.relays}
    for group in plan.exclusive:
        if mine & set(group.relays):
            found.update(owner[relay] for relay in group.relays if relay in owner)
    return found


@per_plan
def load_parts(plan: Plan) -> dict[str, LoadPart]:
    """The part of every working load, in the order of the plan; loads that hang together share it.

    A memory that is not written at each change ties all loads together.
    """
    plan = _with_places(plan)
    working = [load for load in plan.loads if load.stage == "working"]
    group = {load.id: index for index, load in enumerate(working)}

    def join(first: str, second: str) -> None:
        if first in group and second in group and group[first] != group[second]:
            gone, stays = group[second], group[first]
            for load_id, at in group.items():
                if at == gone:
                    group[load_id] = stays

    list(named_conditions(plan))  # one look for all loads
    for load in working:
        for other in _stands_on(plan, load):
            join(load.id, other)
        if plan.memory.quiet_s or plan.memory.least_s:
            join(working[0].id, load.id)
    made: dict[int, LoadPart] = {}
    for at in dict.fromkeys(group.values()):
        loads = tuple(load for load in working if group[load.id] == at)
        made[at] = LoadPart.of(plan, loads)
    return {load.id: made[group[load.id]] for load in working}


def _with_places(plan: Plan) -> Plan:
    """Every load with its place in the stagger written down, so that a part keeps it."""
    if not plan.boot.stagger_s:
        return plan
    place = 0
    loads = []
    for load in plan.loads:
        given = place if load.stagger_place is None else load.stagger_place
        place += load.stage == "working"
        loads.append(load.model_copy(update={"stagger_place": given}))
    return plan.model_copy(update={"loads": tuple(loads)})


def run_of_all(plan: Plan, parts: Mapping[str, Rehearsal]) -> Run | None:
    """The runs of a plan's loads as one run of the plan; None where nothing is set to work."""
    compiled = compile_plan(plan)
    runs = list({id(part.run): part.run for part in parts.values()}.values())
    if not runs:
        return None
    tables, values, lines = [], [], []
    told: set[str] = set()
    said: set[str] = set()
    for index, run in enumerate(runs):
        rows = run.rows.copy()
        kind = rows[:, lay.E_TYPE]
        heard = [probe for probe in run.compiled.probe_ids if probe not in told]
        told.update(heard)
        of_probe = kind == lay.EVENT_PROBE
        of_load = np.isin(kind, (lay.EVENT_LOAD, lay.EVENT_TRIP, lay.EVENT_MISSED))
        stays = of_load | ((kind == lay.EVENT_POWER) & (index == 0))
        new = np.array([probe in heard for probe in run.compiled.probe_ids], dtype=bool)
        stays[of_probe] = new[rows[of_probe, lay.E_WHO]]
        _renamed(rows, of_probe, run.compiled.probe_ids, compiled.probe_ids)
        for key, row in run.compiled.conditions.items():
            mine = (kind == lay.EVENT_CONDITION) & (run.rows[:, lay.E_WHO] == row)
            stays |= mine & (key not in said)
            rows[mine, lay.E_WHO] = compiled.conditions[key]
        said.update(run.compiled.conditions)
        for claim, row in _claims(run, compiled).items():
            for column in (lay.E_CLAIM, lay.E_DECIDER, lay.E_CITED):
                mine = of_load & (run.rows[:, column] == claim)
                rows[mine, column] = row
        _renamed(rows, of_load, run.compiled.load_ids, compiled.load_ids)
        tables.append(rows[stays])
        values.append(run.values[stays])
        moved = run.lines.copy()
        at = {(name.load, name.role): row for row, name in enumerate(compiled.line_names)}
        for row, name in enumerate(run.compiled.line_names):
            moved[run.lines[:, 1] == row, 1] = at[(name.load, name.role)]
        lines.append(moved)
    rows, value = np.concatenate(tables), np.concatenate(values)
    phase = np.zeros(len(rows), dtype=np.int64)
    for kind_code, place in ORDER.items():
        phase[rows[:, lay.E_TYPE] == kind_code] = place
    order = np.lexsort((rows[:, lay.E_WHO], phase, rows[:, lay.E_T_MS]))
    all_lines = np.concatenate(lines)
    return Run(
        compiled=compiled,
        start_ms=runs[0].start_ms,
        end_ms=runs[0].end_ms,
        rows=rows[order],
        values=value[order],
        lines=all_lines[np.argsort(all_lines[:, 0], kind="stable")],
        writes=np.zeros((0, 3), dtype=np.int64),  # no part knows what the whole board writes
        cells=np.zeros((0, 0), dtype=np.int64),
        authors=runs[0].authors,
        trace=np.zeros(0),
        qualities=np.zeros(0, dtype=np.int64),
    )


def _renamed(
    rows: "np.ndarray", mine: "np.ndarray", names: tuple[str, ...], whole: tuple[str, ...]
) -> None:
    """The rows of a part's probes or loads as those of the whole plan."""
    if len(names):
        row_of = np.array([whole.index(name) for name in names])
        rows[mine, lay.E_WHO] = row_of[rows[mine, lay.E_WHO]]


def _claims(run: Run, compiled: CompiledPlan) -> dict[int, int]:
    """The row in the whole plan of each row of claims in a part."""
    part = run.compiled
    found: dict[int, int] = {}
    for index, load in enumerate(part.load_ids):
        first = compiled.tables.loads[compiled.load_index(load)].first
        own = part.tables.loads[index]
        found.update({row: first + row - own.first for row in range(own.first, own.last + 1)})
    return found
