"""Pairs that contradict the others: each held against the fit without it.

An outlier widens the U of a fit that it is part of, and so hides in it. Left out, it lies beside
the line of the others (deleted residuals: Cook and Weisberg, Residuals and Influence, 2.2). As so
many are tried, the limit of each is that of 95 % for all of them together (Bonferroni).
"""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.pairs import Pair

MOST_TRIED = 12  # pairs that lie furthest beside the line; the others are no outliers


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlier:
    """A fitted pair by its number (from 1): how far beside the line of the others, and U there."""

    number: int
    off: float
    allowed: float


def outliers_of(
    fit: Fit,
    refit: Callable[[Sequence[Pair]], Fit],
    group_of: Callable[[Pair], Hashable],
) -> tuple[Outlier, ...]:
    """Pairs beyond U of the fit without them, in order; alone or with all of their group.

    `refit` fits other pairs as these were, `group_of` names what was repeated: ten readings in a
    wrong jar hide each other.
    """
    fitted = [(n, row) for n, row in enumerate(fit.results, 1) if row.pair.approach != "check"]
    worst = sorted(fitted, key=lambda row: -abs(row[1].residual))[:MOST_TRIED]
    groups: dict[Hashable, list[int]] = {}
    for number, row in fitted:
        groups.setdefault(group_of(row.pair), []).append(number)
    tried = [[number] for number, _ in worst]
    tried += [numbers for numbers in groups.values() if len(numbers) > 1]
    outliers: dict[int, Outlier] = {}
    for left_out in tried:
        try:
            without = refit([row.pair for number, row in fitted if number not in left_out])
        except CalibrationError:  # too few are left for a line
            continue
        if fit.line.is_sloped and not without.line.is_sloped:
            continue
        for number in left_out:
            pair = fit.results[number - 1].pair
            off = pair.reference - without.line.at(pair.reading)
            allowed = without.expanded_at(pair.reading, tries=len(fitted))
            if abs(off) > allowed:
                outliers.setdefault(number, Outlier(number=number, off=off, allowed=allowed))
    return tuple(outliers[number] for number in sorted(outliers))


def with_outliers(
    fit: Fit, refit: Callable[[Sequence[Pair]], Fit], group_of: Callable[[Pair], Hashable]
) -> Fit:
    """The same fit with its outliers named."""
    return replace(fit, outliers=tuple(row.number for row in outliers_of(fit, refit, group_of)))
