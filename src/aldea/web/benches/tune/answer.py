"""What the thresholds of the Tune bench result in: costs, lanes, notes; all change with them."""

import math
from dataclasses import dataclass

import numpy as np
from markupsafe import Markup

from aldea.core.base.figures import figure, short, years
from aldea.core.base.instants import MS_PER_HOUR, near
from aldea.core.base.quantities import unit_of
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.tuning import Tuning
from aldea.core.rehearse.consequence import Consequence
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.recorded import Recorded
from aldea.core.rehearse.rehearsal import Rehearsal, quality_spans
from aldea.core.rules.hysteresis import can_tell
from aldea.core.words.clauses import QUALITY_WORDS
from aldea.core.words.recorded import recorded_words
from aldea.core.words.verdicts import Verdict, tune_verdict
from aldea.web.shell.lanes import Block, drawn, lane_blocks
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.window import Window

ENERGY = "Energy, kWh a day"
OFF_PAST_LIMIT = "Above limit while off, h/week"
CUT, SILENCE = ("p0", 0.45), ("fault-put", 0.9)  # pattern and opacity of a fault on the plot
MOST_FAULTS = 3  # told in words under the lanes


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """One figure of the running plan and of the draft, with bars of one scale."""

    label: str
    running: str
    draft: str
    running_px: float
    draft_px: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BandUse:
    """A band beside the others of its load: thresholds, how often it began, how long it decided."""

    rule: str
    name: str
    thresholds: str
    starts_per_day: str
    hours_per_day: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultBand:
    """A span on the plot in which something was wrong, put in or found."""

    x: str
    width: str
    text: str
    fill: str
    opacity: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneAnswer:
    """What the thresholds come to; everything here changes while they are dragged."""

    verdict: Verdict
    days: str
    bands: tuple[BandUse, ...]
    costs: tuple[Cost, ...]
    note: str
    width_note: str
    draft_lane: Markup
    running_lane: Markup
    draft_thresholds: str
    running_thresholds: str
    draft_starts: str
    running_starts: str
    shade: tuple[Block, ...]
    faults: tuple[FaultBand, ...]

    @property
    def fault_words(self) -> tuple[str, ...]:
        """The first of them in words, and how many more there are."""
        more = len(self.faults) - MOST_FAULTS
        texts = tuple(fault.text for fault in self.faults[:MOST_FAULTS])
        return (*texts, f"and {more} more") if more > 0 else texts

    @property
    def lanes_words(self) -> str:
        """What both lanes show, for those who do not see them."""
        running = f", revision {self.running_starts}" if self.running_thresholds else ""
        return f"On and off in the window: draft {self.draft_starts}{running}"


def _bars(running: float, draft: float) -> tuple[float, float]:
    top = max([v for v in (running, draft) if math.isfinite(v)] + [1e-9])
    return 288 * min(running, top) / top, 288 * min(draft, top) / top


def _cost(label: str, running: float | None, draft: float | None) -> Cost:
    if draft is None:  # nothing is recorded in the span: no figure, and no zero for it
        return Cost(label=label, running="", draft="–", running_px=0.0, draft_px=0.0)
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


def _costs(band: Band, load: Load, running: Consequence | None, draft: Consequence) -> list[Cost]:
    rows = [
        ("Starts a day", "starts_per_day"),
        ("On, hours a day", "on_hours_per_day"),
        (OFF_PAST_LIMIT, "unanswered_hours_per_week"),
        ("Relay life, years", "relay_years"),
        (ENERGY, "energy_kwh_per_day"),
    ]
    left_out = set() if band.limit is not None else {"unanswered_hours_per_week"}
    left_out |= set() if load.power_w else {"energy_kwh_per_day"}
    return [
        _cost(
            label,
            getattr(running, key) if running and running.days else None,
            getattr(draft, key) if draft.days else None,
        )
        for label, key in rows
        if key not in left_out
    ]


def tune_answer(
    *,
    plan: Plan,
    rule: Rule,
    load: Load,
    window: Window,
    shown: Replayed,
    running: Replayed | None,
    draft_sum: Consequence,
    recorded: Recorded,
    running_sum: Consequence | None,
    running_tuning: Tuning | None,
    faults: Faults,
) -> TuneAnswer:
    """Everything that follows from the thresholds. Figures are without the faults put in."""
    band = rule.band
    probe = plan.probe(band.probe)
    unit = unit_of(probe.quantity) if probe else ""
    least = can_tell(plan, band.probe, band.on_threshold, band.off_threshold)
    width = abs(band.on_threshold - band.off_threshold)
    total = draft_sum.beyond_hours_per_week
    word = "above" if band.direction == "rising" else "below"
    note = load.relay.basis + "." if load.relay.basis else ""
    if band.limit is not None and draft_sum.days:
        note = (
            f"The recorded room was {figure(total)} h a week {word} "
            f"{short(band.limit.value)} {unit}. {note}"
        )
    blocks = lane_blocks(shown.stretches(load.id), window)
    return TuneAnswer(
        verdict=tune_verdict(
            load.name, band, unit, draft=draft_sum, running=running_sum, can_tell=least
        ),
        days=recorded_words(recorded, plan.house.time_zone),
        bands=_bands(plan, load, shown, recorded),
        costs=tuple(_costs(band, load, running_sum, draft_sum)),
        note=note.strip(),
        width_note=_width_note(width, least, unit),
        draft_lane=drawn(blocks),
        running_lane=drawn(lane_blocks(running.stretches(load.id), window))
        if running
        else Markup(),
        draft_thresholds=f"{short(band.on_threshold)} / {short(band.off_threshold)}",
        running_thresholds=f"{short(running_tuning.on)} / {short(running_tuning.off)}"
        if running_tuning
        else "",
        draft_starts=_starts(shown, load.id, window),
        running_starts=_starts(running, load.id, window) if running else "",
        shade=tuple(block for block in blocks if block.height > 6) if window.hours <= 48 else (),
        faults=tuple(_fault_bands(plan, shown.of(load.id), window, faults, band.probe)),
    )


def _bands(plan: Plan, load: Load, shown: Replayed, recorded: Recorded) -> tuple[BandUse, ...]:
    """What each band of a load did; of one alone nothing is said."""
    rules = plan.bands_of(load.id)
    if len(rules) < 2 or not recorded.days:
        return ()
    rows = []
    for rule in rules:
        probe = plan.probe(rule.band.probe)
        own = [
            (s.start_ms, s.end_ms, s.cause_ms == s.start_ms)
            for s in shown.stretches(load.id)
            if s.state and s.decided_by is not None and s.decided_by.rule == rule.id
        ]
        spans = np.array([row[:2] for row in own], dtype=np.int64).reshape(-1, 2)
        began = np.array([row[0] for row in own if row[2]], dtype=np.int64)
        thresholds = f"{short(rule.band.on_threshold)} / {short(rule.band.off_threshold)}"
        rows.append(
            BandUse(
                rule=rule.id,
                name=f"{probe.name if probe else rule.band.probe}",
                thresholds=f"{thresholds} {unit_of(probe.quantity) if probe else ''}".strip(),
                starts_per_day=figure(len(recorded.holds(began)) / recorded.days),
                hours_per_day=figure(recorded.within(spans) / MS_PER_HOUR / recorded.days),
            )
        )
    return tuple(rows)


def _width_note(width: float, least: float, unit: str) -> str:
    if width < least:
        return (
            f"Hysteresis {figure(width)} {unit}: below 2 U = {figure(least)} "
            f"(U = {figure(least / 2)}). Widen it to {figure(least)}, or calibrate."
        )
    return f"Hysteresis {figure(width)} {unit}; 2 U = {figure(least)}."


def _starts(replayed: Replayed | None, load: str, window: Window) -> str:
    stretches = replayed.stretches(load) if replayed else []
    before = 0
    count = 0
    for stretch in stretches:
        if stretch.state and not before and window.start_ms <= stretch.start_ms < window.end_ms:
            count += 1
        before = stretch.state
    return f"{count} start{'' if count == 1 else 's'}"


def _fault_bands(
    plan: Plan, shown: Rehearsal | None, window: Window, faults: Faults, probe: str
) -> list[FaultBand]:
    zone = plan.house.time_zone
    spans = [(a, b, "no reading, added", SILENCE) for p, a, b in faults.silences if p == probe]
    spans += [(a, b, "power cut, added", CUT) for a, b in faults.cuts]
    put_in = [(a, b) for a, b, _, _ in spans]
    for start_ms, end_ms, quality in quality_spans(shown, probe) if shown else ():
        if not any(start_ms < b and end_ms > a for a, b in put_in):
            spans.append((start_ms, end_ms, f"recorded: {QUALITY_WORDS[quality]}", SILENCE))
    bands: list[FaultBand] = []
    for start_ms, end_ms, text, (fill, opacity) in spans:
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
                fill=fill,
                opacity=opacity,
            )
        )
    return bands
