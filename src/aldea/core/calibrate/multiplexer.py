"""Several sensors on one analog input: their order, their settling, what one does to another.

Order: each sensor is touched in turn and the channel that moves is looked for; crossed or stuck
address lines are told from the pattern. Settling: half a count at the converter's bits.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short

CLEAR_1 = 2.0  # the channel that moved must move twice as far as any other


@dataclass(frozen=True, slots=True, kw_only=True)
class Touched:
    """One touch: the channel where the sensor should sit, the one that moved, and how far."""

    expected: int
    moved: int | None
    counts: float
    next_counts: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """What the touches say; `explains` names the fault of the address lines, empty if none fits."""

    touches: tuple[Touched, ...]
    explains: str

    @property
    def right(self) -> bool:
        """Whether every touched sensor moved its own channel."""
        return all(touch.moved == touch.expected for touch in self.touches)


def order_of(rest: FloatArray, touched: FloatArray, channels: Sequence[int]) -> Order:
    """Which channel moved at each touch; `rest` (channels,), `touched` (touches, channels)."""
    if touched.shape != (len(channels), len(rest)):
        raise CalibrationError(
            "touches",
            got=f"{len(touched)} rows of {touched.shape[1] if touched.ndim == 2 else 0} channels",
            allowed=f"{len(channels)} rows of {len(rest)}, a row for each connected sensor",
            fix="First a row at rest, then a row while each sensor is touched, in their order.",
        )
    touches = []
    for row, expected in zip(np.abs(touched - rest), channels, strict=True):
        ranked = np.argsort(row)[::-1]
        most, second = float(row[ranked[0]]), float(row[ranked[1]]) if len(row) > 1 else 0.0
        clear = most > 0 and most >= CLEAR_1 * second
        touches.append(
            Touched(
                expected=expected,
                moved=int(ranked[0]) if clear else None,
                counts=most,
                next_counts=second,
            )
        )
    return Order(touches=tuple(touches), explains=_explained(touches, len(rest)))


def _explained(touches: Sequence[Touched], channels: int) -> str:
    """The one fault of the address lines that makes all that was seen."""
    seen = [(t.expected, t.moved) for t in touches if t.moved is not None]
    if not seen or all(a == b for a, b in seen):
        return ""
    lines = max(1, (channels - 1).bit_length())
    for first in range(lines):
        for second in range(first + 1, lines):
            if all(_swapped(a, first, second) == b for a, b in seen):
                return f"address lines {first} and {second} are changed over"
    for line in range(lines):
        bit = 1 << line
        if all(a ^ bit == b for a, b in seen):
            return f"address line {line} is inverted"
    if all(channels - 1 - a == b for a, b in seen):
        return "the order is reversed, or every address line is inverted"
    return ""


def _swapped(value: int, first: int, second: int) -> int:
    one, two = value >> first & 1, value >> second & 1
    return value if one == two else value ^ (1 << first) ^ (1 << second)


def settle_time_s(*, source_ohm: float, switch_ohm: float, hold_farad: float, bits: int) -> float:
    """Time until a sample-and-hold is within half a count, s: R C ln 2^(N+1)."""
    return (source_ohm + switch_ohm) * hold_farad * math.log(2 ** (bits + 1))


@dataclass(frozen=True, slots=True, kw_only=True)
class Settling:
    """What a recording after the switch says: the first wait, µs, from which it stays settled."""

    settled_us: float | None
    final_counts: float
    error_counts: float


def settling_of(waits_us: Sequence[float], counts: Sequence[float], *, within: float) -> Settling:
    """From which wait on every reading is within `within` counts of the last."""
    if len(waits_us) < 3:
        raise CalibrationError(
            "settling",
            got=f"{len(waits_us)} rows",
            allowed="three or more: wait in µs, counts",
        )
    if len(waits_us) != len(counts):
        raise CalibrationError(
            "settling", got=f"{len(waits_us)} waits, {len(counts)} counts", allowed="one to each"
        )
    pairs = sorted(zip(waits_us, counts, strict=True))
    final = pairs[-1][1]
    settled = None
    for wait, count in reversed(pairs[:-1]):
        if abs(count - final) > within:
            break
        settled = wait
    return Settling(settled_us=settled, final_counts=final, error_counts=abs(pairs[0][1] - final))


def crosstalk_1(*, low_counts: float, high_counts: float, swing_counts: float) -> float:
    """Share of a neighbour's swing that shows in a channel that was held still."""
    if not swing_counts > 0:
        raise CalibrationError(
            "swing", got=f"{short(swing_counts)} counts", allowed="above 0: move the neighbour"
        )
    return abs(high_counts - low_counts) / swing_counts
