"""What a relay contact bears: a load's current, its inrush class, derating, a contactor instead.

The factors are the usual ones of contact rating practice; they are stated, not measured, and the
relay's own sheet goes before them.
"""

from dataclasses import dataclass

from aldea.core.devices.loads.facts import Nature
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import RelayOutput

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
# of the rating at mains, on direct current up to 30 V; an arc of a coil or a motor goes out late
DC_DERATING_1: dict[Nature, float] = {
    "resistive": 0.8,
    "motor": 0.15,
    "lamp": 0.1,
    "capacitive": 0.1,
    "coil": 0.2,
}
DC_ABOVE_V, DC_ABOVE_1 = 30.0, 0.2  # over it an arc stays, and a contact bears a fifth


@dataclass(frozen=True, slots=True, kw_only=True)
class Contact:
    """A contact against its load; amperes."""

    current_a: float
    inrush_a: float
    allowed_a: float
    fits: bool


def load_current_a(load: Load, plan: Plan) -> float:
    """Running current of a load, A: P / (V · power factor of its class), at mains or its own volts.

    Where its kind's own figures tell what flows they go before it, so that circuit, schedule and
    contact have one answer.
    """
    return load_device(load).current_a(load, plan.house) or plate_current_a(load, plan)


def plate_current_a(load: Load, plan: Plan) -> float:
    """What the watts of its plate say, A."""
    factor = POWER_FACTOR_1[load.nature] if load.runs_on == "ac" else 1.0
    return load.power_w / ((load.volts or plan.house.mains_v) * factor)


def start_current_a(load: Load, plan: Plan) -> float:
    """What flows in the first moment, A: running current times the usual inrush of its kind."""
    return load_current_a(load, plan) * INRUSH_1[load_device(load).worst_nature(load)]


def has_coil(load: Load) -> bool:
    """Whether direct current through it must find a way on when it is switched off."""
    return load.nature in ("motor", "coil") and load.runs_on == "dc" and not load.on_mains


def derating_1(load: Load) -> float:
    """The share of its rating that a contact bears under a load, by what the load is."""
    nature = load_device(load).worst_nature(load)
    if load.runs_on == "ac":
        return DERATING_1[nature]
    above = (load.volts or 0.0) > DC_ABOVE_V
    return DC_DERATING_1[nature] * (DC_ABOVE_1 if above else 1.0)


def has_contactor(relay: RelayOutput, load: Load) -> bool:
    """Whether a contactor stands between a relay and its load, where the circuit takes one."""
    return relay.contactor and load.on_mains and not load_device(load).no_contactor


def contact_of(relay: RelayOutput, load: Load, plan: Plan) -> Contact:
    """Whether a relay's contact bears its load; with a contactor it bears that one's coil."""
    if has_contactor(relay, load):
        allowed = relay.rated_a * DERATING_1["coil"]
        return Contact(
            current_a=CONTACTOR_COIL_A,
            inrush_a=CONTACTOR_COIL_A * INRUSH_1["coil"],
            allowed_a=allowed,
            fits=allowed >= CONTACTOR_COIL_A,
        )
    share = load_device(load).role_share_1(load, relay.role, plan.house)
    current = share * load_current_a(load, plan)
    allowed = relay.rated_a * derating_1(load)
    return Contact(
        current_a=current,
        inrush_a=current * INRUSH_1[load_device(load).worst_nature(load)],
        allowed_a=allowed,
        fits=current <= allowed,
    )
