"""A leak tape's dry baseline, its states in counts, and how often noise alone raises an alarm.

Gaussian readings are assumed. Real noise hangs together over time: where the recording is long
enough its autocorrelation of one step counts (a Markov chain), else readings are taken as
independent, and the rate of false alarms is a lower bound. Runs: Feller, An Introduction to
Probability Theory 1, XIII.7. Averages of correlated samples: Bayley and Hammersley, J. R. Stat.
Soc. 8 (1946). Outliers: Hampel, J. Am. Stat. Assoc. 69 (1974).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure
from aldea.core.base.limits import ABOVE_ZERO, FINITE, ONE_OR_MORE, SHARE, ZERO_OR_MORE, takes
from aldea.core.physics.divider import Divider

FEWEST_READINGS = 10
LONG_ENOUGH = 30  # for an autocorrelation known to about ±0.2
OUTLIER_SIGMAS, LEAST_SPREAD = 5.0, 0.5  # half a count: readings are whole
MOST_SCATTER_1, MOST_DRIFT_1 = 0.05, 0.02
SECONDS_A_YEAR = 365.25 * 86_400
DAYS_A_YEAR = 365.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Baseline:
    """The dry tape: mean of `count` readings, and the standard deviation of one; counts.

    `drift_1` is how far its last third lies from its first, as a share of the mean; `together_1`
    the autocorrelation of one step, None where the recording is too short to tell.
    """

    count: int
    mean: float
    sd: float
    drift_1: float = 0.0
    together_1: float | None = None

    def reading_sd(self, samples: int, *, averaged: bool) -> float:
        """Standard deviation of one reading, counts.

        Recorded readings that are averages already are such readings. Of single samples `samples`
        are averaged, which takes less away where they hang together.
        """
        if averaged:
            return self.sd
        r = max(0.0, self.together_1 or 0.0)
        grown = 1 + 2 * sum((1 - k / samples) * r**k for k in range(1, samples))
        return self.sd * math.sqrt(grown / samples)


@dataclass(frozen=True, slots=True, kw_only=True)
class Watch:
    """How the tape is read: samples averaged, readings in a row that trip, seconds between."""

    samples: int = 4
    in_a_row: int = 3
    interval_s: float = 60.0
    sample_ms: float = 2.0

    @property
    def readings_a_year(self) -> int:
        """Readings in 365.25 days."""
        return round(SECONDS_A_YEAR / self.interval_s)

    @property
    def slowest_s(self) -> float:
        """The longest time from wet to the alarm, s: one interval missed, then K in a row."""
        return self.in_a_row * self.interval_s + self.samples * self.sample_ms / 1000

    @property
    def share_fed_1(self) -> float:
        """Share of the time during which current flows through a pulsed tape."""
        return min(1.0, self.samples * self.sample_ms / 1000 / self.interval_s)


def baseline_of(readings: Sequence[float]) -> Baseline:
    """Mean and scatter of a dry tape; raises `CalibrationError` under ten readings."""
    values = np.array([value for value in readings if math.isfinite(value)])
    if len(values) < FEWEST_READINGS:
        raise CalibrationError(
            "readings",
            got=f"{len(values)} readings",
            allowed=f"{FEWEST_READINGS} or more of a dry tape",
            fix="Let the board read the dry tape for a while; the noise is measured from them.",
        )
    third = len(values) // 3
    left = values - values.mean()
    power = float((left**2).sum())
    together = float((left[1:] * left[:-1]).sum()) / power if power else 0.0
    mean = float(values.mean())
    drift = float(values[-third:].mean() - values[:third].mean())
    return Baseline(
        count=len(values),
        mean=mean,
        sd=float(values.std(ddof=1)) or 1 / 12**0.5,
        drift_1=drift / mean if mean else 0.0,
        together_1=together if len(values) >= LONG_ENOUGH else None,
    )


def outliers_of(readings: Sequence[float]) -> tuple[int, ...]:
    """Which readings lie further from the median than five robust standard deviations, from 0."""
    values = np.array(readings, dtype=float)
    if len(values) < FEWEST_READINGS:
        return ()
    middle = float(np.median(values))
    spread = 1.4826 * float(np.median(np.abs(values - middle)))
    far = np.abs(values - middle) > OUTLIER_SIGMAS * max(spread, LEAST_SPREAD)
    return tuple(int(i) for i in np.flatnonzero(far))


def check_steady(baseline: Baseline) -> None:
    """Raise `CalibrationError` where a baseline scatters or still drifts too far to be one."""
    scatter_1 = baseline.sd / baseline.mean if baseline.mean > 0 else math.inf
    if scatter_1 > MOST_SCATTER_1:
        raise CalibrationError(
            "readings",
            got=f"a scatter of {figure(100 * scatter_1, 0)} % of the mean",
            allowed=f"up to {figure(100 * MOST_SCATTER_1, 0)} %",
            fix="A loose contact, or drops that come and go: dry it and look at its plug.",
        )
    sure_1 = 4 * baseline.sd / math.sqrt(baseline.count / 3) / baseline.mean
    if abs(baseline.drift_1) > max(MOST_DRIFT_1, sure_1):
        raise CalibrationError(
            "readings",
            got=f"a drift of {figure(100 * baseline.drift_1)} % over the recording",
            allowed=f"up to {figure(100 * MOST_DRIFT_1, 0)} %",
            fix="It is still drying, or getting wet: wait until it stands still.",
        )


def water_ohm(divider: Divider, baseline_counts: float, counts: float) -> float | None:
    """Resistance of the water alone at a reading, Ω: the whole tape's less the dry tape's."""
    whole, dry = divider.sensor_ohm(counts), divider.sensor_ohm(baseline_counts)
    if whole is None or whole <= 0:
        return None
    conductance = 1 / whole - (1 / dry if dry else 0.0)
    return 1 / conductance if conductance > 0 else None


@takes(margin=FINITE, sd=ABOVE_ZERO, samples=ONE_OR_MORE)
def exceeds_1(margin: float, sd: float, samples: int) -> float:
    """Probability that one averaged dry reading lies beyond a margin: Q(margin √N / σ)."""
    return 0.5 * math.erfc(margin * math.sqrt(samples) / sd / math.sqrt(2))


@takes(p_1=SHARE, in_a_row=ONE_OR_MORE, readings=ZERO_OR_MORE, again_1=SHARE)
def run_1(p_1: float, in_a_row: int, readings: int, again_1: float | None = None) -> float:
    """Probability of at least one run of K in n readings (exact, Markov chain).

    `again_1` is the probability that a reading lies beyond where the one before did; without it
    readings are independent.
    """
    step = np.zeros((in_a_row + 1, in_a_row + 1))
    for state in range(in_a_row):
        p = p_1 if state == 0 or again_1 is None else again_1
        step[state, 0], step[state, state + 1] = 1 - p, p
    step[in_a_row, in_a_row] = 1.0
    return float(np.linalg.matrix_power(step, readings)[0, in_a_row])


@takes(p_1=SHARE, in_a_row=ONE_OR_MORE, readings=ZERO_OR_MORE, again_1=SHARE)
def starts_a_year(p_1: float, in_a_row: int, readings: int, again_1: float | None = None) -> float:
    """Expected number of runs that reach K, one alarm a run: n (1 − p) p^K; p once where again."""
    again = p_1 if again_1 is None else again_1
    return readings * (1 - p_1) * p_1 * again ** (in_a_row - 1)


@takes(margin=FINITE, sd=ABOVE_ZERO)
def again_1(margin: float, sd: float, together_1: float) -> float:
    """Probability that a reading lies beyond a margin where the one before did.

    Two standard normal readings with a correlation: ∫ φ(x) Q((m − r x)/√(1 − r²)) dx / Q(m) from m.
    """
    from scipy.integrate import quad  # noqa: PLC0415
    from scipy.special import log_ndtr, ndtr  # noqa: PLC0415

    m, r = margin / sd, min(max(together_1, 0.0), 0.999)
    log_q = float(log_ndtr(-m))

    def share(x: float) -> float:
        weight = math.exp(-x * x / 2 - 0.5 * math.log(2 * math.pi) - log_q)
        return weight * float(ndtr((r * x - m) / math.sqrt(1 - r * r)))

    return min(1.0, float(quad(share, m, m + 12.0, limit=200)[0]))


def margin_for(sd: float, watch: Watch, target_1: float) -> float:
    """The margin at which at least one false alarm a year has a wanted probability, counts.

    `target_1` lies between 1e-9 and 0.99.
    """
    from scipy.optimize import brentq  # noqa: PLC0415  a third of a second, for this alone
    from scipy.special import ndtri  # noqa: PLC0415

    def off(log_p: float) -> float:
        return run_1(10**log_p, watch.in_a_row, watch.readings_a_year) - target_1

    log_p = float(brentq(off, -15.0, math.log10(0.999), xtol=1e-9))
    return -float(ndtri(10**log_p)) * sd / math.sqrt(watch.samples)


@takes(slots=ONE_OR_MORE, endurance=ABOVE_ZERO, writes_a_day=ZERO_OR_MORE)
def cell_years(slots: int, endurance: float, writes_a_day: float) -> float:
    """How long a ring of non-volatile cells lasts, years: N · endurance / (writes · 365.25).

    Infinite where nothing is written.
    """
    return slots * endurance / (writes_a_day * DAYS_A_YEAR) if writes_a_day > 0 else math.inf
