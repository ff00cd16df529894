"""What benches of a thermistor have in common: what the plan takes for granted, all of one make."""

from aldea.core.base.figures import ohms, short
from aldea.core.calibrate.detective import Assumptions, assumed_of
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.document import Plan, Probe
from aldea.web.benches.calibrate.recordings.bench import Beside, Given, sensor_of

SIDES = {"sensor_low": "between pin and 0 V", "sensor_high": "between pin and +"}


def thermistors(plan: Plan) -> list[tuple[Probe, Thermistor]]:
    """Every probe that is made as a thermistor."""
    return [(p, p.sensor) for p in plan.probes if isinstance(p.sensor, Thermistor)]


def assumed_here(given: Given) -> Assumptions:
    """The same for the probe whose bench it is."""
    sensor = sensor_of(given.plan, given.subject, Thermistor)
    return assumed_of(given.plan, given.probe, sensor)


def taken_for_granted(given: Given) -> Beside:
    """What the plan takes for granted, as facts."""
    assumed = assumed_here(given)
    return Beside(
        title="Assumptions",
        facts=(
            ("Sensor", SIDES[assumed.side]),
            ("Fixed resistor", ohms(assumed.fixed_ohm)),
            ("Divider’s supply", f"{short(assumed.supply_v)} V"),
            ("Converter", f"{assumed.bits} bits over {short(assumed.reference_v)} V"),
            ("At 25 °C", f"{ohms(assumed.r25_ohm)}, B {short(assumed.beta_k)} K"),
        ),
    )
