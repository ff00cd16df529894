"""A share that was counted, and how large it may truly be: 0 of 120 is not nothing.

Upper bound of Clopper and Pearson (Biometrika 26, 1934), one-sided: the share at which no more
than what was counted would be seen in 1 − confidence of all trials. Trials are independent.
"""

from dataclasses import dataclass

CONFIDENCE_1 = 0.95


@dataclass(frozen=True, slots=True, kw_only=True)
class Share:
    """So many of so many."""

    count: int
    of: int

    @property
    def counted_1(self) -> float:
        """The share that was counted, 0 to 1; of none, 0."""
        return self.count / self.of if self.of else 0.0

    @property
    def at_most_1(self) -> float:
        """The largest share that is still believed with 95 %, 0 to 1."""
        if self.count >= self.of:
            return 1.0
        from scipy.special import betaincinv  # noqa: PLC0415  asked for by few pages

        return float(betaincinv(self.count + 1, self.of - self.count, CONFIDENCE_1))
