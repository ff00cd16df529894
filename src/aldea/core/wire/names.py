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
    sounds = {name: jellyfish.metaphone(name) for name in names}
    for first, second in combinations(names, 2):
        a, b = first.casefold().strip(), second.casefold().strip()
        digits_a = "".join(c for c in a if c.isdigit())
        digits_b = "".join(c for c in b if c.isdigit())
        if a == b:
            found.append(Alike(first=first, second=second, how="are the same word"))
        elif digits_a != digits_b:
            continue
        elif sounds[first] and sounds[first] == sounds[second]:
            found.append(Alike(first=first, second=second, how="sound the same"))
        elif jellyfish.jaro_winkler_similarity(a, b) >= ALIKE_1 and abs(len(a) - len(b)) <= 1:
            found.append(Alike(first=first, second=second, how="differ by a letter"))
    return found


def spoken_names(plan: Plan) -> list[str]:
    """Every name that somebody may say or pick: loads, controls, places that are not private."""
    return [
        *(load.name for load in plan.loads),
        *(control.name for control in plan.controls),
        *(place.name for place in plan.places if place.kind != "private"),
    ]
