"""Plants: balances against hand sums, the same seed the same course, loads that act on rooms."""

import math

import numpy as np
import pytest
from tests.core.plans import one_band

from aldea.core.plan.conditions import Band
from aldea.core.plan.document import Probe
from aldea.core.rehearse.plants.closed_loop import run_closed
from aldea.core.rehearse.plants.light import Window
from aldea.core.rehearse.plants.people import Comings, stays
from aldea.core.rehearse.plants.pipe import LeakyPipe
from aldea.core.rehearse.plants.plant import Now, SensorModel
from aldea.core.rehearse.plants.room import AIR_J_PER_M3_K, Effect, Room

START = 1_762_992_000_000


def room(**changed):
    facts = {
        "temperature": "temp", "humidity": "rh", "temp_degc": 15.0, "rh_pct": 60.0,
        "capacity_j_per_k": 1e6, "loss_w_per_k": 50.0, "volume_m3": 60.0, "moisture_m3": 120.0,
        "air_changes_per_h": 0.0, "outside": lambda _: (5.0, 60.0),
        "effects": {"fan": Effect(heat_w=1000.0)},
    }  # fmt: skip
    return Room(**{**facts, **changed})


def settled(plant: Room, on: int, hours: float) -> dict[str, float]:
    for step in range(round(hours * 60)):
        plant.step(Now(t_ms=START + step * 60_000, dt_s=60.0, states={"fan": on}))
    return plant.values()


def test_a_heated_room_settles_where_loss_is_gain():
    """1000 W over 50 W/K is 20 K above 5 °C."""
    assert settled(room(), 1, 200)["temp"] == pytest.approx(25.0, abs=0.02)
    assert settled(room(), 0, 200)["temp"] == pytest.approx(5.0, abs=0.02)


def test_it_gets_there_with_its_own_time_constant():
    """C over UA: 1e6 / 50 = 20,000 s; after that the step has 1/e left."""
    there = settled(room(temp_degc=5.0), 1, 20_000 / 3600)["temp"]
    assert there == pytest.approx(25.0 - 20 / math.e, abs=0.1)


def test_air_that_is_exchanged_carries_heat():
    """1 change an hour of 60 m³: 60 × 1206 / 3600 = 20.1 W/K beside the 50."""
    assert pytest.approx(20.1, abs=0.01) == AIR_J_PER_M3_K * 60 / 3600
    there = settled(room(air_changes_per_h=1.0), 1, 200)["temp"]
    assert there == pytest.approx(5 + 1000 / 70.1, abs=0.02)


def test_water_that_is_taken_out_is_missing():
    """No exchange: 0.06 L an hour out of 120 m³ is 0.5 g/m³ an hour."""
    dry = room(loss_w_per_k=0.0, effects={"fan": Effect(water_l_per_h=0.06)})
    before = dry.rh_pct
    settled(dry, 1, 2)
    assert dry.content_g_per_m3 == pytest.approx(before / 100 * 12.83 - 1.0, abs=0.03)


def test_a_leak_wets_the_tape_until_the_valve_shuts():
    pipe = LeakyPipe(tape="tape", valve="valve", leaks_ms=((START, START + 3_600_000),))
    assert pipe.values()["tape"] == pytest.approx(470.0, abs=2.0)
    for step in range(10):
        pipe.step(Now(t_ms=START + step * 60_000, dt_s=60.0, states={"valve": 1}))
    assert pipe.values()["tape"] == pytest.approx(1 / (1 / 470 + 1 / 22), abs=0.1)
    for step in range(10, 400):
        pipe.step(Now(t_ms=START + step * 60_000, dt_s=60.0, states={"valve": 0}))
    # 390 min of drying at 90 min each leave e^-4.3 = 1.3 % of the tape in water.
    assert pipe.values()["tape"] == pytest.approx(1 / (1 / 470 + 0.0136 / 22), abs=5)


def test_the_lamp_adds_its_share_and_the_night_is_dark():
    window = Window(
        probe="lux", full_lux=900.0, height_deg=lambda t: 30.0 if t > START else -20.0,
        clear=lambda _: 0.5, lamp="lamp", lamp_lux=12.0,
    )  # fmt: skip
    window.step(Now(t_ms=START, dt_s=60.0, states={"lamp": 1}))
    assert window.values()["lux"] == 12.0
    window.step(Now(t_ms=START + 1, dt_s=60.0, states={"lamp": 0}))
    assert window.values()["lux"] == pytest.approx(900 * 0.5 * 0.5)


def test_people_come_as_often_as_they_are_said_to_and_never_overlap():
    rng = np.random.default_rng(1)
    days = 60
    found = stays(
        rng, start_ms=START, end_ms=START + days * 86_400_000, by_hour={8: 3.0}, stay_s=60.0,
        zone_offset_h=0.0,
    )  # fmt: skip
    hours = (found[:, 0] // 3_600_000) % 24
    assert set(hours.tolist()) <= {8}
    assert len(found) / days == pytest.approx(3.0, rel=0.25)
    assert (found[1:, 0] > found[:-1, 1]).all()
    coming = Comings(line="seen", stays=np.array([[START + 61_000, START + 130_000]]))
    seen = []
    for step in range(4):
        coming.step(Now(t_ms=START + step * 60_000, dt_s=60.0, states={}))
        seen.append(coming.levels()["seen"])
    assert seen == [0, 1, 0, 0]


def heated():
    plan = one_band()
    probe = Probe.model_validate(
        {
            **plan.probes[0].model_dump(),
            "id": "temp",
            "quantity": "air_temperature",
            "range": {"low": -30, "high": 60},
            "stale_after_s": 600.0,
        }
    )
    band = Band(probe="temp", direction="falling", on_threshold=18.0, off_threshold=19.0)
    rule = plan.rules[0].model_copy(update={"condition": band})
    return plan.model_copy(update={"probes": (probe,), "rules": (rule,)})


def course(seed: int):
    return run_closed(
        heated(),
        [room(loss_w_per_k=40.0)],
        [SensorModel(probe="temp", interval_s=60.0, noise=0.02, resolution=0.05)],
        start_ms=START, end_ms=START + 86_400_000, step_s=60.0, seed=seed,
    )  # fmt: skip


def test_a_plan_in_closed_loop_keeps_its_room_and_the_same_seed_is_the_same_course():
    done = course(7)
    raw = done.traces["temp"].raw
    late = raw[len(raw) // 2 :]
    assert late.min() > 17.7
    assert late.max() < 19.4
    again = course(7)
    assert np.array_equal(again.traces["temp"].raw, raw)
    assert np.array_equal(again.run.rows, done.run.rows)
    assert not np.array_equal(course(8).traces["temp"].raw, raw)


def test_a_sensor_lags_errs_rounds_and_loses_readings():
    rng = np.random.default_rng(3)
    sensor = SensorModel(
        probe="p", interval_s=60.0, lag_s=60.0, slope=1.1, intercept=2.0, resolution=0.5, drops=4
    )
    sensor.feel(10.0, 60.0)
    sensor.feel(20.0, 60.0)
    assert sensor.felt == pytest.approx(20 - 10 / math.e)
    read = [sensor.reading(START + 60_000 * k, rng) for k in range(400)]
    kept = [value for value in read if value is not None]
    assert set(kept) == {round((1.1 * sensor.felt + 2.0) / 0.5) * 0.5}
    assert len(kept) == pytest.approx(300, abs=40)
    assert sensor.reading(START + 400 * 60_000 - 30_000, rng) is None, "not due"
