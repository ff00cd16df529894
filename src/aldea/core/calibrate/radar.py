"""Distance gates of a presence radar from an empty and an occupied room.

A gate speaks when its energy is above its threshold. Thresholds are a quantile of the empty room
and a margin. How often they mistake the empty room is counted on rows that did not set them.
"""

import math
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.presence_hold import LOOSE
from aldea.core.calibrate.share import Share

MOST_GATES = 16
FEWEST_ROWS = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """One gate: its threshold, the share of the empty room above it, of the occupied one below."""

    threshold: float
    false: Share
    missed: Share
    empty_top: float
    occupied_middle: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Gates:
    """All gates; `false` any gate speaking in the empty room, `missed` none in the other."""

    gates: tuple[Gate, ...]
    false: Share
    missed: Share


def gates_of(
    empty: FloatArray,
    occupied: FloatArray,
    *,
    quantile_1: float,
    margin: float,
) -> Gates:
    """Thresholds from recordings of shape (rows, gates): quantile of the empty room plus margin.

    The quantile is the smallest recorded value that `quantile_1` of the rows do not exceed, so that
    no value is made up. Each half of the empty room is tried by the thresholds of the other half:
    by those that it set itself it would look better than another day. Raises `CalibrationError`
    where the recordings cannot be compared.
    """
    for name, rows in (("empty room", empty), ("occupied room", occupied)):
        if rows.ndim != 2 or len(rows) < FEWEST_ROWS:
            raise CalibrationError(
                name,
                got=f"{len(rows)} row{'' if len(rows) == 1 else 's'}",
                allowed=f"{FEWEST_ROWS} or more",
                fix="Record a few minutes; one row a second is enough.",
            )
        if not (np.isfinite(rows).all() and (rows >= 0).all()):
            raise CalibrationError(name, got="a value under 0", allowed="energies, 0 or more")
    if empty.shape[1] != occupied.shape[1] or empty.shape[1] > MOST_GATES:
        raise CalibrationError(
            "gates",
            got=f"{empty.shape[1]} in the empty room, {occupied.shape[1]} in the occupied one",
            allowed=f"the same number, up to {MOST_GATES}",
            fix="Record both with the same settings, one column a gate.",
        )
    thresholds = _thresholds(empty, quantile_1) + margin
    halves = np.array_split(empty, 2)
    above_empty = np.concatenate(
        [
            half > _thresholds(other, quantile_1) + margin
            for half, other in zip(halves, halves[::-1], strict=True)
        ]
    )
    silent = np.asarray(occupied <= thresholds)
    return Gates(
        gates=tuple(
            Gate(
                threshold=float(thresholds[i]),
                false=_share(above_empty[:, i]),
                missed=_share(silent[:, i]),
                empty_top=float(empty[:, i].max()),
                occupied_middle=float(np.median(occupied[:, i])),
            )
            for i in range(empty.shape[1])
        ),
        false=_share(above_empty.any(axis=1)),
        missed=_share(silent.all(axis=1)),
    )


def _thresholds(rows: FloatArray, quantile_1: float) -> FloatArray:
    place = min(len(rows), max(1, math.ceil(quantile_1 * len(rows) - LOOSE))) - 1
    thresholds: FloatArray = np.sort(rows, axis=0)[place]
    return thresholds


def _share(seen: "np.ndarray | np.bool_") -> Share:
    rows = np.asarray(seen)
    return Share(count=int(rows.sum()), of=len(rows))
