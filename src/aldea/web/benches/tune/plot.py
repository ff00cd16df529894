"""The trace and the band rule of the Tune bench: what stays while the thresholds move."""

from dataclasses import dataclass

from aldea.core.base.figures import short
from aldea.core.base.quantities import QUANTITIES, unit_of
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import Plan, Probe, Rule
from aldea.core.plan.tuning import Tuning
from aldea.core.readings.trace import Trace
from aldea.core.words.proven import outside_words
from aldea.web.shell.plot import Scale, density_path, round_range, trace_path
from aldea.web.shell.replay_cache import Picture, Replayed
from aldea.web.shell.ticks import Tick, time_ticks
from aldea.web.shell.window import Window

PLOT_PX = 372
OVERVIEW_PX = 44
TRACK_PX = 748


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleTick:
    """A line of the band rule."""

    y: float
    text: str
    long: bool

    @property
    def left(self) -> int:
        """Where it begins on the rule, px."""
        return 116 if self.long else 124


@dataclass(frozen=True, slots=True, kw_only=True)
class Rider:
    """A threshold on the rule, with a head that points away from the other one; px."""

    name: str
    label: str
    value: float
    y: float
    up: int
    fill: str
    ink: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TunePlot:
    """What stays while the thresholds move: trace, axes, overview."""

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
    riders: tuple[Rider, ...]
    running_y: tuple[float, ...]

    @property
    def long_ticks(self) -> tuple[RuleTick, ...]:
        """Those that go across the trace."""
        return tuple(tick for tick in self.rule if tick.long)


def tune_plot(
    plan: Plan,
    rule: Rule,
    whole: Replayed,
    trace: Trace,
    window: Window,
    running: Tuning | None,
    picture: Picture,
) -> TunePlot:
    """Draw the calibrated `trace` of a rule's probe in the window, and its whole length above.

    `picture` remembers what is drawn. `running` are the thresholds of the newest revision.
    """
    band = rule.band
    probe = plan.probe(band.probe)
    if probe is None:  # a checked plan has it
        raise KeyError(band.probe)
    part = trace.between(window.start_ms, window.end_ms)
    shown = probe.calibration.over((part if len(part) else trace).raw)
    step = QUANTITIES[probe.quantity].rule_step
    thresholds = [band.on_threshold, band.off_threshold] + (
        [band.limit.value] if band.limit else []
    )
    edges = (band.on_threshold, band.off_threshold)
    edge = max(probe.calibration.expanded_at(value) for value in edges)
    low, high = round_range(
        min(float(shown.min()), *(m - edge for m in thresholds)),
        max(float(shown.max()), *(m + edge for m in thresholds)),
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
        unit=unit_of(probe.quantity),
        y=y,
        trace=trace_path(
            part.t_ms,
            probe.calibration.over(part.raw),
            start_ms=window.start_ms,
            end_ms=window.end_ms,
            width=TRACK_PX,
            y=y,
            gap_ms=gap_ms,
        ),
        overview=picture(
            probe.id,
            ("overview", probe, span.start_ms, span.end_ms),
            lambda: _overview(trace, probe, span),
        ),
        overview_x=f"{left:.3f}%",
        overview_width=f"{max(0.6, span.pct(window.end_ms) - left):.3f}%",
        overview_days=time_ticks(span, plan.house.time_zone),
        ticks=time_ticks(window, plan.house.time_zone),
        rule=tuple(_rule_ticks(y, step)),
        density=picture(
            probe.id,
            ("density", probe, low, high, span.end_ms),
            lambda: density_path(
                probe.calibration.over(trace.raw),
                y,
                x_px=132,
                width_px=38,
                bins=round((high - low) * 4),
            ),
        ),
        limit_y=y(band.limit.value) if band.limit else None,
        limit_words=_limit_words(band, unit_of(probe.quantity)),
        uncertainty=edge,
        basis=_basis(probe, *edges),
        riders=_riders(band, y),
        running_y=(y(running.on), y(running.off)) if running else (),
    )


def _riders(band: Band, y: Scale) -> tuple[Rider, ...]:
    upper = max(band.on_threshold, band.off_threshold)
    return tuple(
        Rider(
            name=name,
            label=label,
            value=value,
            y=y(value),
            up=-1 if value == upper else 1,
            fill=fill,
            ink=ink,
        )
        for name, label, value, fill, ink in (
            ("on", "On", band.on_threshold, "demand", "on-lit"),
            ("off", "Off", band.off_threshold, "lit", "ink"),
        )
    )


def _overview(trace: Trace, probe: Probe, span: Window) -> str:
    value = probe.calibration.over(trace.raw)
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


def _basis(probe: Probe, *values: float) -> str:
    if probe.calibration.basis == "carried":
        return "taken from an identical probe, not verified here"
    if probe.calibration.basis == "certificate":
        outside = outside_words(probe.calibration, unit_of(probe.quantity), *values)
        words = f"certificate {probe.calibration.certificate}"
        return f"{words}, {outside}" if outside else words
    return "entered, not measured"


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
