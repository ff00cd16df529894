"""Supply budget, coils, driver transistors, and what a cable drops."""

from dataclasses import dataclass

from aldea.core.base.limits import ABOVE_ZERO, WORKSHOP_DEGC, ZERO_OR_MORE, takes

COPPER_OHM_MM2_PER_KM = 17.241  # IEC 60028, at 20 °C
COPPER_PER_K = 0.00393
# Loop resistance at 20 °C of standard conductors, Ω/km (IEC 60228, class 1 and 2).
STANDARD_OHM_PER_KM = {0.5: 36.0, 0.75: 24.5, 1.0: 18.1, 1.5: 12.1, 2.5: 7.41, 4.0: 4.61, 6.0: 3.08}


@dataclass(frozen=True, slots=True, kw_only=True)
class CableDrop:
    """What a two-wire cable takes away."""

    loop_ohm: float
    drop_v: float
    drop_pct: float
    load_v: float
    lost_w: float


@takes(
    length_m=ZERO_OR_MORE,
    ohm_per_km=ABOVE_ZERO,
    current_a=ZERO_OR_MORE,
    supply_v=ABOVE_ZERO,
    conductor_degc=WORKSHOP_DEGC,
)
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


@takes(section_mm2=ABOVE_ZERO)
def ohm_per_km(section_mm2: float) -> float:
    """Resistance of copper at 20 °C: the table of IEC 60228, else 17.241 / A (IEC 60028), Ω/km."""
    return STANDARD_OHM_PER_KM.get(section_mm2, COPPER_OHM_MM2_PER_KM / section_mm2)
