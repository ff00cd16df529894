"""The second stage of a certificate: one comparison where the probe hangs."""

import math
from dataclasses import dataclass

from aldea.core.calibrate.fit import can_verify


@dataclass(frozen=True, slots=True, kw_only=True)
class InPlace:
    """What a reference showed beside a probe in its place, and what its line made of its reading.

    `expanded` is what the certificate promises there, `reference_expanded` U (k = 2) of the
    reference; `is_outside` where the certificate's pairs did not reach.
    """

    reference: float
    reference_expanded: float
    corrected: float
    expanded: float
    is_outside: bool = False

    @property
    def off(self) -> float:
        """The corrected reading less the reference, in the probe's unit."""
        return self.corrected - self.reference

    @property
    def allowed(self) -> float:
        """How far it may be off: both uncertainties, combined (k = 2)."""
        return math.hypot(self.expanded, self.reference_expanded)

    @property
    def tells(self) -> bool:
        """Whether the comparison can show that the line holds; it may show that it does not."""
        return can_verify(self.expanded, self.reference_expanded)

    @property
    def holds(self) -> bool:
        """Whether what was signed on the bench also holds in place."""
        return abs(self.off) <= self.allowed
