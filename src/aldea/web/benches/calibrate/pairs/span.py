"""A span of the trace at the bench: chosen by dragging, by minutes at the scrubber, or live."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from aldea.core.base.figures import figure, signed
from aldea.core.base.instants import MS_PER_MINUTE
from aldea.core.base.numbers import whole_of
from aldea.core.calibrate.methods.method import Method
from aldea.core.readings.stability import Stability, stability_of
from aldea.core.readings.trace import Trace
from aldea.web.shell.plot import Scale, trace_path
from aldea.web.shell.window import Window

USUAL_MIN, LONGEST_MIN = 10, 240
WIDTH, HEIGHT, GAP_MS = 388, 54, 1_800_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Strip:
    """The trace over the timeline's window, small, with the chosen span on it."""

    path: str
    start_ms: int
    end_ms: int
    from_px: float
    width_px: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SpanView:
    """The chosen span of the trace, as the form that takes a pair shows it.

    `mean` is what may be taken as the reading, `says` what the span is like, both empty where it
    has fewer than two readings; `live` keeps the span at the newest reading.
    """

    minutes: int
    chosen_by: str
    mean: str
    says: str
    settled: str
    strip: Strip
    drag_from: str
    drag_to: str
    live: bool


def span_view(
    trace: Trace, window: Window, method: Method, sent: Mapping[str, str], at_words: str
) -> SpanView | None:
    """The span that the address asks for; None where nothing is recorded in the window."""
    live = sent.get("live") == "1"
    minutes = min(max(whole_of(sent.get("span_min", "")) or USUAL_MIN, 1), LONGEST_MIN)
    from_ms, to_ms = whole_of(sent.get("span_from", "")), whole_of(sent.get("span_to", ""))
    by_drag = from_ms is not None and to_ms is not None and from_ms < to_ms and not live
    start_ms, end_ms = window.start_ms, window.end_ms
    if live and len(trace):
        at_ms = int(trace.t_ms[-1])
        start_ms, end_ms = at_ms - 3 * minutes * MS_PER_MINUTE, at_ms + 1
    else:
        at_ms = window.at_ms
    if not by_drag or from_ms is None or to_ms is None:
        from_ms, to_ms = at_ms - minutes * MS_PER_MINUTE, at_ms
    seen = trace.between(start_ms, end_ms)
    if not len(seen):
        return None
    span = trace.between(from_ms, to_ms + 1)
    stability = stability_of(span.t_ms, span.raw)
    if stability is not None and not math.isfinite(stability.slope_per_min):
        stability = None
    return SpanView(
        minutes=minutes,
        chosen_by="Live, last" if live else "Dragged; or last" if by_drag else f"{at_words}, last",
        mean=figure(stability.mean, 2) if stability else "",
        says=_stability_words(stability, method.unit) if stability else "",
        settled="settled"
        if stability and stability.settled(method.settles_per_min)
        else "still moving",
        strip=_strip(seen, start_ms, end_ms, from_ms, to_ms),
        drag_from=str(from_ms) if by_drag else "",
        drag_to=str(to_ms) if by_drag else "",
        live=live,
    )


def _stability_words(stability: Stability, unit: str) -> str:
    slope = signed(stability.slope_per_min, 3)
    return f"spread {figure(stability.sd, 2)}, {slope} {unit}/min, {stability.count} readings"


def _strip(seen: Trace, start_ms: int, end_ms: int, from_ms: int, to_ms: int) -> Strip:
    low, high = float(seen.raw.min()), float(seen.raw.max())
    pad = max(0.1, (high - low) * 0.08)
    y = Scale(low=low - pad, high=high + pad, pixel_low=HEIGHT - 2, pixel_high=2)
    path = trace_path(
        seen.t_ms, seen.raw, start_ms=start_ms, end_ms=end_ms, width=WIDTH, y=y, gap_ms=GAP_MS
    )
    x = Scale(low=start_ms, high=end_ms, pixel_low=0, pixel_high=WIDTH)
    left, right = (min(max(x(t), 0.0), WIDTH) for t in (from_ms, to_ms))
    return Strip(
        path=path,
        start_ms=start_ms,
        end_ms=end_ms,
        from_px=round(left, 1),
        width_px=round(max(1.5, right - left), 1),
    )
