"""What was counted in a log, before anybody stores it."""

from dataclasses import asdict, dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class LogReport:
    """What was counted in a log; nothing of it is hidden from the person who stores it."""

    rows: int
    readings: int
    empty: int
    duplicates: int
    jumps_back: int
    out_of_range: int
    gaps: int
    longest_gap_s: float
    interval_s: float
    first_ms: int
    last_ms: int
    lowest: float
    highest: float
    moved_by_clock_change: int

    def as_dict(self) -> dict[str, float | int]:
        """For keeping beside the upload."""
        return asdict(self)
