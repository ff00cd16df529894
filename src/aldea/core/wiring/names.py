"""Names that are equal, or that a voice service would hear as the same word.

jellyfish supplies metaphone (sound) and Jaro-Winkler (letters).
"""

from dataclasses import dataclass
from itertools import combinations

import jellyfish

from aldea.core.plan.document import Plan

ALIKE_1 = 0.94


@dataclass(frozen=True, slots=True, kw_only=True)
class Alike:
    """Two names and what makes them alike."""

    first: str
    second: str
    how: str


def alike_names(names: list[str]) -> list[Alike]:
    """Every pair of names that are equal, sound alike, or differ in a letter."""
    found = []
    rows = [
        (
            name,
            name.casefold().strip(),
            "".join(c for c in name if c.isdigit()),
            jellyfish.metaphone(name),
        )
        for name in names
    ]
    for (first, a, digits_a, sound_a), (second, b, digits_b, sound_b) in combinations(rows, 2):
        if a == b:
            found.append(Alike(first=first, second=second, how="are the same word"))
        elif digits_a != digits_b:
            continue
        elif sound_a and sound_a == sound_b:
            found.append(Alike(first=first, second=second, how="sound the same"))
        elif abs(len(a) - len(b)) <= 1 and jellyfish.jaro_winkler_similarity(a, b) >= ALIKE_1:
            found.append(Alike(first=first, second=second, how="differ by a letter"))
    return found


def spoken_names(plan: Plan) -> list[str]:
    """Every name that somebody may say or pick: loads, controls, places that are not private."""
    return [
        *(load.name for load in plan.loads),
        *(control.name for control in plan.controls),
        *(place.name for place in plan.places if place.kind != "private"),
    ]
