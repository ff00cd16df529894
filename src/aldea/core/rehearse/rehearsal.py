"""A plan rehearsed on recorded readings: replay, stretches and figures together."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from aldea.core.base.memo import per_plan
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.engine.replay import Run, run_replay
from aldea.core.engine.scans import Scans
from aldea.core.plan.document import Plan, Rule
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.beyond import Beyond
from aldea.core.rehearse.consequence import Consequence, consequence, on_spans
from aldea.core.rehearse.faults import Faults, as_brought, as_sampled
from aldea.core.rehearse.recorded import Recorded, recorded_of
from aldea.core.rehearse.stretches import Stretch, stretches_of
from aldea.core.rehearse.wall import run_with_throws


@dataclass(frozen=True, slots=True, kw_only=True)
class Rehearsal:
    """A run with the stretches of every load in it."""

    plan: Plan
    run: Run
    stretches: dict[str, list[Stretch]] = field(repr=False)

    @property
    def compiled(self) -> CompiledPlan:
        """The compiled plan that ran."""
        return self.run.compiled


@per_plan
def as_recorded(plan: Plan) -> Plan:
    """A plan without what hands work: a log of readings does not know who pressed what.

    Else a selector that nobody recorded would be taken as standing in its first position.
    """
    return plan.model_copy(update={"controls": (), "groups": ()})


def replay_faulty(
    compiled: CompiledPlan,
    traces: Mapping[str, Trace],
    faults: Faults,
    *,
    start_ms: int,
    end_ms: int,
    boots: bool = False,
    scans: Scans | None = None,
) -> Run:
    """A compiled plan over recorded readings with faults put in."""
    samples, inputs = as_sampled(compiled, traces, faults), as_brought(compiled, traces, faults)
    if faults.throws:
        return run_with_throws(
            compiled, samples, inputs, faults.throws, start_ms=start_ms, end_ms=end_ms,
            boots=boots, scans=scans,
        )  # fmt: skip
    return run_replay(
        compiled, samples, start_ms=start_ms, end_ms=end_ms, inputs=inputs, boots=boots, scans=scans
    )


def rehearse(
    plan: Plan,
    traces: Mapping[str, Trace],
    *,
    start_ms: int,
    end_ms: int,
    faults: Faults = Faults(),  # noqa: B008  frozen
    compiled: CompiledPlan | None = None,
) -> Rehearsal:
    """Replay a plan on recorded readings of its probes, open loop, with faults put in.

    `compiled` is the plan as it was compiled before, where that was done.
    """
    if compiled is None:
        compiled = compile_plan(as_recorded(plan))
    run = replay_faulty(compiled, traces, faults, start_ms=start_ms, end_ms=end_ms)
    stretches = {load: stretches_of(run, index) for index, load in enumerate(compiled.load_ids)}
    return Rehearsal(plan=plan, run=run, stretches=stretches)


def beyond_limit(plan: Plan, rule: Rule, trace: Trace) -> Beyond:
    """Time beyond the limit of a rule's band; without a limit nothing is beyond."""
    band = rule.band
    probe = plan.probe(band.probe)
    if probe is None or band.limit is None:
        return Beyond(
            t_ms=np.zeros(0, dtype=np.int64), total_ms=np.zeros(0), beyond_last=False, hold_ms=0
        )
    return Beyond.of(
        trace.t_ms,
        probe.calibration.over(trace.raw),
        limit=band.limit.value,
        rising=band.direction == "rising",
        hold_ms=round(probe.stale_after_s * 1000),
    )


def load_consequence(
    rehearsal: Rehearsal, rule: Rule, beyond: Beyond, recorded: Recorded
) -> Consequence:
    """Figures of the load that a rule is on, over what was recorded."""
    load = rehearsal.plan.load(rule.load)
    index = rehearsal.compiled.load_index(rule.load)
    return consequence(
        rehearsal.run,
        index,
        recorded=recorded,
        beyond=beyond,
        rated_cycles=load.relay.rated_cycles if load else 1,
        power_w=load.power_w if load else 0.0,
    )


def starts_per_day(rehearsal: Rehearsal, probe: str) -> dict[str, float]:
    """How often each load was switched on in a recorded day of a probe, by its id."""
    run = rehearsal.run
    recorded = recorded_of(run, (probe,), from_ms=run.start_ms, to_ms=run.end_ms)
    if not recorded.days:
        return {}
    return {
        load: len(recorded.holds(on_spans(run, index)[:, 0])) / recorded.days
        for index, load in enumerate(rehearsal.compiled.load_ids)
    }


def quality_spans(rehearsal: Rehearsal, probe: str) -> list[tuple[int, int, str]]:
    """Spans in which a probe was not good, with the name of its quality."""
    run = rehearsal.run
    if probe not in rehearsal.compiled.probe_ids:
        return []
    row = rehearsal.compiled.probe_ids.index(probe)
    spans: list[tuple[int, int, str]] = []
    since_ms, quality = run.start_ms, lay.WARMING
    mine = (run.rows[:, lay.E_TYPE] == lay.EVENT_PROBE) & (run.rows[:, lay.E_WHO] == row)
    for t_ms, next_quality in run.rows[mine][:, (lay.E_T_MS, lay.E_TO)].tolist():
        if quality not in (lay.GOOD, lay.WARMING):
            spans.append((since_ms, t_ms, lay.QUALITY_NAMES[quality]))
        since_ms, quality = t_ms, next_quality
    if quality not in (lay.GOOD, lay.WARMING):
        spans.append((since_ms, run.end_ms, lay.QUALITY_NAMES[quality]))
    return spans
