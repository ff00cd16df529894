"""The transistor that drives a coil, or switches a load: held against what its own pin gives."""

import math
from dataclasses import dataclass

from aldea.core.base.errors import InputError
from aldea.core.devices.loads.ratings import load_current_a
from aldea.core.physics.driver import BaseResistor, base_resistor
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput, TransistorSwitch
from aldea.core.plan.seats import pin_of, reader_of


def driver_of(plan: Plan, relay: RelayOutput) -> BaseResistor | None:
    """The base resistor of a relay's driver transistor.

    None while the relay has no pin, and where no standard resistor carries such a coil.
    """
    signal = f"relay:{relay.id}.coil"
    kind, pin = reader_of(plan, signal), pin_of(plan, signal)
    if kind is None or pin is None:
        return None
    try:
        return base_resistor(
            coil_a=relay.coil_ma / 1000, drive_v=kind.logic_v, pin_limit_a=pin.limit_ma / 1000
        )
    except InputError:
        return None


PULSE_1 = 3.0  # how many times its limit a transistor bears for tenths of a second; assumed


def bears_a(transistor: TransistorSwitch) -> float:
    """What a transistor carries for good, A: its limit, and less where it would get too warm."""
    if transistor.kind == "bipolar":
        return min(transistor.limit_a, MOST_RISE_K / (transistor.on_v * transistor.heat_k_per_w))
    return min(
        transistor.limit_a, math.sqrt(MOST_RISE_K / (transistor.on_ohm * transistor.heat_k_per_w))
    )


def starts_a(transistor: TransistorSwitch) -> float:
    """What a transistor bears while its load starts, A; a bipolar one no more than its limit."""
    return transistor.limit_a * (1.0 if transistor.kind == "bipolar" else PULSE_1)


MOST_RISE_K = 60.0  # over the air around it, so that it stays under 100 °C in a warm box
GATE_OHM = 220.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Switched:
    """A load switched by a transistor: A, W lost in it, K that it warms; its resistor at the pin.

    `gate_v` is what the pin gives, None while it has none; `base` that of a bipolar one.
    """

    current_a: float
    lost_w: float
    rise_k: float
    gate_v: float | None
    base: BaseResistor | None


def switched_by(plan: Plan, relay: RelayOutput) -> Switched | None:
    """What a transistor that switches a load bears; None where it is a relay."""
    switch, load = relay.transistor, plan.load(relay.load)
    if switch is None or load is None:
        return None
    current = load_current_a(load, plan)
    bipolar = switch.kind == "bipolar"
    lost = current * switch.on_v if bipolar else current**2 * switch.on_ohm
    signal = f"relay:{relay.id}.coil"
    kind, pin = reader_of(plan, signal), pin_of(plan, signal)
    base = None
    if bipolar and kind is not None and pin is not None and current > 0:
        try:
            base = base_resistor(
                coil_a=current, drive_v=kind.logic_v, pin_limit_a=pin.limit_ma / 1000
            )
        except InputError:
            base = None
    return Switched(
        current_a=current,
        lost_w=lost,
        rise_k=lost * switch.heat_k_per_w,
        gate_v=kind.logic_v if kind is not None else None,
        base=base,
    )
