"""What the uncertainty of a derived signal is: that of its members, carried through what it is.

First order, members independent (JCGM 100:2008, 5.1.2): U² = Σ (∂f/∂x)² U². Probes that owe the
same reference share an error, which a difference would not see and a mean would not lose: so a mean
of such probes is promised too little and their difference too much. Where a slope depends on where
the members stand, it is taken at 20 °C and 50 %RH, at an echo over a metre and at ten lux.
"""

import math
from collections.abc import Callable, Sequence

from aldea.core.base.figures import short
from aldea.core.physics.moist_air import absolute_humidity_g_per_m3, dew_point_degc
from aldea.core.physics.sound import sound_m_per_s
from aldea.core.plan.derived import (
    Derived,
    EchoDistance,
    LessThan,
    Lux,
    MoistAir,
    RateOf,
    Statistic,
    read_by,
)
from aldea.core.plan.document import Plan
from aldea.core.plan.reading import derived_of

AT_DEGC, AT_RH_PCT, AT_M, AT_LX = 20.0, 50.0, 1.0, 10.0
STEP = 1e-4


def expanded_uncertainty(plan: Plan, name: str, *at: float) -> float | None:
    """U (k = 2) of a probe or a derived signal, in its unit; None where there is none of that id.

    `at` are the values of a probe for which it is wanted: the largest counts, for it grows outside
    what the pairs of its line showed. The members of a signal are taken inside.
    A rate is in its unit a minute, and what is constant in the probe's error is not in it: it is an
    upper bound.
    """
    probe = plan.probe(name)
    if probe is not None:
        line = probe.calibration
        return max((line.expanded_at(value) for value in at), default=line.expanded_uncertainty)
    signal = derived_of(plan, name)
    if signal is None:
        return None
    members = [expanded_uncertainty(plan, member) for member in read_by(signal.made)]
    if any(member is None for member in members):
        return None
    return _carried(signal, [member for member in members if member is not None])


def where_taken(signal: Derived) -> str:
    """Where the members stand for the slope, in words; empty where it is the same everywhere."""
    if isinstance(signal.made, MoistAir):
        return f"at {short(AT_DEGC)} °C and {short(AT_RH_PCT)} %RH"
    if isinstance(signal.made, EchoDistance):
        return f"at {short(AT_M)} m and {short(AT_DEGC)} °C"
    return f"at {short(AT_LX)} lx" if isinstance(signal.made, Lux) else ""


def _carried(signal: Derived, of: Sequence[float]) -> float:
    computed = signal.made
    if isinstance(computed, Statistic):
        return math.hypot(*of) / len(of) if computed.kind == "mean" else max(of)
    if isinstance(computed, LessThan):
        return math.hypot(*of)
    if isinstance(computed, RateOf):
        return math.sqrt(2) * of[0] / (computed.over_s / 60)
    if isinstance(computed, MoistAir):
        law = dew_point_degc if computed.kind == "dew_point" else absolute_humidity_g_per_m3
        return _through(law, (AT_DEGC, AT_RH_PCT), of)
    if isinstance(computed, EchoDistance):
        assumed = computed.assumed_degc

        def distance(measured: float, temp_degc: float) -> float:
            return measured * sound_m_per_s(temp_degc) / sound_m_per_s(assumed)

        return _through(distance, (AT_M, AT_DEGC), of)
    return _of_light(computed, of[0])


def _of_light(light: Lux, of: float) -> float:
    """Of ten lux by a share of the supply."""
    sensor_high = light.side == "sensor_high"
    fixed, other = light.fixed_ohm, light.r10_ohm
    share = (fixed if sensor_high else other) / (fixed + other)

    def lux(at: float) -> float:
        ohms = fixed * (1 - at) / at if sensor_high else fixed * at / (1 - at)
        return AT_LX * float((ohms / other) ** (-1 / light.gamma_1))

    return _through(lux, (share,), (of,))


def _through(law: Callable[..., float], at: Sequence[float], of: Sequence[float]) -> float:
    parts = []
    for i, uncertainty in enumerate(of):
        step = STEP * max(1.0, abs(at[i]))
        up = [x + step * (j == i) for j, x in enumerate(at)]
        down = [x - step * (j == i) for j, x in enumerate(at)]
        parts.append((law(*up) - law(*down)) / (2 * step) * uncertainty)
    return math.hypot(*parts)
