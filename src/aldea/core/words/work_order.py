"""The order in which a panel is wired and tried: low voltage first, mains last, and dead."""

from aldea.core.plan.document import Plan
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.seated import seated


def work_order(plan: Plan) -> tuple[str, ...]:
    """The steps of one panel, in sentences; only those that it has."""
    wires = conductors(plan)
    low = [wire for wire in wires if wire.net == "ELV"]
    mains = [wire for wire in wires if wire.net == "mains"]
    steps: list[str] = []
    if low:
        steps.append(
            f"Wire all {len(low)} conductors of extra-low voltage, and tick each as it is seen."
        )
        steps.append(
            "With nothing at mains yet: measure the supplies, then what an ohmmeter should show."
        )
    pulled = sorted(
        {f"{signal.name} ({pin.name})" for signal, _, _, _, pin in seated(plan) if pin.programming}
    )
    if pulled:
        steps.append(f"Before loading a program, unplug {', '.join(pulled)}; plug in after.")
    if low:
        steps.append(
            "Load the program, and try every relay and transistor with a lamp in its load’s place."
        )
    if mains:
        steps.append(
            f"Then the {len(mains)} mains conductors, dead and proven dead, by an electrician."
        )
    return tuple(steps)
