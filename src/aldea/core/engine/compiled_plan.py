"""From the plan document to flat typed arrays: index instead of name."""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import IntArray
from aldea.core.base.errors import PlanError
from aldea.core.engine import layout as lay
from aldea.core.engine.scan.arrays import PlanArrays
from aldea.core.plan.document import Claim, Load, Plan, Probe

MS_PER_S = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class ClaimRow:
    """What a row of the claims table means."""

    load: str
    rank: int
    claim: str | None  # the plan's claim, for a demand
    probe: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CompiledPlan:
    """A compiled plan: its arrays, and what their rows mean."""

    period_ms: int
    probe_ids: tuple[str, ...]
    load_ids: tuple[str, ...]
    claim_rows: tuple[ClaimRow, ...]
    arrays: PlanArrays

    def load_index(self, load_id: str) -> int:
        """Row of a load; `PlanError` where nothing switches it yet."""
        try:
            return self.load_ids.index(load_id)
        except ValueError as exc:
            raise PlanError(
                f"load {load_id}",
                got="no working load of that id",
                allowed=", ".join(self.load_ids) or "none: nothing is set to work yet",
            ) from exc


def compile_plan(plan: Plan) -> CompiledPlan:
    """Compile the working loads of a plan, their claims and the probes that these read.

    Planned loads and probes are left out: they switch nothing yet.
    """
    loads = [load for load in plan.loads if load.stage == "working"]
    claims = {load.id: plan.claims_of(load.id) for load in loads}
    read = {claim.condition.probe for rows in claims.values() for claim in rows}
    probes = [probe for probe in plan.probes if probe.id in read]
    for probe in probes:
        if probe.stage != "working":
            raise PlanError(
                f"probe {probe.id}",
                got="stage planned",
                allowed="working, for a working load reads it",
            )
    probe_row = {probe.id: row for row, probe in enumerate(probes)}
    conditions = [claim for rows in claims.values() for claim in rows]
    condition_row = {claim.id: row for row, claim in enumerate(conditions)}
    ki, names, spans = _claim_table(loads, claims, probe_row, condition_row)
    return CompiledPlan(
        period_ms=plan.scan_period_ms,
        probe_ids=tuple(probe_row),
        load_ids=tuple(load.id for load in loads),
        claim_rows=names,
        arrays=PlanArrays(
            probe_floats=_table(
                [_probe_floats(probe) for probe in probes], lay.P_FLOATS, np.float64
            ),
            probe_ints=_table([_probe_ints(probe) for probe in probes], lay.P_INTS, np.int64),
            marks=_table([[c.condition.on, c.condition.off] for c in conditions], 2, np.float64),
            condition_ints=_table(
                [_condition_ints(c, probe_row) for c in conditions], lay.C_INTS, np.int64
            ),
            claims=ki,
            loads=_table(
                [_load_ints(load, *spans[load.id]) for load in loads], lay.L_INTS, np.int64
            ),
        ),
    )


def _table(rows: list[list[float]], width: int, kind: type) -> np.ndarray:
    return np.array(rows, dtype=kind).reshape(len(rows), width)


def _ms(seconds: float) -> int:
    return round(seconds * MS_PER_S)


def _probe_floats(probe: Probe) -> list[float]:
    row = [0.0] * lay.P_FLOATS
    row[lay.P_SLOPE] = probe.calibration.slope
    row[lay.P_INTERCEPT] = probe.calibration.intercept
    row[lay.P_LOW] = probe.range.low
    row[lay.P_HIGH] = probe.range.high
    row[lay.P_TAU_S] = probe.smoothing.tau_s if probe.smoothing else 0.0
    row[lay.P_STUCK_BAND] = probe.stuck.band if probe.stuck else 0.0
    return row


def _probe_ints(probe: Probe) -> list[float]:
    row: list[float] = [0] * lay.P_INTS
    row[lay.P_STALE_MS] = _ms(probe.stale_after_s)
    row[lay.P_STUCK_MS] = _ms(probe.stuck.after_s) if probe.stuck else 0
    row[lay.P_GOOD_RUN] = probe.good_run
    return row


def _condition_ints(claim: Claim, probe_row: dict[str, int]) -> list[float]:
    band = claim.condition
    row: list[float] = [0] * lay.C_INTS
    row[lay.C_PROBE] = probe_row[band.probe]
    row[lay.C_RISING] = int(band.direction == "rising")
    row[lay.C_DELAY_ON_MS] = _ms(band.delay_on_s)
    row[lay.C_DELAY_OFF_MS] = _ms(band.delay_off_s)
    return row


def _load_ints(load: Load, first: int, end: int) -> list[float]:
    row: list[float] = [0] * lay.L_INTS
    row[lay.L_FIRST], row[lay.L_END] = first, end
    row[lay.L_MIN_ON_MS] = _ms(load.min_on_s)
    row[lay.L_MIN_OFF_MS] = _ms(load.min_off_s)
    row[lay.L_POLICY] = lay.POLICY_CODES[load.power_return.policy]
    row[lay.L_RETURN_DELAY_MS] = _ms(load.power_return.delay_s)
    return row


def _claim_table(
    loads: list[Load],
    claims: dict[str, tuple[Claim, ...]],
    probe_row: dict[str, int],
    condition_row: dict[str, int],
) -> tuple[IntArray, tuple[ClaimRow, ...], dict[str, tuple[int, int]]]:
    rows: list[list[float]] = []
    names: list[ClaimRow] = []
    spans: dict[str, tuple[int, int]] = {}

    def add(load: int, name: ClaimRow, want: int, condition: int, after_ms: int) -> None:
        row: list[float] = [0] * lay.K_INTS
        row[lay.K_LOAD], row[lay.K_RANK], row[lay.K_WANT] = load, name.rank, want
        row[lay.K_CONDITION] = condition
        row[lay.K_PROBE] = probe_row[name.probe] if name.probe else -1
        row[lay.K_AFTER_MS] = after_ms
        rows.append(row)
        names.append(name)

    for index, load in enumerate(loads):
        first = len(rows)
        silent = load.silent
        for probe in dict.fromkeys(claim.condition.probe for claim in claims[load.id]):
            name = ClaimRow(load=load.id, rank=lay.RANK_FAULT, claim=None, probe=probe)
            add(index, name, int(silent.state == "on"), -1, _ms(silent.after_s))
        for claim in claims[load.id]:
            name = ClaimRow(
                load=load.id, rank=lay.RANK_DEMAND, claim=claim.id, probe=claim.condition.probe
            )
            add(index, name, 1, condition_row[claim.id], 0)
        add(index, ClaimRow(load=load.id, rank=lay.RANK_REST, claim=None, probe=None), 0, -1, 0)
        spans[load.id] = (first, len(rows))
    return _table(rows, lay.K_INTS, np.int64), tuple(names), spans
