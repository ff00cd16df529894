"""How often the truth lies inside the U of a certificate: simulated calibrations by the product.

Each run draws a probe, its jars and what a budget states from the distributions that the budget
names, fits and signs as the bench does, then reads two new values at the middle and at both ends
of the range, one from drier and one from wetter. Run it as

    python -m benchmarks.coverage_of_certificates [RUNS]

The table of 100,000 runs a case stands in decision 21.
"""

import sys
from dataclasses import dataclass
from multiprocessing import Pool

import numpy as np

from aldea.core.calibrate.humidity import Conditions, humidity_line
from aldea.core.calibrate.pairs import Approach, Pair
from aldea.core.calibrate.salts import SALTS, salt_rh_pct

JARS = (
    "magnesium_chloride",
    "sodium_chloride",
    "magnesium_nitrate",
    "potassium_chloride",
    "potassium_carbonate",
)
TEMP_DEGC = 22.0
ROOM = Conditions(gradient_k=0.05, drift_rh_pct_per_year=0.1, resolution_rh_pct=0.1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """One kind of calibration: how many salts and readings, which ways, how wide apart."""

    salts: int
    readings: int
    ways: tuple[Approach, ...] = ("drier", "wetter")
    hysteresis_rh_pct: float = 0.5  # half the difference between the ways; 1.0 is assumed of one
    sigma_rh_pct: float = 0.5  # one reading's scatter
    points_rh_pct: float = 0.0  # how far points lie beside a line, one sigma

    @property
    def words(self) -> str:
        """The case as a row of the table names it."""
        ways = "both ways" if len(self.ways) == 2 else f"from {self.ways[0]} only"
        bent = f", points {self.points_rh_pct} beside" if self.points_rh_pct else ""
        return (
            f"{self.salts} salts, {self.readings} reading{'s' if self.readings > 1 else ''}, "
            f"{ways}, ±{self.hysteresis_rh_pct} %RH, σ {self.sigma_rh_pct}{bent}"
        )


CASES = (
    *(Case(salts=s, readings=r) for s in (3, 4, 5) for r in (1, 10)),
    *(Case(salts=s, readings=1, sigma_rh_pct=2.0) for s in (3, 4, 5)),
    *(Case(salts=s, readings=1, sigma_rh_pct=2.0, ways=("drier",)) for s in (3, 4, 5)),
    *(Case(salts=s, readings=r, points_rh_pct=1.5) for s in (3, 4, 5) for r in (1, 10)),
    *(
        Case(salts=s, readings=r, ways=("drier",), hysteresis_rh_pct=1.0)
        for s in (3, 4, 5)
        for r in (1, 10)
    ),
)


def covered(case: Case, runs: int, seed: int = 1) -> tuple[float, float]:
    """Share of new values inside U, in percent: at the middle, and at the worse of both ends."""
    chance = np.random.default_rng(seed)
    names = [name for name in SALTS if name in JARS[: case.salts]]
    table = [salt_rh_pct(name, TEMP_DEGC) for name in names]
    u_salt = [SALTS[name].expanded_uncertainty_rh_pct / 2 for name in names]
    inside = np.zeros(3)
    for _ in range(runs):
        # What the table is off by is common to all jars of its worst salt's size.
        off = chance.normal() * max(u_salt)
        beside = chance.normal(size=case.salts) * case.points_rh_pct
        pairs = [
            Pair(
                reference=rh, approach=way, temp_degc=TEMP_DEGC, medium=name,
                reading=rh + bend + _way(case, chance, way) + chance.normal() * case.sigma_rh_pct,
                reference_expanded=SALTS[name].expanded_uncertainty_rh_pct,
            )
            for name, rh, bend in zip(names, table, beside, strict=True)
            for way in case.ways
            for _ in range(case.readings)
        ]  # fmt: skip
        fit = humidity_line(pairs, ROOM)
        low, high = min(table), max(table)
        stated = {row.label: row for row in fit.budget.rows}
        for at, truth in enumerate((low, (low + high) / 2, high)):
            new = truth + chance.normal() * case.sigma_rh_pct
            new += case.hysteresis_rh_pct * chance.uniform(-1, 1)
            new += chance.normal() * case.points_rh_pct
            error = fit.line.at(new) - truth + off
            for label, row in stated.items():
                if label.startswith(("Salt to probe", "Drift", "Resolution")):
                    error += row.standard_uncertainty * np.sqrt(3) * chance.uniform(-1, 1)
            inside[at] += abs(error) <= fit.expanded_at(new)
    low_end, middle, high_end = 100 * inside / runs
    return float(middle), float(min(low_end, high_end))


def _way(case: Case, chance: np.random.Generator, way: Approach) -> float:
    """What a way adds to a reading: the same at each salt, or anywhere inside where it is one."""
    if len(case.ways) == 1:
        return 0.0
    return case.hysteresis_rh_pct * (-1 if way == "drier" else 1)


def _row(case: Case) -> str:
    middle, end = covered(case, RUNS)
    return f"{case.words:<70} {middle:6.1f} {end:6.1f}"


RUNS = int(sys.argv[1]) if __name__ == "__main__" and len(sys.argv) > 1 else 2_000

if __name__ == "__main__":
    print(f"{'case':<70} middle   ends   ({RUNS} runs)")
    with Pool() as pool:
        for line in pool.imap(_row, CASES):
            print(line, flush=True)
