"""Thirty recorded days of Molino Alto, from a seeded generator: the same every time.

A wet mill wall, laundry days, outside weather and the dehumidifier on its own coarse knob make
the drying room's humidity; the probe lags, errs, adds noise and rounds. The log has the faults of a
real one: gaps, a power cut, single readings lost, an hour in which the probe was stuck.
The rest of the house runs under its first revision (`mill_days`).
"""

from dataclasses import dataclass

import numpy as np

from aldea.core.base.instants import ms_of
from aldea.core.physics.moist_air import absolute_humidity_g_per_m3
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.plants.closed_loop import Course
from aldea.demo.kept_days import kept_days
from aldea.demo.mill import NOW
from aldea.demo.mill_days import Weather, house_course, house_days

SEED = 20251113
DAYS = 30
STEP_S = 10
END_MS = ms_of(NOW)
START_MS = END_MS - DAYS * 86_400_000

# The probe's own error: what the two salts will find.
TRUE_SLOPE, TRUE_INTERCEPT = 1.08, -4.48
# The dehumidifier ran on its own knob while the log was taken: wide marks, in true %RH.
KNOB_ON, KNOB_OFF = 66.0, 53.0

# Gaps as (hours before now, minutes): a loose plug, a broker down, the power cut of this morning.
GAPS = ((634.4, 47), (431.0, 9), (258.5, 132), (87.2, 14), (14.18, 4))
STUCK = (124.0, 60)  # hours before now, minutes
LAUNDRY_DAYS = (1, 3, 6, 8, 10, 13, 15, 17, 20, 22, 24, 27, 29)


@dataclass(frozen=True, slots=True, kw_only=True)
class Recorded:
    """What was recorded of one probe."""

    probe: str
    trace: Trace


def recorded_days() -> tuple[Recorded, ...]:
    """All recorded traces of the demo house."""
    read, _ = _read_days()
    kept = kept_days().items()
    return (*read, *(Recorded(probe=probe, trace=trace) for probe, trace in kept))


def made_days() -> dict[str, Trace]:
    """The days of the house's plants, made anew; some seconds of work for the engine."""
    return house_days(*_weather_and_traces(), START_MS, END_MS)


def made_course() -> Course:
    """The same with what the engine did."""
    return house_course(*_weather_and_traces(), START_MS, END_MS)


def _weather_and_traces() -> tuple[Weather, dict[str, Trace]]:
    read, weather = _read_days()
    return weather, {row.probe: row.trace for row in read}


def _read_days() -> tuple[tuple[Recorded, ...], Weather]:
    """What no plant makes: the drying room and the courtyard, and the weather behind them."""
    rng = np.random.default_rng(SEED)
    outside_degc, outside_rh, room_degc = _weather(rng)
    drying = _drying_room(rng, outside_degc, outside_rh, room_degc)
    grid = np.arange(START_MS, END_MS + 1, STEP_S * 1000, dtype=np.int64)
    every = {"minute": slice(None, None, 6), "five": slice(None, None, 30)}
    read = (
        Recorded(probe="drying_rh", trace=_with_faults(rng, grid, drying)),
        _coarse("drying_temp", grid, room_degc + rng.normal(0, 0.03, len(grid)), every["minute"]),
        _coarse("courtyard_temp", grid, outside_degc, every["five"]),
        _coarse("courtyard_rh", grid, outside_rh, every["five"]),
    )
    return read, Weather(t_ms=grid, temp_degc=outside_degc, rh_pct=outside_rh)


def _coarse(probe: str, grid: np.ndarray, value: np.ndarray, step: slice) -> Recorded:
    return Recorded(probe=probe, trace=Trace(t_ms=grid[step], raw=np.round(value[step], 1)))


def _slow_noise(rng: np.random.Generator, n: int, hours: float, sd: float) -> np.ndarray:
    """Weather-like wandering: hourly noise, smoothed over `hours`, of standard deviation `sd`."""
    knots = rng.normal(0, 1, DAYS * 24 + 2)
    width = max(1, round(hours))
    smooth = np.convolve(knots, np.ones(width) / np.sqrt(width), mode="same") * sd
    return np.interp(np.arange(n) * STEP_S / 3600, np.arange(len(smooth)), smooth)


def _weather(rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    n = DAYS * 86_400 // STEP_S + 1
    hour = np.arange(n) * STEP_S / 3600
    local_hour = 19.7 + hour
    day_wave = np.cos((local_hour - 15.0) / 24 * 2 * np.pi)
    outside = 11.5 - hour / (DAYS * 24) * 3.0 + 4.2 * day_wave + _slow_noise(rng, n, 18, 1.6)
    humidity = np.clip(74 - 9 * day_wave + _slow_noise(rng, n, 12, 7), 35, 99)
    room = 19.6 + 0.25 * (outside - 10) / 4 + 0.4 * np.cos((local_hour - 18) / 24 * 2 * np.pi)
    return outside, humidity, room


def _laundry_g_per_h(rng: np.random.Generator, n: int) -> np.ndarray:
    hour = np.arange(n) * STEP_S / 3600
    drying = np.zeros(n)
    for day in LAUNDRY_DAYS:
        hung = day * 24 - 9.2 + float(rng.normal(0, 0.8))  # about half past ten
        for start, share in ((hung, 1.0), (hung + 21.4, 0.7)):
            since = hour - start
            hot = (since > 0) & (since < 9)
            drying[hot] += share * 1150 * np.exp(-since[hot] / 2.6) * np.minimum(1, since[hot] * 2)
    return drying


def _drying_room(
    rng: np.random.Generator,
    outside_degc: np.ndarray,
    outside_rh: np.ndarray,
    room_degc: np.ndarray,
) -> np.ndarray:
    """Raw readings at every step, with the dehumidifier on its own knob."""
    n = len(room_degc)
    knots = np.arange(0, n, 30)
    outside_g = np.interp(
        np.arange(n),
        knots,
        [absolute_humidity_g_per_m3(outside_degc[k], outside_rh[k]) for k in knots],
    ).tolist()
    full_g = np.interp(
        np.arange(n), knots, [absolute_humidity_g_per_m3(room_degc[k], 100.0) for k in knots]
    ).tolist()
    wall = (235 + _slow_noise(rng, n, 20, 35)).tolist()
    laundry = _laundry_g_per_h(rng, n).tolist()
    noise = rng.normal(0, 0.3, n).tolist()
    buffer_m3, exchange_m3_per_h, removes_g_per_h = 255.0, 21.0, 620.0
    hours = STEP_S / 3600
    lag = 1 - float(np.exp(-STEP_S / 45))
    content = 0.585 * full_g[0]
    felt = 58.5
    running = False
    raw = np.empty(n)
    for i in range(n):
        rh = 100 * content / full_g[i]
        felt += lag * (rh - felt)
        shown = round((felt - TRUE_INTERCEPT) / TRUE_SLOPE + noise[i], 1)
        raw[i] = shown
        if not running and felt >= KNOB_ON:
            running = True
        elif running and felt <= KNOB_OFF:
            running = False
        gain = wall[i] + laundry[i] - exchange_m3_per_h * (content - outside_g[i])
        if running:
            gain -= removes_g_per_h * rh / 60
        content += gain * hours / buffer_m3
    return raw


def _with_faults(rng: np.random.Generator, grid: np.ndarray, raw: np.ndarray) -> Trace:
    raw = raw.copy()
    start_ms = END_MS - round(STUCK[0] * 3_600_000)
    stuck = (grid >= start_ms) & (grid < start_ms + STUCK[1] * 60_000)
    raw[stuck] = raw[np.argmax(stuck)]
    keep = rng.random(len(grid)) > 0.0004
    for hours_ago, minutes in GAPS:
        start_ms = END_MS - round(hours_ago * 3_600_000)
        keep &= ~((grid >= start_ms) & (grid < start_ms + minutes * 60_000))
    return Trace(t_ms=grid[keep], raw=raw[keep])
