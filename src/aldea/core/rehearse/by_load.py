"""A rehearsal load by load: what one of them does hangs on its own rules and probes alone.

So a mark that is moved makes one load's replay anew and no other's. The parts put together are what
the whole plan does in one run; a law in the tests holds both together.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from aldea.core.base.memo import per_plan
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import Run
from aldea.core.plan.document import Load, Plan
from aldea.core.rehearse.rehearsal import Faults, Rehearsal

FIRST_POWER, THEN_PROBES, THEN_LOADS = range(3)  # of one instant, as a scan goes through them
ORDER = {lay.EVENT_POWER: FIRST_POWER, lay.EVENT_PROBE: THEN_PROBES, lay.EVENT_LOAD: THEN_LOADS}


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class LoadPart:
    """One working load of a plan with its rules and what they read: a plan of its own.

    Two parts are equal where nothing that the load's replay hangs on differs.
    """

    plan: Plan
    probes: tuple[str, ...]
    hashed: int

    @classmethod
    def of(cls, plan: Plan, load: Load) -> "LoadPart":
        """The part of one load."""
        claims = plan.claims_of(load.id)
        read = {claim.band.probe for claim in claims}
        probes = tuple(probe for probe in plan.probes if probe.id in read)
        alone = plan.model_copy(update={"loads": (load,), "claims": claims, "probes": probes})
        return cls(plan=alone, probes=tuple(p.id for p in probes), hashed=hash(_hangs_on(alone)))

    def __hash__(self) -> int:
        return self.hashed

    def __eq__(self, other: object) -> bool:
        return isinstance(other, LoadPart) and _hangs_on(self.plan) == _hangs_on(other.plan)


def _hangs_on(plan: Plan) -> tuple[object, ...]:
    return (plan.loads, plan.claims, plan.probes, plan.scan_period_ms)


@per_plan
def load_parts(plan: Plan) -> dict[str, LoadPart]:
    """The part of every working load, in the order of the plan."""
    return {load.id: LoadPart.of(plan, load) for load in plan.loads if load.stage == "working"}


def faults_of_load(faults: Faults, probes: tuple[str, ...]) -> Faults:
    """The faults that a load sees: silences of its probes, and every power cut."""
    silences = tuple(silence for silence in faults.silences if silence[0] in probes)
    return Faults(silences=silences, cuts=faults.cuts)


def run_of_all(plan: Plan, parts: Mapping[str, Rehearsal]) -> Run | None:
    """The runs of a plan's loads as one run of the plan; None where nothing is set to work."""
    compiled = compile_plan(plan)
    tables, values = [], []
    told: set[str] = set()
    power_told = False
    for index, load_id in enumerate(compiled.load_ids):
        run = parts[load_id].run
        rows = run.rows.copy()
        kind = rows[:, lay.E_TYPE]
        heard = [probe for probe in run.compiled.probe_ids if probe not in told]
        told.update(heard)
        new = np.array([probe in heard for probe in run.compiled.probe_ids], dtype=bool)
        row_of = np.array([compiled.probe_ids.index(p) for p in run.compiled.probe_ids])
        of_probe, of_load = kind == lay.EVENT_PROBE, kind == lay.EVENT_LOAD
        stays = of_load | ((kind == lay.EVENT_POWER) & (not power_told))
        power_told = True
        stays[of_probe] = new[rows[of_probe, lay.E_WHO]]
        rows[of_probe, lay.E_WHO] = row_of[rows[of_probe, lay.E_WHO]]
        rows[of_load, lay.E_WHO] = index
        first = compiled.arrays.loads[index, lay.L_FIRST]
        for column in (lay.E_CLAIM, lay.E_CITED):
            named = of_load & (rows[:, column] >= 0)
            rows[named, column] += first
        tables.append(rows[stays])
        values.append(run.values[stays])
    if not tables:
        return None
    rows, value = np.concatenate(tables), np.concatenate(values)
    phase = np.zeros(len(rows), dtype=np.int64)
    for kind_code, at in ORDER.items():
        phase[rows[:, lay.E_TYPE] == kind_code] = at
    order = np.lexsort((rows[:, lay.E_WHO], phase, rows[:, lay.E_T_MS]))
    any_run = next(iter(parts.values())).run
    return Run(
        compiled=compiled,
        start_ms=any_run.start_ms,
        end_ms=any_run.end_ms,
        rows=rows[order],
        values=value[order],
    )
