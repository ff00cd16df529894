"""Two sensors at a doorway: in or out from their order, and how often the count is wrong.

A is outside, B inside. Two ways: sensors that give a pulse each (an order within a longest gap),
and two beams that overlap while somebody passes (the cycle of their states; turning back counts
nothing). The number of people never falls below zero.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short
from aldea.core.calibrate.share import Share

Side = Literal["A", "B"]
Pulse = tuple[float, Side]
Beam = tuple[float, Side, int]
Passage = tuple[float, int]  # when, and which way
IN, OUT = 1, -1
CYCLE = ((0, 0), (1, 0), (1, 1), (0, 1))  # (A, B) of an entry; the other way round for an exit


@dataclass(frozen=True, slots=True, kw_only=True)
class Count:
    """Who came in, who went out, how many are inside at the end."""

    entries: int
    exits: int
    inside: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """Counted passages against persons who were seen: who was missed, and who was not there."""

    persons: int
    missed: tuple[Passage, ...]
    extra: tuple[Passage, ...]

    @property
    def wrong(self) -> int:
        """Errors, one by one."""
        return len(self.missed) + len(self.extra)

    @property
    def share(self) -> Share:
        """Missed persons as a share of all, with its bound."""
        return Share(count=len(self.missed), of=self.persons)


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
    return counted(passages_by_pulses(pulses, longest_gap_s=longest_gap_s), inside=inside)


def by_beams(beams: Sequence[Beam], *, inside: int = 0) -> Count:
    """Count from two beams (1 = interrupted): a whole turn of the cycle is one person.

    Both beams that change at one instant tell no way: such a passage counts nothing.
    """
    return counted(passages_by_beams(beams), inside=inside)


def counted(passages: Sequence[Passage], *, inside: int = 0) -> Count:
    """Passages summed up; the number inside never falls below zero."""
    for _, way in passages:
        inside = max(0, inside + way)
    entries = sum(way == IN for _, way in passages)
    return Count(entries=entries, exits=len(passages) - entries, inside=inside)


def passages_by_pulses(pulses: Sequence[Pulse], *, longest_gap_s: float) -> tuple[Passage, ...]:
    """When somebody passed and which way, from two sensors that give one pulse each."""
    passages: list[Passage] = []
    waiting: Pulse | None = None
    for at_s, together in itertools.groupby(pulses, key=lambda pulse: pulse[0]):
        sides = {side for _, side in together}
        if len(sides) > 1:
            waiting = None
            continue
        side = sides.pop()
        if waiting is not None and side != waiting[1] and at_s - waiting[0] <= longest_gap_s:
            passages.append((at_s, IN if side == "B" else OUT))
            waiting = None
        else:
            waiting = (at_s, side)
    return tuple(passages)


def passages_by_beams(beams: Sequence[Beam]) -> tuple[Passage, ...]:
    """When somebody passed and which way, from two beams."""
    passages: list[Passage] = []
    turned = 0
    state, lost = (0, 0), False
    for at_s, together in itertools.groupby(beams, key=lambda beam: beam[0]):
        after = state
        for _, side, level in together:
            after = (level, after[1]) if side == "A" else (after[0], level)
        step = (CYCLE.index(after) - CYCLE.index(state)) % 4
        lost = lost or step == 2
        turned += {0: 0, 1: 1, 3: -1}.get(step, 0)
        state = after
        if state == (0, 0):
            if abs(turned) == 4 and not lost:
                passages.append((at_s, IN if turned > 0 else OUT))
            turned, lost = 0, False
    return tuple(passages)


def compared(
    passages: Sequence[Passage], persons: Sequence[Passage], *, within_s: float
) -> Compared:
    """Person by person: who was missed, who was counted and was not there.

    Each person is found in the nearest passage the same way that is not another's, within a time.
    Totals hide it where one missed and one too many make up for each other.
    """
    left = list(passages)
    missed: list[Passage] = []
    for at_s, way in sorted(persons):
        near = [p for p in left if p[1] == way and abs(p[0] - at_s) <= within_s]
        if near:
            left.remove(min(near, key=lambda p: abs(p[0] - at_s)))
        else:
            missed.append((at_s, way))
    return Compared(persons=len(persons), missed=tuple(missed), extra=tuple(left))


def tried_on_others(
    pulses: Sequence[Pulse],
    persons: Sequence[Passage],
    *,
    gaps_s: Sequence[float],
    within_s: float,
) -> tuple[float, Compared]:
    """A longest gap set by the first half of the persons, and what it does with the second."""
    ordered = sorted(persons)
    half = len(ordered) // 2
    middle_s = (ordered[half - 1][0] + ordered[half][0]) / 2
    first = [p for p in pulses if p[0] < middle_s]
    wrong = [
        compared(
            passages_by_pulses(first, longest_gap_s=gap), ordered[:half], within_s=within_s
        ).wrong
        for gap in gaps_s
    ]
    best = [gap for gap, count in zip(gaps_s, wrong, strict=True) if count == min(wrong)]
    chosen = best[len(best) // 2]
    rest = [p for p in pulses if p[0] >= middle_s]
    on_others = passages_by_pulses(rest, longest_gap_s=chosen)
    return chosen, compared(on_others, ordered[half:], within_s=within_s)


def in_order(times_s: Sequence[float]) -> None:
    """Refuse a recording whose clock runs backwards."""
    for before, after in itertools.pairwise(times_s):
        if after < before:
            raise CalibrationError(
                "activations",
                got=f"{short(after)} s after {short(before)} s",
                allowed="times in rising order",
                fix="Two recordings in one? Give them one at a time.",
            )


def wrong_in_total(passages: Sequence[Passage], *, entries: int, exits: int) -> int:
    """How many persons a count is wrong by in total: too many or too few in, and out."""
    count = counted(passages)
    return abs(count.entries - entries) + abs(count.exits - exits)


def try_gaps(
    pulses: Sequence[Pulse],
    *,
    wrong_of: Callable[[Sequence[Passage]], int],
    gaps_s: Sequence[float],
) -> tuple[tuple[Tried, ...], Tried]:
    """Every longest gap tried, and the middle of the best ones.

    `wrong_of` says how many persons some passages are wrong by: in total, or one by one.
    """
    rows = []
    for gap in gaps_s:
        passages = passages_by_pulses(pulses, longest_gap_s=gap)
        rows.append(Tried(longest_gap_s=gap, count=counted(passages), wrong=wrong_of(passages)))
    least = min(row.wrong for row in rows)
    first = next(i for i, row in enumerate(rows) if row.wrong == least)
    last = first
    while last + 1 < len(rows) and rows[last + 1].wrong == least:
        last += 1
    return tuple(rows), rows[(first + last) // 2]


def turned_round(pulses: Sequence[Pulse]) -> tuple[Pulse, ...]:
    """The same recording with the two sensors' names changed over."""
    return tuple((at, "B" if side == "A" else "A") for at, side in pulses)
