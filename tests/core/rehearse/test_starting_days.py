"""Each starting point lived through a day: it does what its name says, from an empty house."""

from collections.abc import Callable
from datetime import UTC, datetime

import numpy as np
import pytest

from aldea.core.base.quantities import Quantity
from aldea.core.devices.loads.classes import LoadClass
from aldea.core.devices.loads.models import LoadType
from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.light_resistor.model import LightResistor
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.inputs import Inputs
from aldea.core.engine.replay import run_replay
from aldea.core.plan.defaults import empty_house, new_load, new_place, new_probe
from aldea.core.plan.document import House, Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.panel import Board
from aldea.core.plan.starting_points import POINTS, with_starting_point
from aldea.core.readings.samples import Samples
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.rehearsal import rehearse
from aldea.core.rules.findings import rule_findings
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.relays import with_relays

MIDNIGHT = round(datetime(2026, 6, 1, tzinfo=UTC).timestamp() * 1000)
HOUR = 3_600_000
DAY = 24 * HOUR
PROBES: dict[str, tuple[Quantity, Sensor | None]] = {
    "rh": ("relative_humidity", None),
    "air": ("air_temperature", None),
    "tape": ("leak", LeakTape()),
    "seen": ("presence", MotionSensor()),
    "light": ("illuminance", LightResistor()),
    "gas": ("gas_hint", GasSensor(clean_air_v=1.0)),
    "open": ("position", ContactSensor()),
    "shut": ("position", ContactSensor()),
}
LOADS: dict[str, tuple[LoadType, LoadClass]] = {
    "steps": ("stepped", "air"),
    "leak": ("valve", "water"),
    "drive": ("pulse_drive", "motion"),
    "drier": ("relay", "air"),
    "heater": ("relay", "heat"),
    "stair": ("relay", "light"),
    "dusk": ("relay", "light"),
    "minute": ("relay", "air"),
    "airing": ("relay", "air"),
}


def house(key: str) -> Plan:
    """An empty house with a room, every kind of probe in it, a board, and the load to begin."""
    room = new_place((), id="room", name="Room", kind="room", level=0)
    probes = tuple(
        new_probe(probe_id=name, name=name.title(), place="room", quantity=quantity).model_copy(
            update={"sensor": sensor, "stage": "working", "stale_after_s": 300.0}
        )
        for name, (quantity, sensor) in PROBES.items()
    )
    kind, of_class = LOADS[key]
    load = new_load(load_id="it", name="It", place="room", kind=kind, load_class=of_class)
    if kind == "pulse_drive":
        drive = PulseDrive(open_contact="open", shut_contact="shut", tries=3)
        load = load.model_copy(update={"drive": drive})
    where = House(name="Day", time_zone="UTC", latitude_deg=42.0, longitude_deg=0.0)
    board = Board(id="b", name="Board", place="room", board_type="terminal_24v")
    plan = Plan.model_validate(
        {
            **empty_house(where),
            "places": (room,),
            "probes": probes,
            "loads": (load,),
            "boards": (board,),
        }
    )
    plan = with_relays(plan, "it")
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    return with_starting_point(plan, "it", key)


def day(**values: Callable[[float], float]) -> dict[str, Trace]:
    """A reading a minute of some probes, each told by the hour of the day."""
    t_ms = MIDNIGHT + np.arange(0, DAY, 60_000, dtype=np.int64)
    hours = (t_ms - MIDNIGHT) / HOUR
    return {
        name: Trace(t_ms=t_ms, raw=np.array([value(hour) for hour in hours]))
        for name, value in values.items()
    }


def lived(plan: Plan, traces: dict[str, Trace], faults: Faults = Faults()) -> list[tuple[str, int]]:  # noqa: B008
    """Each change of the load: the time of the day and the state, at its start among them."""
    run = rehearse(plan, traces, start_ms=MIDNIGHT, end_ms=MIDNIGHT + DAY, faults=faults).run
    rows = [
        event
        for event in run.events()
        if event.event_type == lay.EVENT_LOAD and event.state_from != event.state_to
    ]
    clock = [datetime.fromtimestamp(event.t_ms / 1000, tz=UTC) for event in rows]
    return [(f"{at:%H:%M:%S}", event.state_to) for at, event in zip(clock, rows, strict=True)]


def between(first: float, last: float, inside: float, outside: float) -> Callable[[float], float]:
    return lambda hour: inside if first <= hour < last else outside


def test_every_starting_point_has_its_day():
    assert {point.key for point in POINTS} == set(LOADS)


def test_a_valve_gives_water_until_a_tape_is_wet_and_stays_shut_then():
    """The third wet reading in a row, at 12:02, shuts it; drying opens nothing."""
    plan = house("leak")
    wet = day(tape=between(12.0, 12.5, 20.0, 470.0))
    assert lived(plan, wet) == [("00:00:00", 1), ("12:02:00", 0)]
    dry = lived(plan, day(tape=lambda _hour: 470.0))
    assert dry == [("00:00:00", 1)], "a house with water all day"


def test_a_valve_comes_back_after_a_power_cut_and_a_tripped_one_does_not():
    plan = house("leak")
    cut = Faults(cuts=((MIDNIGHT + 6 * HOUR, MIDNIGHT + 7 * HOUR),))
    dry = lived(plan, day(tape=lambda _hour: 470.0), cut)
    assert dry == [("00:00:00", 1), ("06:00:00", 0), ("07:01:00", 1)]
    tripped = lived(plan, day(tape=between(5.0, 5.2, 20.0, 470.0)), cut)
    assert tripped == [("00:00:00", 1), ("05:02:00", 0)]


def test_a_dehumidifier_runs_over_62_until_56_and_rests_after_12_h():
    plan = house("drier")
    damp = lived(plan, day(rh=lambda hour: 50.0 + 15.0 * np.sin(np.pi * hour / 24)))
    on, off = damp[0], damp[1]
    assert [state for _, state in damp] == [1, 0]
    assert on[0] > "07:00:00"
    assert off[0] > "19:00:00", "at 12 h of run or at 56 %RH, whichever is first"
    assert not lived(plan, day(rh=lambda _hour: 55.0))


def test_a_heater_holds_18_to_19_and_a_dead_thermometer_ends_it():
    plan = house("heater")
    cold = lived(plan, day(air=between(6.0, 8.0, 17.0, 20.0)))
    assert cold == [("06:00:00", 1), ("08:00:00", 0)]
    traces = day(air=lambda hour: 17.0 if hour >= 6 else 20.0)
    half = int(np.searchsorted(traces["air"].t_ms, MIDNIGHT + 7 * HOUR))
    dead = {"air": Trace(t_ms=traces["air"].t_ms[:half], raw=traces["air"].raw[:half])}
    ends = lived(plan, dead)
    assert ends[0] == ("06:00:00", 1)
    assert ends[1][1] == 0
    assert ends[1][0] <= "07:05:00"
    hot = lived(plan, day(air=lambda _hour: 29.0))
    assert not hot


def test_a_fan_in_steps_answers_steam_with_step_3_and_damp_with_step_1():
    plan = house("steps")
    run = lived(plan, day(rh=lambda hour: 80.0 if 7 <= hour < 7.5 else 67.0 if hour < 9 else 55.0))
    assert [state for _, state in run] == [1, 3, 1, 0]
    assert run[1][0] == "07:00:20"


def test_a_stair_light_burns_two_minutes_for_a_person_in_the_dark():
    plan = house("stair")
    seen = between(22.0, 22.02, 1.0, 0.0)
    dark = lived(plan, day(seen=seen, light=lambda _hour: 1.0))
    assert [state for _, state in dark] == [1, 0]
    assert dark[0][0] == "22:00:00"
    assert "22:02:00" <= dark[1][0] <= "22:05:00"
    assert not lived(plan, day(seen=seen, light=lambda _hour: 200.0))


def test_a_lamp_at_dusk_burns_from_sunset_to_eleven():
    """Sunset at 42° N, 0° E on 1 June 2026 is 19:30 UTC within two minutes."""
    run = lived(house("dusk"), {})
    assert [state for _, state in run] == [1, 0]
    assert "19:28:00" <= run[0][0] <= "19:33:00"
    assert run[1][0] == "23:00:00"


def test_at_a_minute_for_a_time():
    assert lived(house("minute"), {}) == [("07:00:00", 1), ("07:10:00", 0)]


def test_airing_goes_on_for_ten_minutes_after_the_hint():
    run = lived(house("airing"), day(gas=between(10.0, 10.5, 2.0, 1.0)))
    assert run == [("10:00:00", 1), ("10:40:00", 0)]


def moved(plan: Plan, *changes: tuple[float, str, int]) -> list[str]:
    """When the drive is pulsed on a day on which its end contacts change at some hours."""
    levels = [(MIDNIGHT + round(hour * HOUR), f"probe:{name}", on) for hour, name, on in changes]
    start = [(MIDNIGHT, "probe:shut", 1), (MIDNIGHT, "probe:open", 0)]
    none = Samples(
        t_ms=np.zeros(0, dtype=np.int64), probe=np.zeros(0, dtype=np.int64), value=np.zeros(0)
    )
    run = run_replay(
        compile_plan(plan),
        none,
        start_ms=MIDNIGHT,
        end_ms=MIDNIGHT + DAY,
        inputs=Inputs(levels=(*start, *levels)),
    )
    rows = [t_ms for t_ms, _row, level in run.lines.tolist() if level == 1]
    return [f"{datetime.fromtimestamp(t / 1000, tz=UTC):%H:%M:%S}" for t in rows]


def test_a_drive_left_open_is_shut_after_two_hours_and_at_night():
    """Opened by its own button at 10:00, open since 10:00:18: two hours later it is pulsed."""
    plan = house("drive")
    opened = [(10.0, "shut", 0), (10.005, "open", 1)]
    shut = [(12.006, "open", 0), (12.011, "shut", 1)]
    (pulse,) = moved(plan, *opened, *shut)
    assert "12:00:18" <= pulse <= "12:00:21"


@pytest.mark.parametrize("key", list(LOADS))
def test_nothing_severe_is_found_in_a_house_that_begins_so(key):
    plan = house(key)
    assert not [f.head for f in rule_findings(plan) if f.weight == "severe"]
    load = plan.loads[0]
    assert put_part(plan, "load", load) == plan
