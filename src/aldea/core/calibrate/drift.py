"""What a probe's certificates say together: drift per year, and when it leaves what was promised.

The correction in the middle of the range is followed from certificate to certificate by a
least-squares line over time (JCGM 100, H.3). Two certificates give a drift without doubt about it;
it is said so.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure

DAYS_A_YEAR = 365.25
MS_PER_YEAR = DAYS_A_YEAR * 86_400_000
LEAST_YEARS = 60 / DAYS_A_YEAR


@dataclass(frozen=True, slots=True, kw_only=True)
class Signed:
    """One certificate of a probe: when, its line, its U (k = 2), its range; the probe's unit."""

    at_ms: int
    slope: float
    intercept: float
    expanded: float
    low: float
    high: float

    def correction(self, reading: float) -> float:
        """True minus reading, by its line."""
        return self.intercept + (self.slope - 1) * reading


@dataclass(frozen=True, slots=True, kw_only=True)
class Drift:
    """How a probe moved: at the middle of its range, per year, from so many certificates.

    `leaves_ms` is when the newest certificate's U is used up at this pace, None where it stands
    still.
    """

    middle: float
    per_year: float
    certificates: int
    leaves_ms: int | None


def drift_of(history: Sequence[Signed]) -> Drift | None:
    """Drift over two or more certificates in any order; None for fewer.

    Raises `CalibrationError` where first and last are nearer than two months: what then differs is
    how they were made.
    """
    if len(history) < 2:
        return None
    rows = sorted(history, key=lambda row: row.at_ms)
    newest = rows[-1]
    middle = (newest.low + newest.high) / 2
    years = [(row.at_ms - newest.at_ms) / MS_PER_YEAR for row in rows]
    corrections = [row.correction(middle) for row in rows]
    mean_t, mean_c = sum(years) / len(rows), sum(corrections) / len(rows)
    spread = sum((t - mean_t) ** 2 for t in years)
    if years[-1] - years[0] < LEAST_YEARS:
        raise CalibrationError(
            "certificates",
            got=f"first and last {figure((years[-1] - years[0]) * DAYS_A_YEAR, 0)} days apart",
            allowed="certificates two months apart or more",
        )
    pairs = zip(years, corrections, strict=True)
    per_year = sum((t - mean_t) * (c - mean_c) for t, c in pairs) / spread
    leaves = None
    if abs(per_year) > 1e-9:
        leaves = newest.at_ms + round(newest.expanded / abs(per_year) * MS_PER_YEAR)
    return Drift(middle=middle, per_year=per_year, certificates=len(rows), leaves_ms=leaves)
