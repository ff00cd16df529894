"""The transistor that drives a relay's coil, held against what its own pin gives."""

from aldea.core.base.errors import InputError
from aldea.core.physics.driver import BaseResistor, base_resistor
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput
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
