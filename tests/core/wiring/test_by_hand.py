"""The schedule of a small house against a list made by hand, line by line."""

from tests.core.houses import built

from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.models import SEVERAL
from aldea.core.plan.controls import Control
from aldea.core.plan.defaults import new_load, new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.one_part import with_all_of_part
from aldea.core.plan.panel import Assignment, RelayOutput, Supply, TransistorSwitch
from aldea.core.wiring.conductors import conductors

PINS = {
    "probe:air.data": "IO21",
    "probe:air.clock": "IO22",
    "control:b.contact1": "IO32",
    "relay:k1.coil": "IO26",
    "relay:q2.coil": "IO27",
}
# As an electrician and a builder would write it: number, from, to, what it is.
BY_HAND = """
101 Supply:+ Module:+5 V 0.75 mm² red
102 Supply:− Module:0 V 0.75 mm² dark blue
103 Module:IO21 Air temperature:data 0.5 mm² white
104 Module:IO22 Air temperature:clock 0.5 mm² yellow
105 Module:+3.3 V Air temperature:+ 0.5 mm² red
106 Module:0 V Air temperature:0 V 0.5 mm² dark blue
107 Module:IO32 Button:contact1 0.5 mm² white
108 Module:0 V Button:back 0.5 mm² dark blue
109 Module:IO26 K1:IN 0.75 mm² white
110 Supply:+ K1:+ 0.75 mm² red
111 Supply:− K1:− 0.75 mm² dark blue
112 Module:IO27 Q2:in 0.75 mm² white
113 Supply:+ Fan:+ 0.75 mm² red
114 Fan:− Q2:load 0.75 mm² white
115 Q2:0 V Supply:− 0.75 mm² dark blue
L1 F1:L K1:11 electrician decides brown
1 K1:14 X1:1 electrician decides black
1′ X1:1 Heater:L electrician decides black
N1 N bar:N Heater:N electrician decides blue
PE1 PE bar:PE Heater:PE electrician decides green-yellow
"""


def small_house() -> Plan:
    """A climate part, a button, a heater by a relay, a 5 V fan by a transistor; one module."""
    plan = built([], 0, ["wifi_38"])
    heater = new_load(load_id="h", name="Heater", place="room", kind="relay").model_copy(
        update={"feed": "F1", "power_w": 400.0}
    )
    fan = new_load(load_id="f", name="Fan", place="room", kind="relay").model_copy(
        update={"volts": 5.0, "runs_on": "dc", "supply": "s", "power_w": 1.0, "nature": "motor"}
    )
    board = plan.boards[0].model_copy(update={"name": "Module", "supply": "s"})
    plan = plan.model_copy(
        update={
            "probes": (),
            "rules": (),
            "loads": (heater, fan),
            "boards": (board,),
            "supplies": (Supply(id="s", name="Supply", place="room", rating_ma=2000.0),),
            "relays": (
                RelayOutput(id="k1", load="h"),
                RelayOutput(id="q2", load="f", transistor=TransistorSwitch()),
            ),
            "controls": (
                Control(id="b", name="Button", place="room", kind="push_button", load="h"),
            ),
        }
    )
    air = new_probe(probe_id="air", name="Air", place="room", quantity="air_temperature")
    air = air.model_copy(update={"sensor": BusSensor(address=0x44)})
    plan = with_all_of_part(plan, air, SEVERAL["climate"])
    rows = tuple(
        Assignment(signal=signal, board="b0", pin=pin, by="hand") for signal, pin in PINS.items()
    )
    return plan.model_copy(update={"assignments": rows})


def test_the_schedule_is_what_one_writes_by_hand():
    lines = [
        f"{w.number} {w.start} {w.end} {w.section} {w.colour}" for w in conductors(small_house())
    ]
    assert lines == BY_HAND.strip().splitlines()


def test_what_is_to_be_known_of_a_line_stands_beside_it():
    notes = {w.end: w.note for w in conductors(small_house()) if w.note}
    assert notes == {
        "Air temperature:data": "address 0x44; 4.7 kΩ pull-ups to the board’s logic "
        "supply, once a bus",
        "K1:IN": "module, active high",
        "Q2:in": "220 Ω in line; 4.7 kΩ from it to 0 V",
        "Fan:+": "flyback diode across the load, cathode to plus",
        "Heater:PE": "where it has one",
    }
