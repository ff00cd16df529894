"""Photoresistors by the gamma law: R = R10 · (E / 10 lx)^−γ."""

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short


def photoresistor_ohm(lux: float, *, r10_ohm: float, gamma_1: float) -> float:
    """Resistance at an illuminance in lx, Ω; `InputError` for no light at all."""
    if not lux > 0:
        raise InputError("illuminance", got=f"{short(lux)} lx", allowed="above 0")
    return r10_ohm * float((lux / 10) ** -gamma_1)


def photoresistor_lux(ohm: float, *, r10_ohm: float, gamma_1: float) -> float:
    """Illuminance for a resistance, lx; `InputError` for a resistance that is not above zero."""
    if not ohm > 0:
        raise InputError("resistance", got=f"{short(ohm)} Ω", allowed="above 0")
    return 10 * float((r10_ohm / ohm) ** (1 / gamma_1))


def lux_factor(r10_share_1: float, gamma_1: float) -> float:
    """Inferred over true lux when the real R10 is `r10_share_1` times the stated one."""
    return float(r10_share_1 ** (-1 / gamma_1))
