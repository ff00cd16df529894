"""What was counted in a log, before anybody stores it."""

from dataclasses import asdict, dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class LogReport:
    """What was counted in a log; nothing of it is hidden from the person who stores it.

    `repeated_hour` counts readings of an hour's second time; `speaks_for` is the unit in which they
    would lie in range, where they do not in the one that was chosen.
    """

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
    moved_by_clock_change: int = 0
    repeated_hour: int = 0
    speaks_for: str = ""

    def as_dict(self) -> dict[str, float | int | str]:
        """For keeping beside the upload."""
        return asdict(self)
