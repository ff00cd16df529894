"""The runs of the parts of a plan, put together: what the whole plan does in one run.

A law in the tests holds the parts against the whole, event for event.
"""

from collections.abc import Mapping

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.engine.replay import Run
from aldea.core.plan.document import Plan
from aldea.core.rehearse.rehearsal import Rehearsal

# Of one instant, as a scan goes through them; a load that missed is told with its own changes.
ORDER = {
    lay.EVENT_POWER: 0,
    lay.EVENT_PROBE: 1,
    lay.EVENT_CONDITION: 2,
    lay.EVENT_MODE: 2,
    lay.EVENT_TRIP: 3,
    lay.EVENT_MISSED: 4,
    lay.EVENT_LOAD: 4,
}


def run_of_all(plan: Plan, parts: Mapping[str, Rehearsal]) -> Run | None:
    """The runs of a plan's loads as one run of the plan; None where nothing is set to work."""
    compiled = compile_plan(plan)
    runs = list({id(part.run): part.run for part in parts.values()}.values())
    if not runs:
        return None
    tables, values, lines = [], [], []
    known_probes: set[str] = set()
    known_conditions: set[str] = set()
    changed: set[str] = set()
    authors = {name: row for row, name in enumerate(compiled.authors)}
    for index, run in enumerate(runs):
        rows = run.rows.copy()
        kind = rows[:, lay.E_TYPE]
        new_probes = [probe for probe in run.compiled.probe_ids if probe not in known_probes]
        known_probes.update(new_probes)
        of_probe = kind == lay.EVENT_PROBE
        of_load = np.isin(kind, (lay.EVENT_LOAD, lay.EVENT_TRIP, lay.EVENT_MISSED))
        stays = of_load | ((kind == lay.EVENT_POWER) & (index == 0))
        new = np.array([probe in new_probes for probe in run.compiled.probe_ids], dtype=bool)
        stays[of_probe] = new[rows[of_probe, lay.E_WHO]]
        _renamed(rows, of_probe, run.compiled.probe_ids, compiled.probe_ids)
        for key, row in run.compiled.conditions.items():
            mine = (kind == lay.EVENT_CONDITION) & (run.rows[:, lay.E_WHO] == row)
            stays |= mine & (key not in known_conditions)
            rows[mine, lay.E_WHO] = compiled.conditions[key]
        known_conditions.update(run.compiled.conditions)
        for mode in run.compiled.plan.modes:
            if mode.changes and mode.id not in changed:
                row = compiled.mode_ids.index(mode.id)
                stays |= (kind == lay.EVENT_MODE) & (run.rows[:, lay.E_WHO] == row)
                changed.add(mode.id)
        for column in (lay.E_AUTHOR, lay.E_DECIDED_BY):
            for row, author in enumerate(run.authors):
                mine = run.rows[:, column] == row
                rows[mine, column] = authors.setdefault(author, len(authors))
        for rule, row in _rules(run, compiled).items():
            for column in (lay.E_RULE, lay.E_DECIDER, lay.E_CITED):
                mine = of_load & (run.rows[:, column] == rule)
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
        authors=tuple(authors),
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


def _rules(run: Run, compiled: CompiledPlan) -> dict[int, int]:
    """The row in the whole plan of each row of rules in a part."""
    part = run.compiled
    rules: dict[int, int] = {}
    for index, load in enumerate(part.load_ids):
        first = compiled.tables.loads[compiled.load_index(load)].first
        own = part.tables.loads[index]
        rules.update({row: first + row - own.first for row in range(own.first, own.last + 1)})
    return rules
