"""A relay's coil and the transistor that drives it."""

from dataclasses import dataclass

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short
from aldea.core.base.limits import ABOVE_ZERO, FINITE, takes
from aldea.core.physics.resistors import Series, below_ohm

BASE_EMITTER_V = 0.7


FORCED_BETA = 20.0


@takes(coil_v=FINITE, coil_ohm=ABOVE_ZERO)
def coil_power_w(coil_v: float, coil_ohm: float) -> float:
    """Coil power, P = V²/R, W."""
    return coil_v**2 / coil_ohm


@dataclass(frozen=True, slots=True, kw_only=True)
class BaseResistor:
    """The resistor from a pin to a driver transistor's base, and what flows then."""

    wanted_ohm: float
    chosen_ohm: float
    base_a: float
    beta_1: float
    drive_ok: bool


def base_resistor(
    *,
    coil_a: float,
    drive_v: float,
    pin_limit_a: float,
    vbe_v: float = BASE_EMITTER_V,
    beta_1: float = FORCED_BETA,
    series: Series = "E24",
) -> BaseResistor:
    """Saturating base resistor: R = (V − Vbe) · β / Ic, the next standard value below."""
    if not coil_a > 0:
        raise InputError("coil", got=f"{short(coil_a)} A", allowed="above 0 A")
    if not drive_v > vbe_v:
        raise InputError("drive", got=f"{short(drive_v)} V", allowed=f"above {short(vbe_v)} V")
    wanted = (drive_v - vbe_v) * beta_1 / coil_a
    chosen = below_ohm(wanted, series)
    base_a = (drive_v - vbe_v) / chosen
    return BaseResistor(
        wanted_ohm=wanted,
        chosen_ohm=chosen,
        base_a=base_a,
        beta_1=coil_a / base_a,
        drive_ok=base_a <= pin_limit_a,
    )
