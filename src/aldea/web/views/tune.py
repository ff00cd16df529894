"""The Tune bench: the band rule beside the trace, and what the marks cost."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from aldea.core.plan.document import Band, Claim, Load, Plan, Probe
from aldea.core.plan.edit import Tuning
from aldea.core.rehearse.consequence import Consequence
from aldea.core.rehearse.rehearsal import Faults, quality_spans
from aldea.core.rehearse.trace import Trace
from aldea.core.words.figures import UNIT, figure, short, years
from aldea.core.words.times import near
from aldea.core.words.verdicts import Verdict, tune_verdict
from aldea.web.desk import Replayed
from aldea.web.views.plot import Scale, density_path, round_range, trace_path
from aldea.web.views.rail import Block, Tick, Window, lane_blocks, time_ticks

PLOT_PX = 372
OVERVIEW_PX = 44
TRACK_PX = 748
Picture = Callable[[tuple[object, ...], Callable[[], str]], str]
OFF_PAST_LIMIT = "Past the limit, off, h/week"
RULE_STEP = {"relative_humidity": 5.0, "air_temperature": 2.0}


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """One figure of the running plan and of the draft, with bars of one scale."""

    label: str
    running: str
    draft: str
    running_px: float
    draft_px: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleTick:
    """A line of the band rule."""

    y: float
    text: str
    long: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultBand:
    """A span on the plot in which something was wrong, put in or found."""

    x: str
    width: str
    text: str
    kind: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TunePlot:
    """What stays while the marks move: trace, axes, overview."""

    probe: Probe
    unit: str
    y: Scale
    trace: str
    overview: str
    overview_x: str
    overview_width: str
    overview_days: tuple[Tick, ...]
    ticks: tuple[Tick, ...]
    rule: tuple[RuleTick, ...]
    density: str
    limit_y: float | None
    limit_words: str
    uncertainty: float
    basis: str

    @property
    def can_tell(self) -> float:
        """How far two marks must be apart for the probe to tell them: both soft edges."""
        return 2 * self.uncertainty


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneAnswer:
    """What the marks come to; everything here changes while they are dragged."""

    verdict: Verdict
    days: str
    costs: tuple[Cost, ...]
    note: str
    gap_note: str
    draft_lane: tuple[Block, ...]
    running_lane: tuple[Block, ...]
    draft_marks: str
    running_marks: str
    draft_closings: str
    running_closings: str
    shade: tuple[Block, ...]
    faults: tuple[FaultBand, ...]


def tune_plot(
    plan: Plan, claim: Claim, trace: Trace, whole: Replayed, window: Window, picture: Picture
) -> TunePlot:
    """Draw the calibrated trace of a claim's probe in the window, and its whole length above."""
    band = claim.condition
    probe = plan.probe(band.probe)
    if probe is None:  # a checked plan has it
        raise KeyError(band.probe)
    part = trace.between(window.start_ms, window.end_ms)
    shown = (part if len(part) else trace).calibrated(probe.calibration)
    step = RULE_STEP.get(probe.quantity, 1.0)
    marks = [band.on, band.off] + ([band.limit.value] if band.limit else [])
    edge = probe.calibration.expanded_uncertainty
    low, high = round_range(
        min(float(shown.min()), *(m - edge for m in marks)),
        max(float(shown.max()), *(m + edge for m in marks)),
        at_least=4 * step,
        step=step,
    )
    y = Scale(low=low, high=high, pixel_low=PLOT_PX - 6, pixel_high=6)
    gap_ms = round(probe.stale_after_s * 1000)
    span = Window(
        start_ms=whole.start_ms, end_ms=whole.end_ms, at_ms=window.at_ms, now_ms=window.now_ms
    )
    left = max(0.0, span.pct(window.start_ms))
    return TunePlot(
        probe=probe,
        unit=UNIT[probe.quantity],
        y=y,
        trace=trace_path(
            part.t_ms,
            part.calibrated(probe.calibration),
            start_ms=window.start_ms,
            end_ms=window.end_ms,
            width=TRACK_PX,
            y=y,
            gap_ms=gap_ms,
        ),
        overview=picture(
            ("overview", probe, span.start_ms, span.end_ms),
            lambda: _overview(trace, probe, span),
        ),
        overview_x=f"{left:.3f}%",
        overview_width=f"{max(0.6, span.pct(window.end_ms) - left):.3f}%",
        overview_days=time_ticks(span, plan.house.time_zone),
        ticks=time_ticks(window, plan.house.time_zone),
        rule=tuple(_rule_ticks(y, step)),
        density=picture(
            ("density", probe, low, high, span.end_ms),
            lambda: density_path(
                trace.calibrated(probe.calibration),
                y,
                x_px=132,
                width_px=38,
                bins=round((high - low) * 4),
            ),
        ),
        limit_y=y(band.limit.value) if band.limit else None,
        limit_words=_limit_words(band, UNIT[probe.quantity]),
        uncertainty=edge,
        basis=_basis(probe),
    )


def _overview(trace: Trace, probe: Probe, span: Window) -> str:
    value = trace.calibrated(probe.calibration)
    y = Scale(
        low=float(value.min()),
        high=float(value.max()) + 1e-9,
        pixel_low=OVERVIEW_PX - 3,
        pixel_high=15,
    )
    return trace_path(
        trace.t_ms,
        value,
        start_ms=span.start_ms,
        end_ms=span.end_ms,
        width=TRACK_PX,
        y=y,
        gap_ms=round(probe.stale_after_s * 1000),
    )


def _limit_words(band: Band, unit: str) -> str:
    if band.limit is None:
        return ""
    why = f", {band.limit.why}" if band.limit.why else ""
    return f"limit {short(band.limit.value)} {unit}{why}"


def _basis(probe: Probe) -> str:
    if probe.calibration.basis == "certificate":
        return f"certificate {probe.calibration.certificate}"
    return "stated, not measured"


def _rule_ticks(y: Scale, step: float) -> list[RuleTick]:
    fine = step / 5
    count = round((y.high - y.low) / fine)
    return [
        RuleTick(
            y=round(y(y.low + i * fine), 1),
            text=short(round(y.low + i * fine, 3)) if i % 5 == 0 else "",
            long=i % 5 == 0,
        )
        for i in range(count + 1)
    ]


def _bars(running: float, draft: float) -> tuple[float, float]:
    top = max([v for v in (running, draft) if math.isfinite(v)] + [1e-9])
    return 288 * min(running, top) / top, 288 * min(draft, top) / top


def _cost(label: str, running: float | None, draft: float) -> Cost:
    bars = _bars(0.0 if running is None else running, draft)
    return Cost(
        label=label,
        running="" if running is None else _figure(label, running),
        draft=_figure(label, draft),
        running_px=round(bars[0], 1),
        draft_px=round(bars[1], 1),
    )


def _figure(label: str, value: float) -> str:
    return years(value) if "years" in label else figure(value)


def _costs(band: Band, running: Consequence | None, draft: Consequence) -> list[Cost]:
    rows = [
        ("Closings a day", "closings_per_day"),
        ("On, hours a day", "on_hours_per_day"),
        (OFF_PAST_LIMIT, "unanswered_hours_per_week"),
        ("Relay life, years", "relay_years"),
    ]
    return [
        _cost(label, getattr(running, key) if running else None, getattr(draft, key))
        for label, key in rows
        if band.limit is not None or key != "unanswered_hours_per_week"
    ]


def tune_answer(
    *,
    plan: Plan,
    claim: Claim,
    load: Load,
    window: Window,
    shown: Replayed,
    running: Replayed | None,
    draft_sum: Consequence,
    running_sum: Consequence | None,
    running_tuning: Tuning | None,
    faults: Faults,
) -> TuneAnswer:
    """Everything that follows from the marks. Figures are without the faults put in."""
    band = claim.condition
    probe = plan.probe(band.probe)
    unit = UNIT[probe.quantity] if probe else ""
    edge = probe.calibration.expanded_uncertainty if probe else 0.0
    can_tell = 2 * edge
    gap = abs(band.on - band.off)
    total = draft_sum.beyond_hours_per_week
    word = "above" if band.direction == "rising" else "below"
    note = load.relay.basis + "." if load.relay.basis else ""
    if band.limit is not None:
        note = (
            f"The recorded room was {figure(total)} h a week {word} "
            f"{short(band.limit.value)} {unit}. {note}"
        )
    timeline = shown.rehearsal.timelines[load.id]
    return TuneAnswer(
        verdict=tune_verdict(
            load.name, band, unit, draft=draft_sum, running=running_sum, can_tell=can_tell
        ),
        days=figure(draft_sum.days, 0 if draft_sum.days >= 3 else 1),
        costs=tuple(_costs(band, running_sum, draft_sum)),
        note=note.strip(),
        gap_note=_gap_note(gap, can_tell, edge, unit),
        draft_lane=tuple(lane_blocks(timeline, window)),
        running_lane=tuple(lane_blocks(running.rehearsal.timelines[load.id], window))
        if running and load.id in running.rehearsal.timelines
        else (),
        draft_marks=f"{short(band.on)} / {short(band.off)}",
        running_marks=f"{short(running_tuning.on)} / {short(running_tuning.off)}"
        if running_tuning
        else "",
        draft_closings=str(_closings(shown, load.id, window)),
        running_closings=str(_closings(running, load.id, window)) if running else "",
        shade=tuple(block for block in lane_blocks(timeline, window) if block.height > 6)
        if window.hours <= 48
        else (),
        faults=tuple(_fault_bands(plan, shown, window, faults, band.probe)),
    )


def _gap_note(gap: float, can_tell: float, edge: float, unit: str) -> str:
    if gap < can_tell:
        return (
            f"Gap {figure(gap)} {unit}: under the {figure(can_tell)} that a probe of "
            f"±{figure(edge)} can tell apart. Widen it to {figure(can_tell)} or calibrate better."
        )
    return f"Gap {figure(gap)} {unit}; the probe can tell {figure(can_tell)} apart."


def _closings(replayed: Replayed | None, load: str, window: Window) -> int:
    if replayed is None or load not in replayed.rehearsal.timelines:
        return 0
    timeline = replayed.rehearsal.timelines[load]
    before = 0
    count = 0
    for stretch in timeline:
        if stretch.state and not before and window.start_ms <= stretch.start_ms < window.end_ms:
            count += 1
        before = stretch.state
    return count


def _fault_bands(
    plan: Plan, shown: Replayed, window: Window, faults: Faults, probe: str
) -> list[FaultBand]:
    zone = plan.house.time_zone
    spans = [(a, b, "probe silent, put in", "silence") for p, a, b in faults.silences if p == probe]
    spans += [(a, b, "power cut, put in", "cut") for a, b in faults.cuts]
    put_in = [(a, b) for a, b, _, _ in spans]
    for start_ms, end_ms, quality in quality_spans(shown.rehearsal, probe):
        if not any(start_ms < b and end_ms > a for a, b in put_in):
            spans.append((start_ms, end_ms, f"recorded: {quality}", "found"))
    bands: list[FaultBand] = []
    for start_ms, end_ms, text, kind in spans:
        if end_ms <= window.start_ms or start_ms >= window.end_ms:
            continue
        x = max(0.0, window.pct(start_ms))
        began = near(start_ms, window.end_ms, zone)
        until = near(end_ms, start_ms, zone)
        bands.append(
            FaultBand(
                x=f"{x:.3f}%",
                width=f"{max(0.3, min(100.0, window.pct(end_ms)) - x):.3f}%",
                text=f"{text} from {began} to {until}",
                kind=kind,
            )
        )
    return bands
