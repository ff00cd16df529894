"""Photoresistors by the gamma law: R = R10 · (E / 10 lx)^−γ; γ 0.1 to 10, all else above zero."""

from aldea.core.base.limits import ABOVE_ZERO, Limit, takes

GAMMA = Limit(low=0.1, high=10.0)


@takes(lux=ABOVE_ZERO, r10_ohm=ABOVE_ZERO, gamma_1=GAMMA)
def photoresistor_ohm(lux: float, *, r10_ohm: float, gamma_1: float) -> float:
    """Resistance at an illuminance in lx, Ω; `InputError` for no light at all."""
    return r10_ohm * float((lux / 10) ** -gamma_1)


@takes(ohm=ABOVE_ZERO, r10_ohm=ABOVE_ZERO, gamma_1=GAMMA)
def photoresistor_lux(ohm: float, *, r10_ohm: float, gamma_1: float) -> float:
    """Illuminance for a resistance, lx; `InputError` for a resistance that is not above zero."""
    return 10 * float((r10_ohm / ohm) ** (1 / gamma_1))


@takes(r10_share_1=ABOVE_ZERO, gamma_1=GAMMA)
def lux_factor(r10_share_1: float, gamma_1: float) -> float:
    """Inferred over true lux when the real R10 is `r10_share_1` times the stated one."""
    return float(r10_share_1 ** (-1 / gamma_1))
