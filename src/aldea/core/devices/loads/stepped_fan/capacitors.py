"""A fan behind series capacitors: reactance, current, voltages, and how long a charge stays.

Z = R + j (XL − Xc), linear motor at a fixed speed. Near XL = Xc current and voltages exceed the
direct connection: more capacitance is not always more speed.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.devices.loads.stepped_fan.model import FanStep, SteppedFan

NEAR_RESONANCE_1 = 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Running:
    """A motor behind capacitors: Ω, A, V, W, and the share of the direct current in %."""

    inductive_ohm: float
    capacitive_ohm: float
    impedance_ohm: float
    current_a: float
    motor_v: float
    capacitor_v: float
    power_w: float
    phase_deg: float
    share_pct: float
    near_resonance: bool


def reactance_ohm(capacitance_uf: float, mains_hz: float) -> float:
    """Xc = 1 / (2 π f C), Ω."""
    return 1 / (2 * math.pi * mains_hz * capacitance_uf * 1e-6)


def running(
    *,
    mains_v: float,
    mains_hz: float,
    motor_ohm: float,
    motor_henry: float,
    capacitors_uf: Sequence[float],
) -> Running:
    """A motor behind parallel capacitors; none means direct."""
    x_l = 2 * math.pi * mains_hz * motor_henry
    x_c = reactance_ohm(sum(capacitors_uf), mains_hz) if capacitors_uf else 0.0
    impedance = math.hypot(motor_ohm, x_l - x_c)
    motor = math.hypot(motor_ohm, x_l)
    current = mains_v / impedance
    return Running(
        inductive_ohm=x_l,
        capacitive_ohm=x_c,
        impedance_ohm=impedance,
        current_a=current,
        motor_v=current * motor,
        capacitor_v=current * x_c,
        power_w=current**2 * motor_ohm,
        phase_deg=math.degrees(math.atan2(x_l - x_c, motor_ohm)),
        share_pct=100 * motor / impedance,
        near_resonance=x_c > 0 and abs(x_l - x_c) < NEAR_RESONANCE_1 * x_l,
    )


def step_running(
    fan: SteppedFan, step: FanStep, *, mains_v: float, mains_hz: float
) -> Running | None:
    """What flows in a step of a fan; None where nothing is closed or a forbidden pair stands in it.

    A relay that is no capacitor's bridges those that are.
    """
    if not step.closed or not fan.reachable(step):
        return None
    caps = {c.role: c.capacitance_uf for c in fan.capacitors}
    direct = any(role not in caps for role in step.closed)
    return running(
        mains_v=mains_v,
        mains_hz=mains_hz,
        motor_ohm=fan.motor_ohm,
        motor_henry=fan.motor_henry,
        capacitors_uf=[] if direct else [caps[role] for role in step.closed],
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Bleed:
    """Discharge of a capacitor through its bleed resistor."""

    time_constant_s: float
    to_safe_s: float
    power_w: float
    from_v: float


def bleed(*, capacitance_uf: float, bleed_ohm: float, rms_v: float, safe_v: float) -> Bleed:
    """Time t = R C ln(Vpeak / Vsafe) from the peak of `rms_v`; power if it stood across it."""
    tau = bleed_ohm * capacitance_uf * 1e-6
    peak = rms_v * math.sqrt(2)
    return Bleed(
        time_constant_s=tau,
        to_safe_s=tau * max(0.0, math.log(peak / safe_v)),
        power_w=rms_v**2 / bleed_ohm,
        from_v=peak,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class RoleLoad:
    """The most that one relay of a fan carries in any step, A; V across its capacitor, if any."""

    current_a: float
    capacitor_v: float


def role_loads(fan: SteppedFan, *, mains_v: float, mains_hz: float) -> dict[str, RoleLoad]:
    """What each relay carries at most: of capacitors in parallel each has its share, C / ΣC.

    A relay without a capacitor carries the whole current of its step.
    """
    caps = {c.role: c.capacitance_uf for c in fan.capacitors}
    rows: dict[str, RoleLoad] = {}
    for step in fan.steps:
        state = step_running(fan, step, mains_v=mains_v, mains_hz=mains_hz)
        if state is None:
            continue
        direct = any(role not in caps for role in step.closed)
        total_uf = sum(caps[role] for role in step.closed if role in caps)
        for role in step.closed:
            share = 1.0 if role not in caps else 0.0 if direct else caps[role] / total_uf
            before = rows.get(role, RoleLoad(current_a=0.0, capacitor_v=0.0))
            across = state.capacitor_v if role in caps and not direct else 0.0
            rows[role] = RoleLoad(
                current_a=max(before.current_a, share * state.current_a),
                capacitor_v=max(before.capacitor_v, across),
            )
    return rows


def slowest_bleed(fan: SteppedFan, *, mains_v: float, mains_hz: float) -> Bleed | None:
    """The discharge that takes longest, each capacitor from the peak of its own highest voltage.

    Near resonance that is more than the mains'. None without capacitors or without bleeders.
    """
    if fan.bleed_ohm is None:
        return None
    loads = role_loads(fan, mains_v=mains_v, mains_hz=mains_hz)
    slowest = [
        bleed(
            capacitance_uf=cap.capacitance_uf,
            bleed_ohm=fan.bleed_ohm,
            rms_v=max(mains_v, loads[cap.role].capacitor_v) if cap.role in loads else mains_v,
            safe_v=fan.safe_v,
        )
        for cap in fan.capacitors
    ]
    return max(slowest, key=lambda one: one.to_safe_s, default=None)


def closes_onto_charge(fan: SteppedFan) -> tuple[FanStep, ...]:
    """Steps that put capacitors in parallel: one may hold a charge that the other does not."""
    caps = {c.role for c in fan.capacitors}
    return tuple(
        step for step in fan.steps if fan.reachable(step) and len(caps & set(step.closed)) > 1
    )
