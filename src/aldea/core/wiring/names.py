"""Names that are equal, or that a voice service would hear as the same word.

jellyfish supplies metaphone (sound) and Jaro-Winkler (letters).
"""

import re
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import jellyfish

from aldea.core.plan.document import Plan

ALIKE_1 = 0.94
MOST_TOLD = 4
NUMBERS = {
    word: str(number)
    for number, word in enumerate(
        [
            "zero",
            "one",
            "two",
            "three",
            "four",
            "five",
            "six",
            "seven",
            "eight",
            "nine",
            "ten",
            "eleven",
            "twelve",
        ]
    )
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Alike:
    """Two names or more, and what makes them alike."""

    names: tuple[str, ...]
    how: str

    @property
    def sentence(self) -> str:
        """As it is told; of a long row the first and the last."""
        quoted = [f"“{name}”" for name in self.names]
        if len(quoted) > MOST_TOLD:
            quoted = [quoted[0], f"{len(quoted) - 2} more", quoted[-1]]
        return f"{', '.join(quoted[:-1])} and {quoted[-1]} {self.how}."


def alike_names(names: list[str]) -> list[Alike]:
    """Names that are equal, sound alike, or differ in a letter; each row of them once."""
    rows: list[Alike] = []
    for first, second, how in _pairs(names):
        met = [row for row in rows if row.how == how and {first, second} & {*row.names}]
        known = {name for row in met for name in row.names} | {first, second}
        rows = [row for row in rows if row not in met]
        rows.append(Alike(names=tuple(name for name in names if name in known), how=how))
    return rows


def _pairs(names: list[str]) -> Iterator[tuple[str, str, str]]:
    sounds = [_sounds_of(name) for name in names]
    for i, j in _comparable(sounds):
        first, second = names[i], names[j]
        (a, digits_a, sound_a), (b, digits_b, sound_b) = sounds[i], sounds[j]
        if a == b:
            same = first.casefold().strip() == second.casefold().strip()
            yield first, second, "are the same word" if same else "are the same when they are said"
        elif digits_a != digits_b:
            yield first, second, "differ by a number that one of them lacks"
        elif sound_a and sound_a == sound_b:
            yield first, second, "sound the same"
        elif abs(len(a) - len(b)) <= 1 and jellyfish.jaro_winkler_similarity(a, b) >= ALIKE_1:
            yield first, second, "differ by a letter"


def _comparable(sounds: list[tuple[str, str, str]]) -> list[tuple[int, int]]:
    """Pairs with the same digits, and those of which one has a number more behind.

    A thousand numbered names are a thousand short lists so, and not half a million pairs.
    """
    by_digits, by_said = defaultdict(list), defaultdict(list)
    for index, (names, digits, _) in enumerate(sounds):
        by_digits[digits].append(index)
        by_said[names].append(index)
    pairs = {pair for alike in by_digits.values() for pair in combinations(alike, 2)}
    for index, (names, _, _) in enumerate(sounds):
        base, _, number = names.rpartition(" ")
        if number.isdigit():
            pairs |= {(min(index, other), max(index, other)) for other in by_said.get(base, ())}
    return sorted(pairs)


def _sounds_of(name: str) -> tuple[str, str, str]:
    """A name as it is heard: numbers as digits, its digits alone, its sound."""
    words = re.sub(r"[^\w ]+", " ", name.casefold()).split()
    sound = " ".join(NUMBERS.get(word, word) for word in words)
    return sound, "".join(c for c in sound if c.isdigit()), jellyfish.metaphone(sound)


def spoken_names(plan: Plan) -> list[str]:
    """Every name that somebody may say or pick: loads, controls, places that are not private."""
    return [
        *(load.spoken or load.name for load in plan.loads),
        *(control.name for control in plan.controls),
        *(place.name for place in plan.places if place.kind != "private"),
    ]
