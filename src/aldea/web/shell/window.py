"""The span of time that timeline and plots share, and where the scrubber stands."""

from dataclasses import dataclass

from aldea.core.base.instants import span

HOUR_MS = 3_600_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """The span of time that timeline and plots share, and where the scrubber stands."""

    start_ms: int
    end_ms: int
    at_ms: int
    now_ms: int

    @property
    def hours(self) -> float:
        """Its length."""
        return (self.end_ms - self.start_ms) / HOUR_MS

    def pct(self, t_ms: float) -> float:
        """Where an instant stands on the track, in percent."""
        return 100 * (t_ms - self.start_ms) / (self.end_ms - self.start_ms)

    @property
    def title(self) -> str:
        """Its length in words."""
        return span((self.end_ms - self.start_ms) / 1000)


def window_of(
    *, now_ms: int, hours: float | None, end_ms: int | None, at_ms: int | None, first_ms: int | None
) -> Window:
    """The window asked for, kept inside what is recorded; 24 hours up to now without a wish."""
    length_ms = round(min(max(hours or 24, 1), 744) * HOUR_MS)
    end_ms = min(end_ms or now_ms, now_ms)
    if first_ms is not None:
        end_ms = max(end_ms, min(now_ms, first_ms + length_ms))
    start_ms = end_ms - length_ms
    at_ms = end_ms if at_ms is None else min(max(at_ms, start_ms), end_ms)
    return Window(start_ms=start_ms, end_ms=end_ms, at_ms=at_ms, now_ms=now_ms)
