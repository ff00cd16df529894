"""A span of the trace at the bench: chosen by dragging, by minutes at the scrubber, or live."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from aldea.core.rehearse.trace import Trace
from aldea.core.sensing.soak import Soak, soak_of
from aldea.web.kinds.base import Kind
from aldea.web.pages import whole_number
from aldea.web.views.plot import Scale, trace_path
from aldea.web.views.rail import Window

SOAK_MIN, LONGEST_MIN = 10, 240
WIDTH, HEIGHT, GAP_MS = 388, 54, 1_800_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Strip:
    """The trace over the rail's window, small, with the chosen span on it."""

    path: str
    start_ms: int
    end_ms: int
    from_px: float
    width_px: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Settled:
    """The chosen span of the trace, as the take form says it; `live` keeps it at the newest."""

    soak: Soak | None
    minutes: int
    settled: bool
    strip: Strip
    from_ms: int
    to_ms: int
    by_drag: bool
    live: bool


def settled_of(trace: Trace, window: Window, kind: Kind, sent: Mapping[str, str]) -> Settled | None:
    """The span that the address asks for; None where nothing is recorded in the window."""
    live = sent.get("live") == "1"
    minutes = min(max(whole_number(sent.get("soak_min")) or SOAK_MIN, 1), LONGEST_MIN)
    from_ms, to_ms = whole_number(sent.get("span_from")), whole_number(sent.get("span_to"))
    by_drag = from_ms is not None and to_ms is not None and from_ms < to_ms and not live
    start_ms, end_ms = window.start_ms, window.end_ms
    if live and len(trace):
        at_ms = int(trace.t_ms[-1])
        start_ms, end_ms = at_ms - 3 * minutes * 60_000, at_ms + 1
    else:
        at_ms = window.at_ms
    if not by_drag or from_ms is None or to_ms is None:
        from_ms, to_ms = at_ms - minutes * 60_000, at_ms
    seen = trace.between(start_ms, end_ms)
    if not len(seen):
        return None
    span = trace.between(from_ms, to_ms + 1)
    soak = soak_of(span.t_ms, span.raw)
    if soak is not None and not math.isfinite(soak.slope_per_min):
        soak = None
    return Settled(
        soak=soak,
        minutes=minutes,
        settled=soak is not None and soak.settled(kind.settles),
        strip=_strip(seen, start_ms, end_ms, from_ms, to_ms),
        from_ms=from_ms,
        to_ms=to_ms,
        by_drag=by_drag,
        live=live,
    )


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
