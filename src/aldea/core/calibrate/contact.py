"""An end contact at the bench: how long it bounces, and whether closed means what the plan says.

Edges nearer together than the quiet time belong to one press. A debounce time is the longest bounce
with half as much again, on whole 5 ms; it must stay under the shortest time that the contact rests.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short
from aldea.core.base.limits import ABOVE_ZERO, FINITE, takes
from aldea.core.devices.sensors.facts import ContactMeans

State = Literal["closed", "open"]
MARGIN_1, STEP_MS = 1.5, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Burst:
    """The edges of one movement: when the first came, ms, how long until the last, how many."""

    at_ms: float
    lasts_ms: float
    edges: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounce:
    """What the edges say: the bursts, the longest, the shortest rest, what debounce to take, ms."""

    bursts: tuple[Burst, ...]
    longest_ms: float
    shortest_rest_ms: float | None
    debounce_ms: float

    @property
    def fits(self) -> bool:
        """Whether the debounce is shorter than every rest that was recorded."""
        return self.shortest_rest_ms is None or self.debounce_ms < self.shortest_rest_ms


@takes(edges_ms=FINITE, quiet_ms=ABOVE_ZERO)
def bounce_of(edges_ms: Sequence[float], *, quiet_ms: float) -> Bounce:
    """Part edges into movements and propose a debounce time."""
    if not edges_ms:
        raise CalibrationError(
            "edges",
            got="none",
            allowed="the moments at which the input changed, ms",
            fix="Work the contact ten times while every change is recorded.",
        )
    bursts: list[Burst] = []
    for at in edges_ms:
        if bursts:
            last = bursts[-1]
            since = at - (last.at_ms + last.lasts_ms)
            if since < 0:
                raise CalibrationError(
                    "edges", got=f"{short(at)} ms after a later one", allowed="rising times"
                )
            if since <= quiet_ms:
                bursts[-1] = Burst(at_ms=last.at_ms, lasts_ms=at - last.at_ms, edges=last.edges + 1)
                continue
        bursts.append(Burst(at_ms=at, lasts_ms=0.0, edges=1))
    longest = max(burst.lasts_ms for burst in bursts)
    rests = [
        after.at_ms - (before.at_ms + before.lasts_ms)
        for before, after in itertools.pairwise(bursts)
    ]
    return Bounce(
        bursts=tuple(bursts),
        longest_ms=longest,
        shortest_rest_ms=min(rests, default=None),
        debounce_ms=max(STEP_MS, math.ceil(longest * MARGIN_1 / STEP_MS) * STEP_MS),
    )


def means_of(at_end: State, away: State) -> ContactMeans:
    """What closed means, from the contact seen at its end and away from it.

    `on` where closed is at the end. Raises `CalibrationError` where both are the same.
    """
    if at_end == away:
        raise CalibrationError(
            "away",
            got=f"{away} in both positions",
            allowed="one closed, one open",
            fix="A wire is off, the magnet is too far, or the input is held by its pull-up.",
        )
    return "on" if at_end == "closed" else "off"
