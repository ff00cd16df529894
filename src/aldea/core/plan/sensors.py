"""How a probe is made, electrically: each kind carries the figures that it needs and no others."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from aldea.core.plan.base import Identifier, MilliAmperes, Ohms, Part, Volts

Energy = Annotated[float, Field(ge=0, le=1e6)]
Side = Literal["sensor_low", "sensor_high"]
ContactMeans = Literal["on", "off"]


class Thermistor(Part):
    """A thermistor in a divider: resistance at 25 °C, B value, the fixed resistor and its side.

    `curve` are Steinhart–Hart coefficients (A, B, C; K⁻¹, ln Ω) where three or more points gave
    them; they go before the B value. `supply_v` feeds the divider where that is not what the
    converter compares with; None means ratiometric.
    """

    kind: Literal["thermistor"] = "thermistor"
    r25_ohm: Ohms = 10_000.0
    beta_k: Annotated[float, Field(ge=1000, le=8000)] = 3950.0
    fixed_ohm: Ohms = 10_000.0
    side: Side = "sensor_low"
    curve: tuple[float, float, float] | None = None
    supply_v: Volts | None = None


class LightResistor(Part):
    """A photoresistor in a divider: resistance at 10 lx, its gamma, the wanted threshold.

    `own_lamp_lux` is what the lamp that it switches adds to its reading.
    """

    kind: Literal["light_resistor"] = "light_resistor"
    r10_ohm: Ohms = 20_000.0
    gamma_1: Annotated[float, Field(gt=0.1, lt=2)] = 0.7
    fixed_ohm: Ohms = 10_000.0
    side: Side = "sensor_high"
    threshold_lux: Annotated[float, Field(gt=0, le=200_000)] = 20.0
    own_lamp_lux: Annotated[float, Field(ge=0, le=200_000)] = 0.0


class LeakTape(Part):
    """A leak tape: the resistor across its far end, the one in the divider, and what is wet.

    `damp_ohm` is where damp begins, found at the bench from the tape's own dry baseline; without
    it a usual share of the far end stands for it.
    """

    kind: Literal["leak_tape"] = "leak_tape"
    end_of_line_ohm: Ohms | None = 470_000.0
    fixed_ohm: Ohms = 470_000.0
    wet_ohm: Ohms = 60_000.0
    damp_ohm: Ohms | None = None
    excitation: Literal["constant", "pulsed", "alternating"] = "pulsed"


class VoltageSensor(Part):
    """What gives a voltage: its highest volts, and the divider that brings it down."""

    highest_v: Volts = 3.3
    upper_ohm: Ohms | None = None
    lower_ohm: Ohms | None = None
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 5.0


class AnalogSensor(VoltageSensor):
    """A sensor with a voltage out."""

    kind: Literal["analog"] = "analog"


class GasSensor(VoltageSensor):
    """A heated gas or smoke sensor: its warm-up, volts in clean air, the ratio that speaks."""

    kind: Literal["gas"] = "gas"
    highest_v: Volts = 5.0
    supply_ma: MilliAmperes = 150.0
    warm_up_s: Annotated[float, Field(ge=0, le=259_200)] = 180.0
    clean_air_v: Annotated[float, Field(gt=0, le=60)] | None = None
    alarm_ratio_1: Annotated[float, Field(gt=1, le=100)] = 1.5


class Photodiode(VoltageSensor):
    """A photodiode with its amplifier: A/W, mm², Ω of feedback, nA in the dark."""

    kind: Literal["photodiode"] = "photodiode"
    responsivity_a_per_w: Annotated[float, Field(gt=0, le=2)] = 0.5
    area_mm2: Annotated[float, Field(gt=0, le=1000)] = 1.0
    feedback_ohm: Ohms = 20_000.0
    dark_na: Annotated[float, Field(ge=0, le=1e6)] = 1.0


class BusSensor(Part):
    """A digital sensor on the two-wire bus with an address of 7 bits."""

    kind: Literal["bus"] = "bus"
    address: Annotated[int, Field(ge=0, le=127)]
    supply_v: Volts = 3.3
    supply_ma: MilliAmperes = 2.5


class OneWireSensor(Part):
    """A digital sensor on a single shared data wire with a 4.7 kΩ pull-up; its own 64-bit code."""

    kind: Literal["one_wire"] = "one_wire"
    code: Annotated[str, StringConstraints(pattern=r"^([0-9a-f]{16})?$")] = ""
    supply_v: Volts = 3.3
    supply_ma: MilliAmperes = 1.5


class SerialSensor(Part):
    """A sensor that talks over two crossed serial lines, such as a presence radar.

    `gates` are a radar's thresholds by distance, `hold_s` how long presence is held after the last.
    """

    kind: Literal["serial"] = "serial"
    output_v: Volts = 3.3
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 80.0
    gates: Annotated[tuple[Energy, ...], Field(max_length=16)] = ()
    hold_s: Annotated[float, Field(ge=0, le=86_400)] = 0.0


class EchoSensor(Part):
    """An ultrasonic distance sensor: a trigger in, an echo out that a divider may bring down.

    Something is there when it reads nearer than `occupied_below_m`.
    """

    kind: Literal["echo"] = "echo"
    output_v: Volts = 5.0
    upper_ohm: Ohms | None = None
    lower_ohm: Ohms | None = None
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 15.0
    occupied_below_m: Annotated[float, Field(gt=0, le=20)] | None = None


class ContactSensor(Part):
    """A bare contact, such as an end contact: what closed means, pull-up and debounce."""

    kind: Literal["contact"] = "contact"
    closed_means: ContactMeans = "on"
    pull: Literal["board", "resistor"] = "board"
    pull_ohm: Ohms = 10_000.0
    debounce_ms: Annotated[float, Field(ge=0, le=10_000)] = 30.0


class MotionSensor(Part):
    """A motion detector with one line that is high while something moves, and its hold time.

    As the outer one of a doorway pair it names the inner one and the longest gap between the two.
    """

    kind: Literal["motion"] = "motion"
    hold_s: Annotated[float, Field(ge=0, le=86_400)] = 0.0
    inner: Identifier | None = None
    longest_gap_s: Annotated[float, Field(ge=0, le=60)] = 0.0
    output_v: Volts = 3.3
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 1.0


class PulseSensor(Part):
    """A meter that gives pulses."""

    kind: Literal["pulse"] = "pulse"
    output_v: Volts = 3.3


class MainsSense(Part):
    """An isolated detector across a switched mains output: it tells what the lamp really does."""

    kind: Literal["mains_sense"] = "mains_sense"


Sensor = Annotated[
    Thermistor
    | LightResistor
    | LeakTape
    | AnalogSensor
    | GasSensor
    | Photodiode
    | BusSensor
    | OneWireSensor
    | SerialSensor
    | EchoSensor
    | ContactSensor
    | MotionSensor
    | PulseSensor
    | MainsSense,
    Field(discriminator="kind"),
]
SENSOR_KINDS: dict[str, tuple[type[Part], str]] = {
    "thermistor": (Thermistor, "thermistor in a divider"),
    "light_resistor": (LightResistor, "photoresistor in a divider"),
    "leak_tape": (LeakTape, "leak tape"),
    "analog": (AnalogSensor, "sensor with a voltage out"),
    "gas": (GasSensor, "heated gas or smoke sensor"),
    "photodiode": (Photodiode, "photodiode with amplifier"),
    "bus": (BusSensor, "digital, two-wire bus"),
    "one_wire": (OneWireSensor, "digital, single wire"),
    "serial": (SerialSensor, "serial, two crossed lines"),
    "echo": (EchoSensor, "ultrasonic, trigger and echo"),
    "contact": (ContactSensor, "bare contact"),
    "motion": (MotionSensor, "motion detector"),
    "pulse": (PulseSensor, "pulse meter"),
    "mains_sense": (MainsSense, "mains-sensing input, isolated"),
}
