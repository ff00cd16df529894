"""A thermistor's curve from points: B equation, Steinhart–Hart, how far each misses; self-heating.

IEC 60539-1: R = R25 exp(B (1/T − 1/298.15 K)). Steinhart & Hart 1968: 1/T = A + B ln R + C ln³ R.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import short
from aldea.core.devices.sensors.thermistor.law import T25_K, thermistor_degc, thermistor_ohm
from aldea.core.physics.divider import Divider
from aldea.core.physics.moist_air import KELVIN_AT_ZERO_DEGC

ROUNDING_K = 0.02  # what resistances to four digits leave
LOWEST_DEGC, HIGHEST_DEGC = -55.0, 150.0


@dataclass(frozen=True, slots=True)
class CurvePoint:
    """A resistance measured at a known temperature: °C and Ω."""

    temp_degc: float
    ohm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BetaCurve:
    """The B equation: resistance at 25 °C, Ω, and B, K."""

    r25_ohm: float
    beta_k: float

    def degc(self, ohm: float) -> float:
        """Temperature for a resistance, °C."""
        return thermistor_degc(ohm, r25_ohm=self.r25_ohm, beta_k=self.beta_k)


@dataclass(frozen=True, slots=True, kw_only=True)
class SteinhartHart:
    """Coefficients in 1/K for a resistance in Ω, and the temperatures that they rest on, °C.

    `needs_c_k` is how far the points lie from a curve without the third coefficient, K.
    """

    a: float
    b: float
    c: float
    low_degc: float
    high_degc: float
    needs_c_k: float = math.inf

    @property
    def doubtful(self) -> bool:
        """A negative C: real thermistors have a positive one, so a point is most likely wrong.

        Points that need no third coefficient give it the sign of their rounding.
        """
        return self.c < 0 and self.needs_c_k > ROUNDING_K

    def degc(self, ohm: float) -> float:
        """Temperature for a resistance, °C."""
        if not ohm > 0:
            raise InputError("resistance", got=f"{short(ohm)} Ω", allowed="above 0")
        ln = math.log(ohm)
        return 1 / (self.a + self.b * ln + self.c * ln**3) - KELVIN_AT_ZERO_DEGC

    def ohm(self, temp_degc: float) -> float:
        """Resistance at a temperature, Ω, solved by bracketing: the cube root fails for C < 0."""
        wanted = 1 / (temp_degc + KELVIN_AT_ZERO_DEGC)

        def off(ln: float) -> float:
            return self.a + self.b * ln + self.c * ln**3 - wanted

        low, high = math.log(1.0), math.log(1e8)
        if self.c < 0:
            turn = math.sqrt(-self.b / (3 * self.c)) if self.b > 0 else high
            high = min(high, turn)  # beyond it the curve turns back
        if off(low) * off(high) > 0:
            raise InputError(
                "temperature",
                got=f"{short(temp_degc)} °C",
                allowed=f"{short(self.low_degc)} to {short(self.high_degc)} °C and a little beyond",
            )
        return math.exp(_root(off, low, high))


def checked(points: Sequence[CurvePoint], *, fewest: int) -> None:
    """Raise `CalibrationError` where points carry no curve: too few, impossible, or not falling."""
    if len({p.temp_degc for p in points}) < fewest:
        raise CalibrationError(
            "points",
            got=f"{len({p.temp_degc for p in points})} temperatures",
            allowed=f"{fewest} or more",
            fix="Measure the resistance at one more temperature, far from the others.",
        )
    for p in points:
        if not (LOWEST_DEGC <= p.temp_degc <= HIGHEST_DEGC and 0 < p.ohm < 1e9):
            raise CalibrationError(
                "points",
                got=f"{short(p.temp_degc)} °C, {short(p.ohm)} Ω",
                allowed=f"{short(LOWEST_DEGC)} to {short(HIGHEST_DEGC)} °C and more than 0 Ω",
            )
    ordered = sorted(points, key=lambda p: p.temp_degc)
    for colder, warmer in pairwise(ordered):
        if colder.temp_degc < warmer.temp_degc and colder.ohm <= warmer.ohm:
            raise CalibrationError(
                "points",
                got=f"{short(colder.ohm)} Ω at {short(colder.temp_degc)} °C but "
                f"{short(warmer.ohm)} Ω at {short(warmer.temp_degc)} °C",
                allowed="less resistance when warmer",
                fix="Two points are exchanged, or the sensor sits on the other side of the "
                "divider.",
            )


def beta_curve(points: Sequence[CurvePoint]) -> BetaCurve:
    """B and R25 through two points or more: least squares of ln R over 1/T."""
    checked(points, fewest=2)
    inverse = np.array([1 / (p.temp_degc + KELVIN_AT_ZERO_DEGC) - 1 / T25_K for p in points])
    log_ohm = np.log([p.ohm for p in points])
    deviation = inverse - inverse.mean()
    beta = float(deviation @ (log_ohm - log_ohm.mean()) / (deviation @ deviation))
    return BetaCurve(
        r25_ohm=math.exp(float(log_ohm.mean()) - beta * float(inverse.mean())), beta_k=beta
    )


def steinhart_hart(points: Sequence[CurvePoint]) -> SteinhartHart:
    """Coefficients through three points, or unweighted least squares of 1/T through more.

    The columns are scaled before they are solved: ln³ R is a hundred times ln R.
    """
    checked(points, fewest=3)
    ln = np.log([p.ohm for p in points])
    columns = np.column_stack([np.ones_like(ln), ln, ln**3])
    scale = np.abs(columns).max(axis=0)
    inverse = np.array([1 / (p.temp_degc + KELVIN_AT_ZERO_DEGC) for p in points])
    solved, *_ = np.linalg.lstsq(columns / scale, inverse, rcond=None)
    a, b, c = (solved / scale).tolist()
    temps = [p.temp_degc for p in points]
    two, *_ = np.linalg.lstsq(columns[:, :2], inverse, rcond=None)
    misses = 1 / (columns[:, :2] @ two) - 1 / inverse
    return SteinhartHart(
        a=a, b=b, c=c, low_degc=min(temps), high_degc=max(temps),
        needs_c_k=float(np.abs(misses).max()),
    )  # fmt: skip


def self_heating_k(
    divider: Divider, ohm: float, *, dissipation_w_per_k: float, duty: float = 1.0
) -> float:
    """How far the divider's own current warms a thermistor of a given resistance, K: P / δ."""
    current_a = divider.supply_v / (ohm + divider.fixed_ohm)
    return current_a**2 * ohm * duty / dissipation_w_per_k


def warmed_degc(
    divider: Divider,
    ambient_degc: float,
    *,
    curve: BetaCurve,
    dissipation_w_per_k: float,
    duty: float = 1.0,
) -> float:
    """Where a thermistor settles that its own divider warms, °C: T = Ta + P(R(T)) / δ."""

    def off(temp_degc: float) -> float:
        ohm = thermistor_ohm(temp_degc, r25_ohm=curve.r25_ohm, beta_k=curve.beta_k)
        rise = self_heating_k(divider, ohm, dissipation_w_per_k=dissipation_w_per_k, duty=duty)
        return ambient_degc + rise - temp_degc

    # The divider gives most where both resistances are equal: no rise can be larger than that.
    most = divider.supply_v**2 / (4 * divider.fixed_ohm) * duty / dissipation_w_per_k
    return _root(off, ambient_degc - 1e-9, ambient_degc + most + 1e-6)


def _root(off: Callable[[float], float], low: float, high: float) -> float:
    from scipy.optimize import brentq  # noqa: PLC0415  a third of a second, for this alone

    return float(brentq(off, low, high, xtol=1e-12))
