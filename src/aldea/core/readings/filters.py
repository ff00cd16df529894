"""Filters tried on a recorded trace: mean, median, exponential; noise left, lag, spikes passed.

While a window is not yet full it is as long as there are readings. The exponential filter takes the
time between readings into account: α = 1 − exp(−Δt/τ), applied over the interval that ends with the
reading (the same that the engine runs).
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import BoolArray, FloatArray
from aldea.core.base.errors import InputError
from aldea.core.base.figures import short

LONGEST_WINDOW = 61
TREND_WINDOW = 61
MOST_AGE = 500.0  # e to that is a number, and so is one over it
SPIKE_SIGMA, PASSED_SIGMA = 6.0, 3.0
MAD_TO_SIGMA = 1.4826  # of a normal distribution


def _window(window: int) -> None:
    if not 1 <= window <= LONGEST_WINDOW:
        raise InputError("window", got=str(window), allowed=f"1 to {LONGEST_WINDOW} readings")


def moving_mean(values: FloatArray, window: int) -> FloatArray:
    """Mean of the last `window` readings, shape (n,); of all there are at the start."""
    _window(window)
    sums = np.concatenate(([0.0], np.cumsum(values)))
    ends = np.arange(1, len(values) + 1)
    starts = np.maximum(0, ends - window)
    means: FloatArray = (sums[ends] - sums[starts]) / (ends - starts)
    return means


def moving_median(values: FloatArray, window: int) -> FloatArray:
    """Median of the last `window` readings; with an even count the mean of the two middle ones."""
    _window(window)
    out = np.empty(len(values))
    for end in range(1, min(window, len(values) + 1)):
        out[end - 1] = np.median(values[:end])
    if len(values) >= window:
        out[window - 1 :] = _full_medians(values, window)
    return out


def _full_medians(values: FloatArray, window: int) -> FloatArray:
    """Median of every full window, shape (n − window + 1,)."""
    if window % 2 == 0:
        windows = np.lib.stride_tricks.sliding_window_view(values, window)
        evens: FloatArray = np.median(windows, axis=1)
        return evens
    from scipy.ndimage import median_filter  # noqa: PLC0415  a tenth of a second to load

    half = window // 2
    centred: FloatArray = median_filter(values, size=window, mode="nearest")
    return centred[half : len(values) - half]


def exponential(t_s: FloatArray, values: FloatArray, tau_s: float) -> FloatArray:
    """Exponential memory of `tau_s` seconds over readings at any times, shape (n,)."""
    if not tau_s > 0:
        raise InputError("tau", got=f"{short(tau_s)} s", allowed="above 0")
    if not len(values):
        return np.empty(0)
    steps = np.diff(t_s) / tau_s
    shares = -np.expm1(-steps)
    # y_i = e^(−a_i) (y_0 + Σ share_j value_j e^(a_j)), a the time so far in τ: a span at a time, so
    # that e^a stays a number.
    ages = np.concatenate(([0.0], np.cumsum(steps)))
    out = np.empty(len(values))
    now, first = float(values[0]), 0
    out[0] = now
    while first < len(values) - 1:
        end = int(np.searchsorted(ages, ages[first] + MOST_AGE, side="right"))
        end = max(end, first + 2)
        age = ages[first + 1 : end] - ages[first]
        fed = shares[first : end - 1] * values[first + 1 : end]
        if len(age) == 1:  # a pause so long that nothing of before is left, or nearly so
            out[first + 1] = now * math.exp(-age[0]) + fed[0]
        else:
            out[first + 1 : end] = np.exp(-age) * (now + np.cumsum(fed * np.exp(age)))
        first, now = end - 1, float(out[end - 1])
    return out


def alpha_of(interval_s: float, tau_s: float) -> float:
    """Share of a new reading: 1 − exp(−Δt/τ)."""
    return 1 - math.exp(-interval_s / tau_s)


def step_readings(*, share: float, window: int | None = None, alpha: float | None = None) -> int:
    """Readings until a share of a step has come through: a mean of a window, or exponential."""
    if alpha is not None:
        return math.ceil(math.log(1 - share) / math.log(1 - alpha) - 1e-9)
    return math.ceil(share * (window or 1) - 1e-9)


def median_step_readings(window: int) -> int:
    """Readings until a median follows a step, all at once: more than half the window."""
    return (window + 1) // 2 if window % 2 else window // 2 + 1


def ramp_lag_s(
    interval_s: float, *, window: int | None = None, alpha: float | None = None
) -> float:
    """How far a filter lags behind a ramp, s: (N − 1)/2 Δt, or (1 − α)/α Δt."""
    if alpha is not None:
        return (1 - alpha) / alpha * interval_s
    return ((window or 1) - 1) / 2 * interval_s


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """What a filter does to a trace, in its unit: noise left, spikes among how many passed."""

    noise: float
    passed: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What stands above the slow trend of a trace: the rest, its noise (σ), which are spikes."""

    rest: FloatArray
    noise: float
    spikes: BoolArray


def ground_of(values: FloatArray) -> Ground:
    """Part a trace into a slow trend (centred median, then mean), noise and spikes.

    A spike lies beyond six robust σ. What is left above the trend is what a filter works on: the
    trend itself only comes later, and that is told as lag.
    """
    window = max(1, min(TREND_WINDOW, len(values) - (1 - len(values) % 2)))
    half = window // 2
    slow = _full_medians(np.pad(values, half, mode="edge"), window)
    trend = moving_mean(np.pad(slow, half, mode="edge"), window)[2 * half :]
    rest = values - trend
    robust = MAD_TO_SIGMA * float(np.median(np.abs(rest - np.median(rest))))
    spikes = np.abs(rest) > SPIKE_SIGMA * max(robust, float(np.std(rest)) / SPIKE_SIGMA, 1e-12)
    return Ground(rest=rest, noise=float(np.std(rest[~spikes])), spikes=spikes)


def tried(run: Callable[[FloatArray], FloatArray], ground: Ground, reach: int) -> Tried:
    """Noise left by a filter, and how many spikes still stand out of it afterwards.

    A spike passes where the output leaves the rest by three σ within `reach` readings of it.
    """
    quiet = run(np.where(ground.spikes, 0.0, ground.rest))
    if not ground.spikes.any():
        return Tried(noise=float(np.std(quiet)), passed=0)
    standing = np.abs(run(ground.rest)) > PASSED_SIGMA * max(ground.noise, 1e-12)
    stands = np.append(np.flatnonzero(standing), len(standing) + reach)
    places = np.flatnonzero(ground.spikes)
    following = stands[np.searchsorted(stands, places)]
    return Tried(noise=float(np.std(quiet)), passed=int(np.sum(following < places + reach)))
