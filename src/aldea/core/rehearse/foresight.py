"""How a load and its rules stand at an instant, and what changes them next.

The engine itself runs on from the instant, twice: with every reading held as it is, and with
readings going on as they went at that time of day. A change that both make is certain only where
what decides then stands on the calendar or a hand, and nothing stronger could speak; else it is
said what it hangs on.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.instants import MS_PER_DAY, MS_PER_MINUTE
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan, RuleRow
from aldea.core.engine.inputs import Inputs
from aldea.core.engine.session import Session
from aldea.core.engine.tables.rows import column
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.reading import by_the_clock, working_rules
from aldea.core.readings.samples import Samples
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.ahead import Ahead, HangsOn
from aldea.core.rehearse.as_before import as_before, changes_of, quiet_for, waits_before
from aldea.core.rehearse.faults import Faults, as_brought, as_sampled

MOST_LOOKED_BACK_SCANS = 21_600  # six hours at a scan a second; older readings are mostly stale
HORIZON_MS = MS_PER_DAY
USUAL_DAYS = 7
LEAST_USUAL_DAYS = 2
BIN_MS = 10 * MS_PER_MINUTE
FORGETS_MS = 3 * 60 * MS_PER_MINUTE  # how fast what is usual takes over from what is now
SLOWEST_MS = MS_PER_MINUTE


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleStand:
    """How one rule stands: active, tripped; whether its condition holds, and since when."""

    row: RuleRow
    active: bool
    tripped: bool
    holds: bool
    node: int  # row of its condition, −1 where it looks at a quality alone


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Standing:
    """A part of a plan at an instant: its rules in the order of their say, and its readings.

    `values` and `good` are by the row of a signal in the compiled plan, `conditions` (1 where one
    holds) by the row of a condition. `hands` says whether a hand speaks.
    """

    at_ms: int
    compiled: CompiledPlan
    rules: Mapping[str, tuple[RuleStand, ...]]
    states: Mapping[str, int]
    hands: Mapping[str, bool]
    quality: Mapping[str, int]
    good_ms: Mapping[str, int]
    values: FloatArray
    good: IntArray
    conditions: IntArray
    ahead: Mapping[str, Ahead | None]
    quiet_ms: Mapping[str, int]

    def holds(self, node: int) -> bool:
        """Whether the condition of a row holds."""
        return bool(self.conditions[node])


def standing(
    compiled: CompiledPlan,
    traces: Mapping[str, Trace],
    *,
    start_ms: int,
    at_ms: int,
    faults: Faults = Faults(),  # noqa: B008  frozen
    horizon_ms: int = HORIZON_MS,
) -> Standing:
    """How the working loads of a plan stand at `at_ms` after a replay from `start_ms`."""
    plan = compiled.plan
    period_ms = compiled.period_ms
    at_ms = start_ms + max(0, at_ms - start_ms) // period_ms * period_ms
    samples = as_sampled(compiled, traces, faults)
    upto = int(np.searchsorted(samples.t_ms, at_ms, side="right"))
    past = Samples(t_ms=samples.t_ms[:upto], probe=samples.probe[:upto], value=samples.value[:upto])
    held = _held(compiled, past, at_ms, horizon_ms)
    usual = _usual(compiled, traces, held, at_ms)
    brought = as_brought(compiled, traces, faults)
    known = Inputs(
        levels=[row for row in brought.levels if row[0] <= at_ms],
        clock=[row for row in brought.clock if row[0] <= at_ms],
        cuts=[cut for cut in brought.cuts if cut.from_ms <= at_ms],
    )
    session = Session(
        compiled,
        start_ms=start_ms,
        end_ms=at_ms + horizon_ms,
        samples=len(held.t_ms),
        levels=0,
        known=past,
        inputs=known,
    )
    session.advance(_last_heard_ms(past, start_ms, at_ms, period_ms))
    session.advance(at_ms + period_ms, skipping=False)
    moment = session.moment()
    now = _read(session, at_ms)
    runs = []
    for values in (held.value, usual):
        session.back_to(moment)
        session.samples(held.t_ms, held.probe, values)
        session.advance(at_ms + horizon_ms)
        runs.append(session.run())
    ahead: dict[str, Ahead | None] = {}
    quiet: dict[str, int] = {}
    for load in compiled.load_ids:
        still, likely = (_next(compiled, run.rows, load, at_ms) for run in runs)
        next_changes = _either(plan, load, still, likely)
        before = changes_of(compiled, runs[0].rows, load, at_ms)
        waits = waits_before(before, start_ms=start_ms, at_ms=at_ms)
        ahead[load] = as_before(next_changes, waits, at_ms, horizon_ms)
        quiet[load] = quiet_for(waits, horizon_ms)
    return replace(now, ahead=ahead, quiet_ms=quiet)


def _last_heard_ms(past: Samples, start_ms: int, at_ms: int, period_ms: int) -> int:
    """From which scan on every one must be made, so that the last reading of each probe is taken.

    Skipping passes over readings that change nothing; what is shown is of the instant itself.
    """
    oldest_ms = at_ms - MOST_LOOKED_BACK_SCANS * period_ms
    first = int(np.searchsorted(past.t_ms, oldest_ms))
    probe, t_ms = past.probe[first:], past.t_ms[first:]
    last = [int(t_ms[np.flatnonzero(probe == one)[-1]]) for one in np.unique(probe)]
    since_ms = min(last, default=at_ms) - start_ms
    return start_ms + max(0, since_ms) // period_ms * period_ms


def _read(session: Session, at_ms: int) -> Standing:
    """What stands in the tables, copied, for the session goes on."""
    compiled, state = session.compiled, session.state
    rules: dict[str, tuple[RuleStand, ...]] = {}
    hands: dict[str, bool] = {}
    for row, load in enumerate(compiled.load_ids):
        spec = compiled.tables.loads[row]
        rules[load] = tuple(_rule(session, k) for k in range(spec.first, spec.last + 1))
        hands[load] = state.loads[row].override != lay.NONE
    return Standing(
        at_ms=at_ms,
        compiled=compiled,
        rules=rules,
        states=session.states(),
        hands=hands,
        quality={
            probe: now.quality for probe, now in zip(compiled.probe_ids, state.probes, strict=True)
        },
        good_ms={
            probe: now.good_ms for probe, now in zip(compiled.probe_ids, state.probes, strict=True)
        },
        values=column(state.signals, "value").copy(),
        good=column(state.signals, "good").copy(),
        conditions=column(state.conditions, "now").copy(),
        ahead={},
        quiet_ms={},
    )


def _rule(session: Session, k: int) -> RuleStand:
    now, node = session.state.rules[k], session.compiled.tables.rules[k].node
    is_active = now.active == 1
    return RuleStand(
        row=session.compiled.rule_rows[k],
        active=is_active,
        tripped=now.tripped == 1,
        holds=session.state.conditions[node].now == 1 if node >= 0 else is_active,
        node=node,
    )


def _every_ms(probe: Probe | None) -> int:
    """How far apart the readings of a probe are laid ahead: never so far that it falls silent."""
    if probe is None:
        return SLOWEST_MS
    wanted_ms = max(round(probe.reading_interval_s * 1000), SLOWEST_MS)
    return max(1000, min(wanted_ms, round(probe.stale_after_s * 500)))


def _held(compiled: CompiledPlan, past: Samples, at_ms: int, horizon_ms: int) -> Samples:
    """The last reading of each probe that is not silent, again and again.

    One that would be held stuck moves by no more than that takes.
    """
    times, rows, values = [], [], []
    for row, probe_id in enumerate(compiled.probe_ids):
        mine = np.flatnonzero(past.probe == row)
        probe = compiled.plan.probe(probe_id)
        if not len(mine) or probe is None:
            continue
        last_ms, last = int(past.t_ms[mine[-1]]), float(past.value[mine[-1]])
        if at_ms - last_ms >= probe.stale_after_s * 1000:
            continue
        t_ms = np.arange(at_ms + _every_ms(probe), at_ms + horizon_ms, _every_ms(probe))
        value = np.full(len(t_ms), last)
        if probe.stuck is not None:
            value[1::2] += 0.51 * probe.stuck.band + 1e-9
        times.append(t_ms)
        rows.append(np.full(len(t_ms), row))
        values.append(value)
    if not times:
        return Samples(
            t_ms=np.zeros(0, dtype=np.int64), probe=np.zeros(0, dtype=np.int64), value=np.zeros(0)
        )
    t_ms, probe_rows = np.concatenate(times), np.concatenate(rows)
    order = np.argsort(t_ms, kind="stable")
    return Samples(t_ms=t_ms[order], probe=probe_rows[order], value=np.concatenate(values)[order])


def _usual(
    compiled: CompiledPlan, traces: Mapping[str, Trace], held: Samples, at_ms: int
) -> FloatArray:
    """The held readings, drawn over some hours to what was read at that time of the day.

    The mean of the last days by ten minutes of the day; a probe without two days stays held.
    """
    value = held.value.copy()
    for row, probe_id in enumerate(compiled.probe_ids):
        trace = traces.get(probe_id)
        mine = held.probe == row
        if trace is None or not mine.any():
            continue
        first = int(np.searchsorted(trace.t_ms, at_ms - USUAL_DAYS * MS_PER_DAY))
        end = int(np.searchsorted(trace.t_ms, at_ms, side="right"))
        t_ms, raw = trace.t_ms[first:end], trace.raw[first:end]
        if not len(t_ms) or at_ms - int(t_ms[0]) < LEAST_USUAL_DAYS * MS_PER_DAY:
            continue
        sound = np.isfinite(raw)
        bins = (t_ms[sound] % MS_PER_DAY) // BIN_MS
        count = np.bincount(bins, minlength=MS_PER_DAY // BIN_MS)
        total = np.bincount(bins, weights=raw[sound], minlength=MS_PER_DAY // BIN_MS)
        if not count.all():
            continue
        usual = total / count
        ahead_ms = held.t_ms[mine]
        now = usual[(at_ms % MS_PER_DAY) // BIN_MS]
        fades = np.exp(-(ahead_ms - at_ms) / FORGETS_MS)
        value[mine] = usual[(ahead_ms % MS_PER_DAY) // BIN_MS] + (value[mine] - now) * fades
    return value


def _next(compiled: CompiledPlan, rows: IntArray, load: str, at_ms: int) -> Ahead | None:
    mine = (
        (rows[:, lay.E_TYPE] == lay.EVENT_LOAD)
        & (rows[:, lay.E_WHO] == compiled.load_index(load))
        & (rows[:, lay.E_T_MS] > at_ms)
        & (rows[:, lay.E_FROM] != rows[:, lay.E_TO])
    )
    if not mine.any():
        return None
    row = rows[np.argmax(mine)].tolist()
    decider = row[lay.E_DECIDER]
    return Ahead(
        t_ms=row[lay.E_T_MS],
        state=row[lay.E_TO],
        decided_by=compiled.rule_rows[decider] if decider >= 0 else None,
        hangs_on=HangsOn.USUAL,
    )


def _either(plan: Plan, load: str, still: Ahead | None, likely: Ahead | None) -> Ahead | None:
    if likely is None:
        return still and replace(still, hangs_on=HangsOn.HELD)
    if still is not None and (still.t_ms, still.state) == (likely.t_ms, likely.state):
        return replace(still, hangs_on=_agreed(plan, load, still.decided_by))
    return likely


def _agreed(plan: Plan, load: str, decider: RuleRow | None) -> HangsOn:
    """What a change hangs on that both runs make."""
    rules = working_rules(plan, load)
    priority = decider.priority if decider else lay.PRIORITY_DEFAULT
    deciding = next((c for c in rules if decider and c.id == decider.rule), None)
    if deciding is not None and not by_the_clock(plan, deciding):
        return HangsOn.STEADY
    if priority == lay.PRIORITY_FAULT and deciding is None:
        return HangsOn.STEADY
    stronger = [
        c for c in rules if lay.PRIORITY_CODES[c.priority] <= priority and c is not deciding
    ]
    if deciding is not None:  # of its own level, only what stands over it
        stronger = [
            c
            for c in stronger
            if lay.PRIORITY_CODES[c.priority] < priority or rules.index(c) < rules.index(deciding)
        ]
    if all(by_the_clock(plan, rule) for rule in stronger):
        return HangsOn.NOTHING
    return HangsOn.STEADY if priority == lay.PRIORITY_DEFAULT else HangsOn.STRONGER
