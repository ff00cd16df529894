"""Distance gates of a presence radar from an empty and an occupied room; the hold time from gaps.

A gate speaks when its energy is above its threshold. Thresholds are a quantile of the empty room
and a margin. Hold: order statistics with a distribution-free bound (binomial).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aldea.core.errors import CalibrationError

MOST_GATES = 16
FEWEST_ROWS = 20
LOOSE = 1e-9  # 0.1 · 30 is 3.0000000000000004: a share times a count is meant as a whole number


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """One gate: its threshold, the share of the empty room above it, of the occupied one below."""

    threshold: float
    false_1: float
    missed_1: float
    empty_top: float
    occupied_middle: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Gates:
    """All gates; `false_1` any gate speaking in the empty room, `missed_1` none in the other."""

    gates: tuple[Gate, ...]
    false_1: float
    missed_1: float


def gates_of(
    empty: NDArray[np.float64],
    occupied: NDArray[np.float64],
    *,
    quantile_1: float,
    margin: float,
) -> Gates:
    """Thresholds from recordings of shape (rows, gates): quantile of the empty room plus margin.

    The quantile is the smallest recorded value that `quantile_1` of the rows do not exceed, so that
    no value is made up. Raises `CalibrationError` where the recordings cannot be compared.
    """
    for name, rows in (("empty room", empty), ("occupied room", occupied)):
        if rows.ndim != 2 or len(rows) < FEWEST_ROWS:
            raise CalibrationError(
                name,
                got=f"{len(rows)} rows",
                allowed=f"{FEWEST_ROWS} or more",
                mend="Record a few minutes; one row a second is enough.",
            )
        if not (np.isfinite(rows).all() and (rows >= 0).all()):
            raise CalibrationError(name, got="a value under 0", allowed="energies, 0 or more")
    if empty.shape[1] != occupied.shape[1] or empty.shape[1] > MOST_GATES:
        raise CalibrationError(
            "gates",
            got=f"{empty.shape[1]} in the empty room, {occupied.shape[1]} in the occupied one",
            allowed=f"the same number, up to {MOST_GATES}",
            mend="Record both with the same settings, one column a gate.",
        )
    place = min(len(empty), max(1, math.ceil(quantile_1 * len(empty) - LOOSE))) - 1
    thresholds = np.sort(empty, axis=0)[place] + margin
    above_empty, above_occupied = empty > thresholds, occupied > thresholds
    return Gates(
        gates=tuple(
            Gate(
                threshold=float(thresholds[i]),
                false_1=float(above_empty[:, i].mean()),
                missed_1=float(1 - above_occupied[:, i].mean()),
                empty_top=float(empty[:, i].max()),
                occupied_middle=float(np.median(occupied[:, i])),
            )
            for i in range(empty.shape[1])
        ),
        false_1=float(above_empty.any(axis=1).mean()),
        missed_1=float(1 - above_occupied.any(axis=1).mean()),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Hold:
    """A hold time, s, from gaps in presence; no bound where the gaps are too few for one."""

    hold_s: float
    order: int
    false_offs: int
    bound_s: float | None
    bound_order: int | None
    needed: int


def hold_of(gaps_s: Sequence[float], *, false_1: float, confidence_1: float) -> Hold:
    """The shortest hold that switches off falsely in no more than a share of the gaps.

    x(k) with k = ⌈n (1 − p)⌉; the bound is x(r) with the smallest r for which
    P(Bin(n, 1 − p) ≤ r − 1) reaches the confidence. A gap equal to the hold does not switch off.
    """
    from scipy.stats import binom  # noqa: PLC0415

    if not gaps_s or not all(math.isfinite(gap) and gap >= 0 for gap in gaps_s):
        raise CalibrationError(
            "gaps", got=str(len(gaps_s)), allowed="one or more, each 0 s or longer"
        )
    ordered = sorted(gaps_s)
    n = len(ordered)
    order = min(n, max(1, math.ceil(n * (1 - false_1) - LOOSE)))
    hold = ordered[order - 1]
    ranks = np.arange(1, n + 1)
    reached = np.flatnonzero(binom.cdf(ranks - 1, n, 1 - false_1) >= confidence_1)
    bound_order = int(ranks[reached[0]]) if len(reached) else None
    return Hold(
        hold_s=hold,
        order=order,
        false_offs=sum(gap > hold for gap in ordered),
        bound_s=ordered[bound_order - 1] if bound_order else None,
        bound_order=bound_order,
        needed=math.ceil(math.log(1 - confidence_1) / math.log(1 - false_1) - LOOSE),
    )
