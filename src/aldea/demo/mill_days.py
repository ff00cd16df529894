"""Thirty days of the whole mill house: its rooms, pipe, light and people under the first revision.

The drying room is older than the panel: its air is that of `recorded`, where the dehumidifier went
by its own knob. Everything else is a plant that the rules of the house act upon.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
from astral import Observer
from astral.sun import elevation

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.engine import layout as lay
from aldea.core.engine.replay import Run
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.plants.closed_loop import Course, run_closed
from aldea.core.rehearse.plants.light import Window
from aldea.core.rehearse.plants.people import Comings, stays
from aldea.core.rehearse.plants.pipe import LeakyPipe
from aldea.core.rehearse.plants.plant import Now, SensorModel
from aldea.core.rehearse.plants.room import Effect, Room
from aldea.core.rehearse.rehearsal import as_recorded
from aldea.demo.mill import LATITUDE_DEG, LONGITUDE_DEG, mill_plan

SEED = 4211
STEP_S = 60.0
HOUR_MS = 3_600_000
SUN_STEP_MS = 600_000
ZONE_OFFSET_H = 1.0  # from 26 October on; the two weeks before it differ by one
# A loose joint at the manifold, and the drip that came back before it was tightened.
LEAKS_H_AGO = ((14.5, 13.6),)
LIT_AFTER_MS = 200  # the sensed line follows its relay
STAIR_HOURS = {7: 3, 8: 4, 9: 2, 12: 2, 13: 3, 17: 3, 18: 5, 19: 4, 20: 3, 21: 2, 22: 1, 23: 0.5}
DOOR_HOURS = {7: 1, 8: 3, 9: 1, 12: 1, 13: 2, 17: 2, 18: 3, 19: 2, 20: 1, 21: 1}
WORK_HOURS = {8: 1, 9: 1.5, 10: 1.5, 11: 1, 15: 1.5, 16: 1.5, 17: 1}
SOLVENT_HOURS = {10: 0.12, 16: 0.1}


@dataclass(frozen=True, slots=True, kw_only=True)
class Weather:
    """The courtyard's air on a grid of instants."""

    t_ms: IntArray
    temp_degc: FloatArray
    rh_pct: FloatArray

    def at(self, t_ms: int) -> tuple[float, float]:
        """Temperature and humidity at an instant of the grid, or the one before it."""
        row = max(0, int(np.searchsorted(self.t_ms, t_ms, side="right")) - 1)
        return float(self.temp_degc[row]), float(self.rh_pct[row])


@dataclass(slots=True)
class Given:
    """Values that nothing in the house changes."""

    of: Mapping[str, Callable[[int], float]]
    now_ms: int = 0

    def step(self, now: Now) -> None:
        """They are what they are at the instant."""
        self.now_ms = now.t_ms

    def values(self) -> dict[str, float]:
        """Each at this instant."""
        return {probe: value(self.now_ms) for probe, value in self.of.items()}

    def levels(self) -> dict[str, int]:
        """None of them is a level."""
        return {}


def _within(spans: IntArray, t_ms: int) -> bool:
    row = int(np.searchsorted(spans[:, 0], t_ms, side="right")) - 1
    return row >= 0 and t_ms < spans[row, 1]


def _since(spans: IntArray, t_ms: int) -> float:
    """Hours since the last of some spans began; endless where none has."""
    row = int(np.searchsorted(spans[:, 0], t_ms, side="right")) - 1
    return (t_ms - spans[row, 0]) / HOUR_MS if row >= 0 else math.inf


def house_days(
    weather: Weather, read: Mapping[str, Trace], start_ms: int, end_ms: int
) -> dict[str, Trace]:
    """The traces of every probe that the house's plants make, by probe."""
    course = house_course(weather, read, start_ms, end_ms)
    return {**course.traces, **_sensed(course.run)}


def house_course(weather: Weather, read: Mapping[str, Trace], start_ms: int, end_ms: int) -> Course:
    """The house at work under its first revision; nobody presses anything."""
    rng = np.random.default_rng(SEED)

    def chain(by_hour: Mapping[int, float], stay_s: float) -> IntArray:
        return stays(
            rng,
            start_ms=start_ms,
            end_ms=end_ms,
            by_hour=by_hour,
            stay_s=stay_s,
            zone_offset_h=ZONE_OFFSET_H,
        )

    stair, door = chain(STAIR_HOURS, 90.0), chain(DOOR_HOURS, 8.0)
    work, solvent = chain(WORK_HOURS, 2400.0), chain(SOLVENT_HOURS, 1500.0)
    clouds = np.clip(0.55 + 0.25 * rng.standard_normal(32), 0.15, 1.0)
    sun_ms = np.arange(start_ms, end_ms + SUN_STEP_MS, SUN_STEP_MS)
    observer = Observer(latitude=LATITUDE_DEG, longitude=LONGITUDE_DEG)
    heights = np.array(
        [elevation(observer, datetime.fromtimestamp(t / 1000, UTC)) for t in sun_ms.tolist()]
    )

    def clear(t_ms: int) -> float:
        return float(clouds[(t_ms - start_ms) // (24 * HOUR_MS)])

    def rack(share: float) -> Callable[[int], float]:
        rooms = read["drying_temp"]

        def degc(t_ms: int) -> float:
            row = max(0, int(np.searchsorted(rooms.t_ms, t_ms, side="right")) - 1)
            hour = (t_ms / HOUR_MS + ZONE_OFFSET_H) % 24
            sun = max(0.0, math.sin((hour - 8) / 9 * math.pi)) * clear(t_ms)
            return float(rooms.raw[row]) + share * (1.2 + 6.5 * sun)

        return degc

    def volts(t_ms: int) -> float:
        since = _since(solvent, t_ms)
        return 0.62 + 0.55 * math.exp(-since / 0.35) if since < 24 else 0.62

    studio = Room(
        temperature="studio_temp",
        humidity="studio_rh",
        temp_degc=17.9,
        rh_pct=52.0,
        capacity_j_per_k=1.9e6,
        loss_w_per_k=78.0,
        volume_m3=92.0,
        moisture_m3=260.0,
        air_changes_per_h=0.4,
        outside=weather.at,
        effects={"panel_heater": Effect(heat_w=1500.0), "bench_outlet": Effect(heat_w=400.0)},
        gain=lambda t: (260.0 + (180.0, 0.0)[not _within(work, t)], 40.0 + 60.0 * _within(work, t)),
    )
    cellar = Room(
        temperature="cellar_temp",
        humidity="cellar_rh",
        temp_degc=11.3,
        rh_pct=74.0,
        capacity_j_per_k=3.2e6,
        loss_w_per_k=22.0,
        volume_m3=120.0,
        moisture_m3=420.0,
        air_changes_per_h=0.15,
        outside=lambda t: (10.4 + 0.18 * (weather.at(t)[0] - 10), 64.0),  # ground, and hall air
        effects={
            "cellar_cooler": Effect(heat_w=-420.0, water_l_per_h=0.12),
            "store_fan": Effect(air_m3_per_h=70.0),
        },
        gain=lambda t: (46.0, 26.0 + 150.0 * (_since(door, t) < 0.5)),
    )
    leaks = tuple(
        (end_ms - round(a * HOUR_MS), end_ms - round(b * HOUR_MS)) for a, b in LEAKS_H_AGO
    )
    plants = (
        studio,
        cellar,
        Window(
            probe="stair_light",
            full_lux=900.0,
            height_deg=lambda t: float(np.interp(t, sun_ms, heights)),
            clear=clear,
            lamp="night_lights",
            lamp_lux=12.0,
        ),
        LeakyPipe(tape="manifold_tape", valve="inlet_valve", leaks_ms=leaks),
        Comings(line="stair_radar", stays=stair),
        Comings(line="door_outer", stays=door),
        Comings(line="door_inner", stays=door, shift_ms=0),
        Given(
            {
                "plinth_tape": lambda _: 470.0,
                "drain_tape": lambda _: 1900.0,
                "studio_gas": volts,
                "studio_air": lambda _: studio.temp_degc + 0.3,
                "rack_top": rack(1.0),
                "rack_middle": rack(0.7),
                "rack_foot": rack(0.35),
                "cart_distance": lambda t: 0.62 + 2.1 * _within(work, t),
            }
        ),
    )

    def sensor(probe: str, every_s: float, **model: float) -> SensorModel:
        return SensorModel(probe=probe, interval_s=every_s, drops=2500, **model)

    thermistor = {"lag_s": 120.0, "noise": 0.04, "resolution": 0.05}
    sensors = (
        sensor("studio_temp", 60.0, slope=1.011, intercept=0.4, **thermistor),
        sensor("studio_air", 60.0, lag_s=90.0, noise=0.03, intercept=0.2),
        sensor("studio_rh", 60.0, lag_s=60.0, noise=0.2, low=0.0, high=100.0),
        sensor("cellar_temp", 60.0, intercept=0.15, **thermistor),
        sensor("cellar_rh", 60.0, lag_s=60.0, noise=0.15, low=0.0, high=100.0),
        sensor("stair_light", 60.0, noise=0.6, resolution=1.0, low=0.0, high=2000.0),
        sensor("manifold_tape", 60.0, noise=3.0, resolution=1.0, low=0.0, high=2000.0),
        sensor("plinth_tape", 60.0, noise=3.0, resolution=1.0, low=0.0, high=2000.0),
        sensor("drain_tape", 60.0, noise=20.0, resolution=1.0, low=0.0, high=2000.0),
        sensor("studio_gas", 60.0, lag_s=30.0, noise=0.01, resolution=0.01, low=0.0, high=5.0),
        sensor("rack_top", 60.0, **thermistor),
        sensor("rack_middle", 60.0, **thermistor),
        sensor("rack_foot", 60.0, **thermistor),
        sensor("cart_distance", 60.0, noise=0.01, resolution=0.01, low=0.0, high=4.0),
    )
    return run_closed(
        as_recorded(mill_plan()),
        plants,
        sensors,
        start_ms=start_ms,
        end_ms=end_ms,
        step_s=STEP_S,
        seed=SEED,
        recorded=read,
    )


def _sensed(run: Run) -> dict[str, Trace]:
    """What the lamp's line and the skylight's end contacts said, from what each load did."""
    lit = _changes(run, "night_lights", {lay.ON: 1}, 0)
    return {
        "night_sensed": Trace(t_ms=lit.t_ms + LIT_AFTER_MS * (lit.raw >= 0), raw=lit.raw),
        "skylight_open": _changes(run, "skylight", {lay.OPEN: 1}, 0),
        "skylight_shut": _changes(run, "skylight", {lay.SHUT: 1}, 1),
    }


def _changes(run: Run, load: str, high: Mapping[int, int], first: int) -> Trace:
    rows, _ = run.of_load(run.compiled.load_index(load))
    t_ms, level = [run.start_ms], [first]
    for row in rows.tolist():
        now = high.get(row[lay.E_TO], 0)
        if now != level[-1] and row[lay.E_T_MS] == t_ms[-1]:
            level[-1] = now  # of two at one instant the later one stands
        elif now != level[-1]:
            t_ms.append(row[lay.E_T_MS])
            level.append(now)
    return Trace(t_ms=np.array(t_ms, dtype=np.int64), raw=np.array(level, dtype=float))
