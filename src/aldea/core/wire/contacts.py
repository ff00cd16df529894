"""What a relay contact bears: a load's current, its inrush class, derating, a contactor instead.

The factors are the usual ones of contact rating practice; they are stated, not measured, and the
relay's own sheet goes before them.
"""

from dataclasses import dataclass

from aldea.core.plan.document import Load, LoadKind, Plan
from aldea.core.plan.loads import Nature
from aldea.core.plan.wiring import RelayLine
from aldea.core.wire.dropper import step_running

# share of the resistive rating that a contact bears, and how many times the current flows at first
DERATING_1: dict[Nature, float] = {
    "resistive": 0.8,
    "motor": 0.2,
    "lamp": 0.1,
    "capacitive": 0.15,
    "coil": 0.4,
}
INRUSH_1: dict[Nature, float] = {
    "resistive": 1.0,
    "motor": 6.0,
    "lamp": 12.0,
    "capacitive": 20.0,
    "coil": 3.0,
}
POWER_FACTOR_1: dict[Nature, float] = {
    "resistive": 1.0,
    "motor": 0.8,
    "lamp": 1.0,
    "capacitive": 0.9,
    "coil": 0.6,
}
CONTACTOR_COIL_A = 0.05
# A contactor has no change-over contact for a two-way circuit; a drive's button is volt-free.
NO_CONTACTOR: tuple[LoadKind, ...] = ("two_way", "pulse_drive")


@dataclass(frozen=True, slots=True, kw_only=True)
class Contact:
    """A contact against its load; amperes."""

    current_a: float
    inrush_a: float
    allowed_a: float
    fits: bool


def load_current_a(load: Load, plan: Plan) -> float:
    """Running current of a load at the house's mains, A: P / (V · power factor of its class).

    Of a fan in steps the highest that its motor and capacitors let flow, where that is more.
    """
    stated = load.power_w / (plan.house.mains_v * POWER_FACTOR_1[load.nature])
    if load.stepped is None:
        return stated
    states = (
        step_running(load.stepped, s, mains_v=plan.house.mains_v, mains_hz=plan.house.mains_hz)
        for s in load.stepped.steps
    )
    return max((stated, *(state.current_a for state in states if state is not None)))


def has_contactor(relay: RelayLine, load: Load) -> bool:
    """Whether a contactor stands between a relay and its load, where the circuit takes one."""
    return relay.contactor and load.kind not in NO_CONTACTOR


def contact_of(relay: RelayLine, load: Load, plan: Plan) -> Contact:
    """Whether a relay's contact bears its load; with a contactor it bears that one's coil."""
    if has_contactor(relay, load):
        allowed = relay.rated_a * DERATING_1["coil"]
        return Contact(
            current_a=CONTACTOR_COIL_A,
            inrush_a=CONTACTOR_COIL_A * INRUSH_1["coil"],
            allowed_a=allowed,
            fits=allowed >= CONTACTOR_COIL_A,
        )
    current = load_current_a(load, plan)
    allowed = relay.rated_a * DERATING_1[load.nature]
    return Contact(
        current_a=current,
        inrush_a=current * INRUSH_1[load.nature],
        allowed_a=allowed,
        fits=current <= allowed,
    )
