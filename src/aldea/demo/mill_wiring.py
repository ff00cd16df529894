"""How Molino Alto is wired: boards, a panel, its relays, what a hand works, a unit and its copy.

Two things are left wrong on purpose, as its builder left them: the floor-drain tape has no far-end
resistor, and the skylight's relay sits on an output that is high before the program starts.
"""

from typing import Any

from aldea.core.devices.loads.facts import Nature
from aldea.core.devices.loads.outlet.model import Outlet
from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.loads.stepped_fan.model import SteppedFan
from aldea.core.devices.loads.two_way.model import TwoWay
from aldea.core.devices.loads.valve.model import Valve
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.echo.model import EchoSensor
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.light_resistor.model import LightResistor
from aldea.core.devices.sensors.mains_sense.model import MainsSense
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.core.devices.sensors.serial.model import SerialSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.board_types import board_types, generic_types
from aldea.core.plan.controls import (
    ButtonPress,
    Control,
    LoadGroup,
    OnlyIn,
    RemoteCode,
    SelectorPosition,
)
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import move_part
from aldea.core.plan.invariants import AtMost, Invariant, LoadIs, Never, NeverTogether, ValueIs
from aldea.core.plan.panel import (
    Assignment,
    Board,
    BoardType,
    RelayOutput,
    Stock,
    Supply,
    TransistorSwitch,
)
from aldea.core.wiring.candidates import Slot, root_of
from aldea.core.wiring.copies import copied, copies_of, unit_of
from aldea.core.wiring.reasons import reason_for
from aldea.core.wiring.signals import signals

SENSORS: dict[str, tuple[Sensor, float]] = {
    "drying_rh": (BusSensor(address=0x44), 1.0),
    "drying_temp": (BusSensor(address=0x48), 1.0),
    "courtyard_temp": (OneWireSensor(), 14.0),
    "studio_temp": (Thermistor(), 11.0),
    "stair_light": (LightResistor(threshold_lux=20.0), 9.0),
    "stair_radar": (SerialSensor(), 8.0),
    "cellar_temp": (Thermistor(), 12.0),
    "cellar_rh": (BusSensor(address=0x44, supply_v=5.0), 3.0),
    "studio_air": (BusSensor(address=0x44), 1.0),
    "manifold_tape": (LeakTape(), 6.0),
    "plinth_tape": (LeakTape(), 7.0),
    "drain_tape": (LeakTape(end_of_line_ohm=None), 9.0),
    "skylight_shut": (ContactSensor(), 10.0),
    "skylight_open": (ContactSensor(), 10.0),
    "door_outer": (MotionSensor(), 4.0),
    "door_inner": (MotionSensor(), 5.0),
    "cart_distance": (EchoSensor(), 4.0),
    "studio_gas": (GasSensor(clean_air_v=0.62), 6.0),
    "rack_top": (Thermistor(), 3.0),
    "rack_middle": (Thermistor(), 3.0),
    "rack_foot": (Thermistor(), 3.0),
    "night_sensed": (MainsSense(), 0.0),
}
# The second quantity of a part that another probe carries.
ONE_PART = {"courtyard_rh": "courtyard_temp", "studio_rh": "studio_air"}
FIGURES: dict[str, dict[str, object]] = {
    "extractor": {
        "stepped": SteppedFan(basis="measured", surge_ohm=10.0),
        "feed": "F1",
        "cable_m": 6.0,
    },
    "dehumidifier": {"feed": "F1", "cable_m": 4.0},
    "cellar_cooler": {"feed": "F3", "cable_m": 12.0},
    "inlet_valve": {"valve": Valve(in_series=2), "feed": "F4", "cable_m": 5.0},
    "booster_pump": {"feed": "F2", "cable_m": 6.0},
    "night_lights": {"two_way": TwoWay(sense="night_sensed"), "feed": "F5", "cable_m": 18.0},
    "panel_heater": {"feed": "F2", "cable_m": 15.0},
    "store_fan": {"volts": 12.0, "runs_on": "dc", "supply": "supply_fan", "cable_m": 2.0},
    "bench_outlet": {"outlet": Outlet(plugged="resistive", most_a=6.0), "feed": "F2"},
    "skylight": {
        "drive": PulseDrive(
            tries=3, travel_s=25.0, open_contact="skylight_open", shut_contact="skylight_shut"
        ),
        "cable_m": 16.0,
    },
}
NATURES: dict[str, Nature] = {
    "extractor": "motor",
    "dehumidifier": "motor",
    "cellar_cooler": "motor",
    "inlet_valve": "coil",
    "booster_pump": "motor",
    "night_lights": "lamp",
    "panel_heater": "resistive",
    "skylight": "motor",
    "store_fan": "motor",
    "bench_outlet": "resistive",
}
SUPPLIES = (
    Supply(id="supply_24", name="24 V supply", place="panel", volts=24.0, rating_ma=2500.0),
    Supply(id="supply_5", name="5 V supply", place="drying_room", volts=5.0, rating_ma=2000.0),
    Supply(id="supply_fan", name="12 V supply", place="root_cellar", volts=12.0, rating_ma=1000.0),
    Supply(id="supply_units", name="Unit supply", place="print_studio", rating_ma=1000.0),
    Supply(id="supply_hall", name="Hall supply", place="stair_hall", volts=5.0, rating_ma=1000.0),
)
BOARDS = (
    Board(
        id="board_a", name="Board A", place="panel", board_type="terminal_24v", supply="supply_24"
    ),
    Board(
        id="board_b", name="Board B", place="drying_room", board_type="wifi_38", supply="supply_5"
    ),
    Board(
        id="board_c",
        name="Board C",
        place="stair_hall",
        board_type="small_5v",
        supply="supply_hall",
    ),
    Board(
        id="studio_unit",
        name="Studio unit",
        place="print_studio",
        board_type="wifi_one_analog",
        supply="supply_units",
    ),
    Board(
        id="rack_inputs", name="Rack", place="stair_hall", board_type="mux_8_at_5v", host="board_c"
    ),
)


def _relay(number: int, load: str, role: str = "on", **facts: object) -> RelayOutput:
    base = {"coil_v": 24.0, "coil_ma": 17.0, "driver": "board", "rated_a": 16.0}
    return RelayOutput.model_validate(
        {"id": f"k{number}", "load": load, "role": role, **base, **facts}
    )


MODULE: dict[str, Any] = {
    "coil_v": 5.0,
    "coil_ma": 72.0,
    "driver": "module",
    "active": "low",
    "input_v3": True,
    "rated_a": 10.0,
}
RELAYS = (
    _relay(1, "extractor", "c1", **MODULE),
    _relay(2, "extractor", "c2", **MODULE),
    _relay(3, "extractor", "direct", **MODULE),
    _relay(4, "dehumidifier", **MODULE),
    _relay(5, "cellar_cooler"),
    _relay(6, "inlet_valve"),
    _relay(7, "inlet_valve", "series"),
    _relay(8, "booster_pump", contactor=True),
    _relay(9, "night_lights"),
    _relay(10, "panel_heater"),
    _relay(11, "skylight"),
    RelayOutput(id="q12", load="store_fan", transistor=TransistorSwitch(full_at_v=4.5)),
    _relay(13, "bench_outlet"),
)
CONTROLS = (
    Control(
        id="mode_button",
        name="Mode button",
        place="drying_room",
        kind="push_button",
        load="dehumidifier",
        presses=(
            ButtonPress(press="short", does="mode", mode="drying_mode"),
            ButtonPress(press="long", group="all_off", does="off"),
            ButtonPress(
                press="double",
                load="dehumidifier",
                does="toggle",
                only=OnlyIn(mode="drying_mode", value="by hand"),
            ),
        ),
    ),
    Control(
        id="mode_lamp", name="Mode lamp", place="drying_room", kind="lamp", load="dehumidifier"
    ),
    Control(
        id="step_selector",
        name="Step selector",
        place="drying_room",
        kind="selector",
        load="extractor",
        contacts=3,
        positions=(
            SelectorPosition(name="0", pattern="000", load="extractor", does="off"),
            *(
                SelectorPosition(
                    name=str(step), pattern=pattern, load="extractor", does="step", step=step
                )
                for step, pattern in enumerate(("100", "010", "110", "001"), 1)
            ),
        ),
    ),
    Control(
        id="drying_remote",
        name="Drying remote",
        place="drying_room",
        kind="remote",
        load="extractor",
        codes=(
            RemoteCode(name="faster", code="a3f1c0", load="extractor", does="up"),
            RemoteCode(name="slower", code="a3f1c4", load="extractor", does="down"),
        ),
    ),
)
GROUPS = (
    LoadGroup(id="all_off", name="All off", members=("night_lights", "bench_outlet", "store_fan")),
)
PINS = """
probe:drying_rh.data board_b IO21
probe:drying_rh.clock board_b IO22
probe:drying_temp.data board_b IO21
probe:drying_temp.clock board_b IO22
probe:courtyard_temp.data board_b IO23
probe:studio_temp.sense board_b IO36
probe:stair_light.sense board_b IO39
probe:stair_radar.rx board_b IO16
probe:stair_radar.tx board_b IO17
probe:cellar_temp.sense board_a A27
probe:cellar_rh.data board_a B1
probe:cellar_rh.clock board_a B2
probe:manifold_tape.sense board_a A21
probe:manifold_tape.excite board_a DO1
probe:plinth_tape.sense board_a A22
probe:plinth_tape.excite board_a DO2
probe:drain_tape.sense board_a A23
probe:drain_tape.excite board_a DO3
probe:skylight_shut.contact board_a A31
probe:skylight_open.contact board_a A32
probe:night_sensed.out board_a A33
probe:door_outer.out board_c D4
probe:door_inner.out board_c D5
probe:cart_distance.trigger board_c D6
probe:cart_distance.echo board_c D2
probe:studio_gas.sense board_c A0
board:rack_inputs.common board_c A1
board:rack_inputs.s0 board_c D7
board:rack_inputs.s1 board_c D8
board:rack_inputs.s2 board_c D9
probe:rack_top.sense rack_inputs CH0
probe:rack_middle.sense rack_inputs CH1
probe:rack_foot.sense rack_inputs CH2
control:mode_button.contact1 board_b IO32
control:mode_lamp.lamp board_b IO19
control:step_selector.contact1 board_b IO33
control:step_selector.contact2 board_b IO4
control:step_selector.contact3 board_b IO18
control:drying_remote.data board_b IO34
relay:k1.coil board_b IO25
relay:k2.coil board_b IO26
relay:k3.coil board_b IO27
relay:k4.coil board_b IO13
relay:k5.coil board_a DO5
relay:k6.coil board_a DO6
relay:k7.coil board_a DO7
relay:k8.coil board_a DO8
relay:k9.coil board_a DO9
relay:k10.coil board_a DO10
relay:k11.coil board_a DO11
relay:q12.coil board_c D10
relay:k13.coil board_a DO12
probe:studio_air.data studio_unit G4
probe:studio_air.clock studio_unit G5
"""
BY_HAND = ("relay:k11.coil",)
INVARIANTS = (
    Invariant(
        id="heater_run",
        rule=AtMost(load="panel_heater", at_most_s=10_800.0, window_s=14_400.0),
        why="Nobody sits in the studio for longer.",
    ),
    Invariant(
        id="valve_on_leak",
        rule=Never(
            when=(
                LoadIs(load="inlet_valve"),
                ValueIs(probe="manifold_tape", side="below", value=60.0),
            ),
            longer_than_s=30.0,
        ),
        why="Last year’s leak ran for a night.",
    ),
    Invariant(
        id="pump_dry",
        rule=AtMost(load="booster_pump", at_most_s=900.0, window_s=3600.0),
        why="It has no dry-run guard.",
    ),
    Invariant(
        id="dehumidifier_run",
        rule=AtMost(load="dehumidifier", at_most_s=36_000.0, window_s=43_200.0),
        why="Its tank is full by then.",
    ),
    Invariant(
        id="never_both", rule=NeverTogether(loads=("panel_heater", "cellar_cooler")), why="F2, F3."
    ),
    Invariant(
        id="outlet_run",
        rule=AtMost(load="bench_outlet", at_most_s=14_400.0, window_s=43_200.0),
        why="A glue pot was left on once.",
    ),
    Invariant(
        id="skylight_run", rule=AtMost(load="skylight", at_most_s=60.0, window_s=600.0), why=""
    ),
)
STOCK = (
    Stock(part="resistor 470 kΩ", pack=10, pack_price=1.2, in_drawer=4, spares=2),
    Stock(part="resistor 10 kΩ", pack=10, pack_price=1.2, in_drawer=12, spares=2),
    Stock(part="relay module, 5 V, 10 A, active low", pack=4, pack_price=11.5, spares=1),
    Stock(part="wire 0.5 mm²", pack=100, pack_price=19.0, in_drawer=60),
)


def _multiplexer_at_5v() -> BoardType:
    """The generic multiplexer, whose own sheet allows 5 V: a board of the house's own."""
    multiplexer = generic_types()["mux_8"]
    pins = tuple(pin.model_copy(update={"tolerates_v": 5.3}) for pin in multiplexer.pins)
    return multiplexer.model_copy(
        update={
            "id": "mux_8_at_5v",
            "name": "8-channel analog multiplexer at 5 V",
            "logic_v": 5.0,
            "supply_v": 5.0,
            "pins": pins,
            "note": "2 to 6 V by its sheet",
        }
    )


def wired(plan: Plan) -> Plan:
    """The laid-out plan with its wiring."""
    probes = tuple(
        probe.model_copy(update={"sensor": SENSORS[probe.id][0], "cable_m": SENSORS[probe.id][1]})
        if probe.id in SENSORS
        else probe.model_copy(update={"part_with": ONE_PART[probe.id]})
        for probe in plan.probes
    )
    loads = tuple(
        load.model_copy(update={**FIGURES[load.id], "nature": NATURES[load.id]})
        for load in plan.loads
    )
    plan = plan.model_copy(
        update={
            "probes": probes,
            "loads": loads,
            "supplies": SUPPLIES,
            "boards": BOARDS,
            "board_types": (_multiplexer_at_5v(),),
            "relays": RELAYS,
            "controls": CONTROLS,
            "groups": GROUPS,
            "invariants": INVARIANTS,
            "stock": STOCK,
        }
    )
    types = board_types(plan)
    known = {signal.id: signal for signal in signals(plan)}
    rows = []
    for line in PINS.split("\n"):
        if not line:
            continue
        name, board_id, pin = line.split()
        board = next(b for b in BOARDS if b.id == board_id)
        pin_facts = types[board.board_type].pin(pin)
        if pin_facts is None:
            raise KeyError(pin)
        slot = Slot(board=board_id, root=root_of(board), pins=(pin_facts,))
        hand = name in BY_HAND
        reason = "chosen by hand" if hand else reason_for(plan, known[name], slot)
        rows.append(
            Assignment(
                signal=name,
                board=board_id,
                pin=pin,
                by="hand" if hand else "solver",
                reason=reason,
            )
        )
    plan = plan.model_copy(update={"assignments": tuple(rows)})
    plan = copied(plan, "studio_unit", "Studio", ["Vault"])
    copy = copies_of(plan, "studio_unit")[0]
    for key in unit_of(plan, copy).parts:
        kind, _, part_id = key.partition(":")
        plan = move_part(plan, kind, part_id, "root_cellar")
    return plan
