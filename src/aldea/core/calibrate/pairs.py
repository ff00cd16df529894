"""Pairs as they are recorded: one reading beside a known value."""

from dataclasses import dataclass
from typing import Literal

Approach = Literal["drier", "wetter", "point", "check"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """One reading beside a known value; a `check` pair is compared, never fitted.

    `reference`, `reading` and `reference_expanded` (U, k = 2) are in the probe's unit: %RH or °C.
    `medium` is what gave the reference (a salt, an ice bath), `temp_degc` the temperature there,
    `detail` what else was noted.
    """

    reference: float
    reading: float
    approach: Approach
    temp_degc: float
    reference_expanded: float
    medium: str | None = None
    detail: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenPair:
    """A pair with its number and who took it."""

    id: int
    pair: Pair
    by: str
    taken_ms: int
