"""What a rule would have done: the load's use with it and without it, on the same record."""

from dataclasses import dataclass
from typing import Any

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.base.quantities import QUANTITIES, unit_of
from aldea.core.plan.conditions import Band, Beyond, Dark
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.reading import probes_of_rule
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.recorded import Recorded, recorded_of
from aldea.core.rehearse.rehearsal import Rehearsal
from aldea.core.rehearse.use import Use, use_of
from aldea.core.words.recorded import energy_rests_on, recorded_words
from aldea.core.words.rules import rule_sentence
from aldea.web.shell.plot import Scale, round_range, trace_path

PLOT_W, PLOT_H = 280, 120


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """A figure as it was and as it would be, with the bars beside it (px of `BAR`)."""

    label: str
    was: str
    now: str
    was_px: float
    now_px: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """A threshold on the little plot: its y, its figure."""

    y: float
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LastDay:
    """The last day of the reading that the rule looks at, with its thresholds."""

    name: str
    unit: str
    path: str
    thresholds: tuple[Threshold, ...]
    low: str
    high: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleAnswer:
    """What is answered while somebody types."""

    sentence: str
    costs: tuple[Cost, ...]
    days: str
    last_day: LastDay | None
    same: bool
    rests_on: str


def _cost(label: str, was: float, now: float, words: tuple[str, str]) -> Cost:
    most = max(was, now, 1e-9)
    return Cost(
        label=label,
        was=words[0],
        now=words[1],
        was_px=round(296 * was / most, 1),
        now_px=round(296 * now / most, 1),
    )


def rule_answer(
    plan: Plan,
    load: Load,
    rule: Rule,
    *,
    before: Rehearsal | None,
    after: Rehearsal | None,
    trace: Trace | None,
    end_ms: int,
) -> RuleAnswer:
    """The sentence of a rule, and what the load did with and without it."""
    costs: tuple[Cost, ...] = ()
    days = ""
    same = True
    if after is not None:
        run = after.run
        read = tuple(probes_of_rule(plan, rule))
        recorded = recorded_of(run, read, from_ms=run.start_ms, to_ms=end_ms)
        days = recorded_words(recorded, plan.house.time_zone)
        now = _use(after, load, recorded)
        was = (
            _use(before, load, recorded)
            if before is not None
            else Use(starts=0, on_s=0.0, energy_wh=0.0)
        )
        same = before is not None and now == was
        per = max(recorded.days, 1.0)
        costs = (
            _cost(
                "Starts a day",
                was.starts / per,
                now.starts / per,
                (figure(was.starts / per), figure(now.starts / per)),
            ),
            _cost(
                "Hours on a day",
                was.on_s / per,
                now.on_s / per,
                (figure(was.on_s / per / 3600, 2), figure(now.on_s / per / 3600, 2)),
            ),
        )
        if load.power_w:
            was_wh, now_wh = was.energy_wh / per, now.energy_wh / per
            words = (figure(was_wh, 0), figure(now_wh, 0))
            costs = (*costs, _cost("Energy a day, Wh", was_wh, now_wh, words))
    return RuleAnswer(
        sentence=rule_sentence(plan, rule),
        costs=costs,
        days=days,
        last_day=_last_day(plan, rule, trace, end_ms),
        same=same,
        rests_on=energy_rests_on(load),
    )


def _use(rehearsal: Rehearsal, load: Load, recorded: Recorded) -> Use:
    return use_of(
        rehearsal.run,
        rehearsal.compiled.load_index(load.id),
        power_w=load.power_w,
        recorded=recorded,
    )


def _on_thresholds(rule: Rule) -> Band | Beyond | Dark | None:
    """The condition with thresholds that a rule stands on first; None where it has none."""
    condition: Any = rule.condition
    while condition is not None and not isinstance(condition, Band | Beyond | Dark):
        of = getattr(condition, "of", None)
        condition = of[0] if isinstance(of, tuple) and of else of
    return condition


def reading_of(rule: Rule) -> str:
    """The reading whose last day stands beside the form: that of a rule on thresholds."""
    thresholds = _on_thresholds(rule)
    return thresholds.probe if thresholds is not None else ""


def _thresholds(rule: Rule) -> list[tuple[str, float]]:
    thresholds = _on_thresholds(rule)
    if isinstance(thresholds, Band):
        return [("on", thresholds.on_threshold), ("off", thresholds.off_threshold)]
    return [("at", thresholds.value)] if thresholds is not None else []


def _last_day(plan: Plan, rule: Rule, trace: Trace | None, end_ms: int) -> LastDay | None:
    probe = plan.probe(reading_of(rule))
    if trace is None or probe is None:
        return None
    part = trace.between(end_ms - MS_PER_DAY, end_ms)
    if len(part) < 2:
        return None
    value = probe.calibration.over(part.raw)
    thresholds = _thresholds(rule)
    low, high = round_range(
        min(float(value.min()), *(threshold for _, threshold in thresholds)),
        max(float(value.max()), *(threshold for _, threshold in thresholds)),
        at_least=QUANTITIES[probe.quantity].rule_step,
        step=QUANTITIES[probe.quantity].rule_step,
    )
    y = Scale(low=low, high=high, pixel_low=PLOT_H - 4, pixel_high=4)
    path = trace_path(
        part.t_ms,
        value,
        start_ms=end_ms - MS_PER_DAY,
        end_ms=end_ms,
        width=PLOT_W,
        y=y,
        gap_ms=round(probe.stale_after_s * 1000),
    )
    return LastDay(
        name=probe.name,
        unit=unit_of(probe.quantity),
        path=path,
        thresholds=tuple(
            Threshold(y=round(y(threshold), 1), text=f"{w} {short(threshold)}")
            for w, threshold in thresholds
        ),
        low=short(low),
        high=short(high),
    )
