"""Two probes in one bath: their difference, and how well a ΔT between them is known (JCGM 100)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError

FEWEST = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class ProbePair:
    """What two probes differ by, and what that leaves in a ΔT; standard uncertainties in K."""

    count: int
    mean_k: float
    sd_k: float
    u_mean_k: float
    correlation_1: float
    u_k: float
    u_uncorrelated_k: float

    @property
    def expanded_k(self) -> float:
        """U (k = 2) of a ΔT between the two, K."""
        return 2 * self.u_k

    @property
    def stands_out(self) -> bool:
        """Whether the difference is more than the bath's own scatter explains (k = 2)."""
        return abs(self.mean_k) > 2 * self.u_mean_k


def u_difference(u_1: float, u_2: float, correlation_1: float) -> float:
    """Standard uncertainty of a difference: √(u1² + u2² − 2 r u1 u2) (JCGM 100, 5.2.2)."""
    return math.sqrt(max(0.0, u_1**2 + u_2**2 - 2 * correlation_1 * u_1 * u_2))


def correlation_of(u_common: float, u_own_1: float, u_own_2: float) -> float:
    """Correlation of two probes that were calibrated on one reference: u0² / (u1 u2)."""
    product = math.hypot(u_common, u_own_1) * math.hypot(u_common, u_own_2)
    return u_common**2 / product if product > 0 else 0.0


def compare_pair(
    pairs: Sequence[tuple[float, float]],
    *,
    expanded_common_k: float,
    expanded_own_1_k: float,
    expanded_own_2_k: float,
) -> ProbePair:
    """Compare readings (first, second) taken at one moment in one bath, °C, calibrated.

    Uncertainties are expanded (k = 2). What the reference is off by is common to both and leaves
    nothing in a difference; the mean's own scatter does. Raises `CalibrationError` under three
    pairs.
    """
    if len(pairs) < FEWEST or not np.isfinite(np.array(pairs)).all():
        raise CalibrationError(
            "readings",
            got=f"{len(pairs)} pairs",
            allowed=f"{FEWEST} pairs of numbers or more",
            fix="Read both at one moment, wait, and read again.",
        )
    both = np.array(pairs, dtype=np.float64)
    differences = both[:, 1] - both[:, 0]
    common, own_1, own_2 = expanded_common_k / 2, expanded_own_1_k / 2, expanded_own_2_k / 2
    u_1, u_2 = math.hypot(common, own_1), math.hypot(common, own_2)
    correlation = correlation_of(common, own_1, own_2)
    sd = float(differences.std(ddof=1))
    u_mean = sd / math.sqrt(len(pairs))
    return ProbePair(
        count=len(pairs),
        mean_k=float(differences.mean()),
        sd_k=sd,
        u_mean_k=u_mean,
        correlation_1=correlation,
        u_k=math.hypot(u_difference(u_1, u_2, correlation), u_mean),
        u_uncorrelated_k=math.hypot(u_difference(u_1, u_2, 0.0), u_mean),
    )
