"""Supply budget, coils, driver transistors, and what a cable drops."""

from dataclasses import dataclass

from aldea.core.errors import InputError
from aldea.core.wire.series import Series, below_ohm

COPPER_OHM_MM2_PER_KM = 17.241  # IEC 60028, at 20 °C
COPPER_PER_K = 0.00393
BASE_EMITTER_V = 0.7
FORCED_BETA = 20.0
# Loop resistance at 20 °C of standard conductors, Ω/km (IEC 60228, class 1 and 2).
STANDARD_OHM_PER_KM = {0.5: 36.0, 0.75: 24.5, 1.0: 18.1, 1.5: 12.1, 2.5: 7.41, 4.0: 4.61, 6.0: 3.08}


@dataclass(frozen=True, slots=True, kw_only=True)
class Draw:
    """One consumer of a supply: its current, and how many of it may draw at once."""

    name: str
    each_ma: float
    at_once: int

    @property
    def total_ma(self) -> float:
        """All of them, mA."""
        return self.each_ma * self.at_once


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplyBudget:
    """What a supply has to give, with its margin, against what it is rated for; mA."""

    draws: tuple[Draw, ...]
    rating_ma: float
    margin_1: float

    @property
    def sum_ma(self) -> float:
        """Everything that may draw at once."""
        return sum(draw.total_ma for draw in self.draws)

    @property
    def with_margin_ma(self) -> float:
        """The same with the margin."""
        return self.sum_ma * (1 + self.margin_1)

    @property
    def enough(self) -> bool:
        """Whether the rating holds it."""
        return self.with_margin_ma <= self.rating_ma * (1 + 1e-12)

    @property
    def share_pct(self) -> float:
        """The sum as a share of the rating, %."""
        return 100 * self.sum_ma / self.rating_ma if self.rating_ma else float("inf")


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
        raise InputError("coil", got=f"{coil_a:g} A", allowed="above 0 A")
    if not drive_v > vbe_v:
        raise InputError("drive", got=f"{drive_v:g} V", allowed=f"above {vbe_v:g} V")
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


@dataclass(frozen=True, slots=True, kw_only=True)
class CableDrop:
    """What a two-wire cable takes away."""

    loop_ohm: float
    drop_v: float
    drop_pct: float
    load_v: float
    lost_w: float


def cable_drop(
    *,
    length_m: float,
    ohm_per_km: float,
    current_a: float,
    supply_v: float,
    conductor_degc: float = 20.0,
) -> CableDrop:
    """Drop of a constant current over both conductors of a cable of a length one way.

    R = 2 L r20 (1 + 0.00393 (T − 20)).
    """
    loop = 2 * length_m / 1000 * ohm_per_km * (1 + COPPER_PER_K * (conductor_degc - 20))
    drop = current_a * loop
    return CableDrop(
        loop_ohm=loop,
        drop_v=drop,
        drop_pct=100 * drop / supply_v,
        load_v=supply_v - drop,
        lost_w=current_a * drop,
    )


def ohm_per_km(section_mm2: float) -> float:
    """Resistance of copper at 20 °C: the table of IEC 60228, else 17.241 / A (IEC 60028), Ω/km."""
    return STANDARD_OHM_PER_KM.get(section_mm2, COPPER_OHM_MM2_PER_KM / section_mm2)
