"""Presence that is held: when a retriggered output is on, and a hold time from the gaps.

Hold: order statistics with a distribution-free bound (binomial).
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short
from aldea.core.base.limits import INNER_SHARE, takes

LOOSE = 1e-9  # 0.1 · 30 is 3.0000000000000004: a share times a count is meant as a whole number


@dataclass(frozen=True, slots=True, kw_only=True)
class PresenceHold:
    """A hold time, s, from gaps in presence; no bound where the gaps are too few for one."""

    hold_s: float
    order: int
    false_offs: int
    bound_s: float | None
    bound_order: int | None
    needed: int


@takes(false_1=INNER_SHARE, confidence_1=INNER_SHARE)
def hold_of(gaps_s: Sequence[float], *, false_1: float, confidence_1: float) -> PresenceHold:
    """The shortest hold that switches off falsely in no more than a share of the gaps.

    x(k) with k = ⌈n (1 − p)⌉; the bound is x(r) with the smallest r for which
    P(Bin(n, 1 − p) ≤ r − 1) reaches the confidence. A gap equal to the hold does not switch off.
    """
    from scipy.special import bdtr  # noqa: PLC0415  a quarter second, for this line alone

    if not gaps_s or not all(math.isfinite(gap) and gap >= 0 for gap in gaps_s):
        raise CalibrationError(
            "gaps", got=f"{len(gaps_s)} gaps", allowed="one or more, each 0 s or longer"
        )
    ordered = sorted(gaps_s)
    n = len(ordered)
    order = min(n, max(1, math.ceil(n * (1 - false_1) - LOOSE)))
    hold = ordered[order - 1]
    priorities = np.arange(1, n + 1)
    reached = np.flatnonzero(bdtr(priorities - 1, n, 1 - false_1) >= confidence_1)
    bound_order = int(priorities[reached[0]]) if len(reached) else None
    return PresenceHold(
        hold_s=hold,
        order=order,
        false_offs=sum(gap > hold for gap in ordered),
        bound_s=ordered[bound_order - 1] if bound_order else None,
        bound_order=bound_order,
        needed=math.ceil(math.log(1 - confidence_1) / math.log(1 - false_1) - LOOSE),
    )


def held(detections_s: Sequence[float], hold_s: float) -> tuple[tuple[float, float], ...]:
    """When an output that every detection holds for `hold_s` is on, s; times in rising order.

    A detection at the very end of a hold carries it on.
    """
    spans: list[tuple[float, float]] = []
    for at in detections_s:
        if spans and at <= spans[-1][1]:
            spans[-1] = (spans[-1][0], at + hold_s)
        else:
            spans.append((at, at + hold_s))
    return tuple(spans)


def gaps_of(detections_s: Sequence[float]) -> tuple[float, ...]:
    """The quiet between one detection and the next, s.

    Raises `CalibrationError` where there are too few, or where time runs backwards.
    """
    if len(detections_s) < 2:
        raise CalibrationError(
            "detections",
            got=f"{len(detections_s)} detections",
            allowed="two or more",
            fix="Record an hour in which somebody is in the room all the time.",
        )
    gaps = tuple(b - a for a, b in itertools.pairwise(detections_s))
    for i, gap in enumerate(gaps):
        if gap < 0:
            raise CalibrationError(
                "detections",
                got=f"{short(detections_s[i + 1])} s after {short(detections_s[i])} s",
                allowed="times in rising order",
                fix="Two recordings in one? Give them one at a time.",
            )
    return gaps
