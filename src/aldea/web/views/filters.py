"""Filters beside one another on a recorded trace: noise left, lag, spikes, and the line itself."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from aldea.core.rehearse.trace import Trace
from aldea.core.sensing.filters import (
    FloatArray,
    IntArray,
    alpha_of,
    exponential,
    ground_of,
    median_step_readings,
    moving_mean,
    moving_median,
    ramp_lag_s,
    step_readings,
    tried,
)
from aldea.core.words.figures import figure, short
from aldea.core.words.times import span
from aldea.core.words.verdicts import Verdict
from aldea.web.views.plot import Scale, trace_path

WIDTH, HEIGHT, LEFT = 880, 240, 46
MOST_READINGS = 100_000
SHARE_1 = 0.9
NAMES = {"mean": "mean", "median": "median", "exponential": "exponential"}


@dataclass(frozen=True, slots=True, kw_only=True)
class FilterRow:
    """One filter: what is left of the noise, how late it is, how many spikes still stand out."""

    key: str
    name: str
    noise: str
    share: str
    step: str
    ramp: str
    passed: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FiltersView:
    """Everything that the page shows of a trace."""

    verdict: Verdict
    rows: tuple[FilterRow, ...]
    raw_path: str
    filtered_path: str
    grid: tuple[tuple[float, str], ...]
    count: int
    interval: str


def make_filters_view(
    name: str, unit: str, trace: Trace, *, window: int, tau_s: float, drawn: str
) -> FiltersView | None:
    """Try all three on the newest readings of a trace; None where there are too few."""
    good = np.isfinite(trace.raw)
    t_ms, raw = trace.t_ms[good][-MOST_READINGS:], trace.raw[good][-MOST_READINGS:]
    if len(raw) < 2 * window + 3:
        return None
    t_s = (t_ms - t_ms[0]) / 1000
    interval = float(np.median(np.diff(t_s)))
    ground = ground_of(raw)
    alpha = alpha_of(interval, tau_s)
    filters: dict[str, Callable[[FloatArray], FloatArray]] = {
        "mean": lambda values: moving_mean(values, window),
        "median": lambda values: moving_median(values, window),
        "exponential": lambda values: exponential(t_s, values, tau_s),
    }
    steps = {
        "mean": step_readings(share=SHARE_1, window=window),
        "median": median_step_readings(window),
        "exponential": step_readings(share=SHARE_1, alpha=alpha),
    }
    ramps = {
        "mean": ramp_lag_s(interval, window=window),
        "median": ramp_lag_s(interval, window=window),
        "exponential": ramp_lag_s(interval, alpha=alpha),
    }
    spikes = int(ground.spikes.sum())
    rows = []
    for key, run in filters.items():
        found = tried(run, ground, max(1, min(window, 9)))
        rows.append(
            FilterRow(
                key=key,
                name=f"{NAMES[key]} of {window}" if key != "exponential" else f"τ {short(tau_s)} s",
                noise=f"{figure(found.noise, 3)} {unit}",
                share=f"{figure(100 * found.noise / ground.noise, 0)} %" if ground.noise else "–",
                step=span(steps[key] * interval),
                ramp=span(ramps[key]),
                passed=f"{found.passed} of {spikes}",
            )
        )
    return _drawn(name, unit, t_ms, raw, filters[drawn](raw), rows, ground.noise, spikes, interval)


def _drawn(
    name: str,
    unit: str,
    t_ms: IntArray,
    raw: FloatArray,
    filtered: FloatArray,
    rows: list[FilterRow],
    noise: float,
    spikes: int,
    interval: float,
) -> FiltersView:
    low, high = float(raw.min()), float(raw.max())
    pad = max(0.05 * (high - low), 1e-6)
    y = Scale(low=low - pad, high=high + pad, pixel_low=HEIGHT - 4, pixel_high=4)
    start, end = int(t_ms[0]), int(t_ms[-1]) + 1
    width = WIDTH - LEFT - 8

    def path(values: FloatArray) -> str:
        return trace_path(
            t_ms,
            values,
            start_ms=start,
            end_ms=end,
            width=width,
            y=y,
            gap_ms=round(interval * 6000),
        )

    steps = np.linspace(low, high, 5).tolist()
    return FiltersView(
        verdict=Verdict(
            mark="holds" if not spikes else "owed",
            sentence=f"{name} scatters by {figure(noise, 3)} {unit} and has "
            f"{spikes or 'no'} spike{'' if spikes == 1 else 's'} here.",
            rest="A median stops a lone spike; a mean and a memory only spread it."
            if spikes
            else "Every filter pays for quiet with lateness.",
        ),
        rows=tuple(rows),
        raw_path=path(raw),
        filtered_path=path(filtered),
        grid=tuple((round(y(value), 1), figure(value, 1)) for value in steps),
        count=len(raw),
        interval=span(interval),
    )
