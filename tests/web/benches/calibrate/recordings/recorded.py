"""What is typed at each recordings bench: the mill's recordings, and others made up for a test."""

import random

import numpy as np
from tests.web.pages import H

from aldea.demo.hand_recordings import hand_recordings

MILL = {(r.bench, r.subject): r for r in hand_recordings()}
THERMISTOR = "0,0\t32650\n25\t10000\n50\t3603"
ONE_BATH = "20.0\t20.31\n20.1\t20.39\n20,2\t20,52\n20.3\t20.60"
COMPARED = {"counts": "2506", "known_degc": "18,5", "expanded_k": "0.8"}
GAPS = "4 7 9 12 15 15 18 22 25 31 33 40 41 55 62 75 90 110 150 240"


def bench_at(key: str, subject: str) -> str:
    """The address of a recordings bench."""
    return f"{H}/recordings/{key}/{subject}"


def energies(seed: int, middle: float, rows: int = 120, gates: int = 8, mark: str = "\t") -> str:
    """Energies of a radar as a board would log them."""
    values = np.random.default_rng(seed).gamma(4.0, middle / 4.0, (rows, gates))
    return "\n".join(mark.join(f"{v:.1f}" for v in row) for row in values)


def dry_tape(seed: int, sd: float) -> str:
    """Sixty readings of a dry tape."""
    noise = random.Random(seed)
    return " ".join(str(round(noise.gauss(1960, sd))) for _ in range(60))


EMPTY, OCCUPIED = energies(1, 8), energies(2, 70)
QUIET, NOISY = dry_tape(3, 6), dry_tape(4, 60)
