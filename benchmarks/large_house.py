"""A made-up house of twelve boards and about three hundred signals, for what must stay quick."""

from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.document import House, Load, Place, Plan, Probe, Range
from aldea.core.plan.panel import Board, RelayOutput, Supply

BOARDS, PROBES, LOADS, PLACES = 12, 160, 90, 24


def sensor_of(index: int) -> Sensor:
    """One of five kinds, in turn."""
    kinds: tuple[Sensor, ...] = (
        Thermistor(),
        ContactSensor(),
        BusSensor(address=20 + index % 40),
        LeakTape(),
        MotionSensor(),
    )
    return kinds[index % len(kinds)]


def large_house() -> Plan:
    """The plan without pins."""
    places = tuple(
        Place(
            id=f"p{i}",
            name=f"Place {i}",
            kind="room",
            level=i // 6,
            from_m=4.0 * (i % 6),
            to_m=4.0 * (i % 6) + 4,
        )
        for i in range(PLACES)
    )
    kinds = (("wifi_38", "s5"), ("terminal_24v", "s24"), ("small_5v", "s5"))
    return Plan(
        format="aldea-plan/2",
        house=House(name="Large house", time_zone="UTC"),
        places=places,
        probes=tuple(
            Probe(
                id=f"probe{i}",
                name=f"Probe {i}",
                place=f"p{i % PLACES}",
                quantity="air_temperature",
                stage="planned",
                range=Range(low=0.0, high=50.0),
                calibration=Calibration(expanded_uncertainty=1.0),
                sensor=sensor_of(i),
            )
            for i in range(PROBES)
        ),
        loads=tuple(
            Load(
                id=f"load{i}",
                name=f"Load {i}",
                place=f"p{i % PLACES}",
                load_class="air",
                stage="planned",
                power_w=60.0,
                feed=f"F{i % 9 + 1}",
            )
            for i in range(LOADS)
        ),
        rules=(),
        supplies=(
            Supply(id="s5", name="5 V supply", place="p0", volts=5.0, rating_ma=15_000.0),
            Supply(id="s24", name="24 V supply", place="p0", volts=24.0, rating_ma=15_000.0),
        ),
        boards=tuple(
            Board(
                id=f"b{i}",
                name=f"Board {i}",
                place=f"p{2 * i % PLACES}",
                board_type=kinds[i % 3][0],
                supply=kinds[i % 3][1],
            )
            for i in range(BOARDS)
        ),
        relays=tuple(RelayOutput(id=f"k{i}", load=f"load{i}") for i in range(LOADS)),
    )
