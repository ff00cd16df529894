"""What holds a pin while its board starts: the levels that a part may put there.

A contact to 0 V can be closed or open; a module idles where its own resistor pulls it; a bus and a
serial line idle high; what gives a voltage of its own may be anywhere.
"""

from aldea.core.devices.signal import Signal
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Pin, RelayOutput

Levels = frozenset[str]
LOW, HIGH = frozenset({"low"}), frozenset({"high"})
EITHER: Levels = LOW | HIGH


def idle_level(relay: RelayOutput) -> str:
    """The level at which a relay stays released."""
    return "low" if relay.pulls_in == "high" else "high"


def levels_at_start(plan: Plan, signal: Signal, pin: Pin) -> Levels:
    """The levels that what hangs on a pin may hold it at while the board starts.

    Empty where it leaves the pin to itself, so that the pin's own pull decides.
    """
    kind, _, part_id = signal.owner.partition(":")
    if kind == "relay":
        return _of_relay(plan, part_id)
    if signal.share or "serial_rx" in signal.needs:
        return HIGH
    if signal.bare_contact:
        # closed it is low; open the pin's own pull decides, or the resistor beside it
        return LOW if signal.wants_pull and pin.boot_pull != "up" else EITHER
    if kind == "control":
        lamp = signal.drives  # it pulls its pin down a little, and no more
        return LOW if lamp else EITHER
    return frozenset() if signal.drives or "serial_tx" in signal.needs else EITHER


def _of_relay(plan: Plan, relay_id: str) -> Levels:
    relay = next((r for r in plan.relays if r.id == relay_id), None)
    if relay is None:
        return frozenset()
    if relay.transistor is not None:
        return LOW
    if relay.pull_ohm is not None or relay.driver == "module":
        return frozenset({idle_level(relay)})
    return LOW if relay.driver == "transistor" else frozenset()


def upsets_start(plan: Plan, signal: Signal, pin: Pin) -> bool:
    """Whether a part may hold a pin that decides the boot mode at the wrong level."""
    if not pin.decides_boot:
        return False
    return bool(levels_at_start(plan, signal, pin) - {pin.boot_needs})
