"""Two sensors at a doorway: in or out from their order, and how often the count is wrong.

A is outside, B inside. Two ways: sensors that give a pulse each (an order within a longest gap),
and two beams that overlap while somebody passes (the cycle of their states; turning back counts
nothing). The number of people never falls below zero.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.errors import CalibrationError

Side = Literal["A", "B"]
Pulse = tuple[float, Side]
Beam = tuple[float, Side, int]
CYCLE = ((0, 0), (1, 0), (1, 1), (0, 1))  # (A, B) of an entry; the other way round for an exit


@dataclass(frozen=True, slots=True, kw_only=True)
class Count:
    """Who came in, who went out, how many are inside at the end."""

    entries: int
    exits: int
    inside: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A longest gap, s, what it counts, and how far it is from the truth in persons."""

    longest_gap_s: float
    count: Count
    wrong: int


def by_pulses(pulses: Sequence[Pulse], *, longest_gap_s: float, inside: int = 0) -> Count:
    """Count from two sensors that give one pulse each; the later of two on one side stands.

    Both sides at one instant tell no order: they count nothing, whichever line they stand on.
    """
    entries = exits = 0
    waiting: Pulse | None = None
    for at_s, together in itertools.groupby(pulses, key=lambda pulse: pulse[0]):
        sides = {side for _, side in together}
        if len(sides) > 1:
            waiting = None
            continue
        side = sides.pop()
        if waiting is not None and side != waiting[1] and at_s - waiting[0] <= longest_gap_s:
            if side == "B":
                entries, inside = entries + 1, inside + 1
            else:
                exits, inside = exits + 1, max(0, inside - 1)
            waiting = None
        else:
            waiting = (at_s, side)
    return Count(entries=entries, exits=exits, inside=inside)


def by_beams(beams: Sequence[Beam], *, inside: int = 0) -> Count:
    """Count from two beams (1 = interrupted): a whole turn of the cycle is one person.

    Both beams that change at one instant tell no way: such a passage counts nothing.
    """
    entries = exits = turned = 0
    state, lost = (0, 0), False
    for _at, together in itertools.groupby(beams, key=lambda beam: beam[0]):
        after = state
        for _, side, level in together:
            after = (level, after[1]) if side == "A" else (after[0], level)
        step = (CYCLE.index(after) - CYCLE.index(state)) % 4
        lost = lost or step == 2
        turned += {0: 0, 1: 1, 3: -1}.get(step, 0)
        state = after
        if state == (0, 0):
            if turned == 4 and not lost:
                entries, inside = entries + 1, inside + 1
            elif turned == -4 and not lost:
                exits, inside = exits + 1, max(0, inside - 1)
            turned, lost = 0, False
    return Count(entries=entries, exits=exits, inside=inside)


def in_order(times_s: Sequence[float]) -> None:
    """Refuse a recording whose clock runs backwards."""
    for before, after in itertools.pairwise(times_s):
        if after < before:
            raise CalibrationError(
                "activations",
                got=f"{after:g} s after {before:g} s",
                allowed="times in rising order",
                mend="Two recordings in one? Give them one at a time.",
            )


def wrong_persons(count: Count, *, entries: int, exits: int) -> int:
    """How many persons a count is wrong by: too many or too few in, and out."""
    return abs(count.entries - entries) + abs(count.exits - exits)


def try_gaps(
    pulses: Sequence[Pulse], *, entries: int, exits: int, gaps_s: Sequence[float]
) -> tuple[tuple[Tried, ...], Tried]:
    """Every longest gap tried against what a person counted; the middle of the best ones."""
    rows = tuple(
        Tried(
            longest_gap_s=gap,
            count=(count := by_pulses(pulses, longest_gap_s=gap)),
            wrong=wrong_persons(count, entries=entries, exits=exits),
        )
        for gap in gaps_s
    )
    least = min(row.wrong for row in rows)
    first = next(i for i, row in enumerate(rows) if row.wrong == least)
    last = first
    while last + 1 < len(rows) and rows[last + 1].wrong == least:
        last += 1
    return rows, rows[(first + last) // 2]


def turned_round(pulses: Sequence[Pulse]) -> tuple[Pulse, ...]:
    """The same recording with the two sensors' names changed over."""
    return tuple((at, "B" if side == "A" else "A") for at, side in pulses)
