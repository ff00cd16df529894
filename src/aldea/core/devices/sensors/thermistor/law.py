"""Thermistors by the B equation (IEC 60539-1): R = R25 · exp(B (1/T − 1/298.15 K))."""

import math

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short
from aldea.core.base.limits import ABOVE_ZERO, Limit, takes
from aldea.core.physics.divider import Divider
from aldea.core.physics.moist_air import KELVIN_AT_ZERO_DEGC

T25_K = 298.15


COLD_OR_HOT = Limit(low=-200.0, high=1e6)  # far more than a thermistor bears, on both sides
BETA = Limit(low=100.0, high=20_000.0)


@takes(temp_degc=COLD_OR_HOT, r25_ohm=ABOVE_ZERO, beta_k=BETA)
def thermistor_ohm(temp_degc: float, *, r25_ohm: float, beta_k: float) -> float:
    """Resistance at a temperature, Ω; −55 to 150 °C are sure, below −200 °C nothing is told."""
    temp_k = temp_degc + KELVIN_AT_ZERO_DEGC
    return r25_ohm * math.exp(beta_k * (1 / temp_k - 1 / T25_K))


@takes(ohm=ABOVE_ZERO, r25_ohm=ABOVE_ZERO, beta_k=BETA)
def thermistor_degc(ohm: float, *, r25_ohm: float, beta_k: float) -> float:
    """Temperature for a resistance, °C; `InputError` where no temperature gives it."""
    inverse = 1 / T25_K + math.log(ohm / r25_ohm) / beta_k
    if not inverse > 0:
        raise InputError(
            "resistance", got=f"{short(ohm)} Ω", allowed="more: no heat makes it so small"
        )
    return 1 / inverse - KELVIN_AT_ZERO_DEGC


def kelvin_per_count(divider: Divider, temp_degc: float, *, r25_ohm: float, beta_k: float) -> float:
    """What one count is worth near a temperature, K: |dT/dR| = T² / (B R), times Ω per count."""
    ohm = thermistor_ohm(temp_degc, r25_ohm=r25_ohm, beta_k=beta_k)
    temp_k = temp_degc + KELVIN_AT_ZERO_DEGC
    return temp_k**2 / (beta_k * ohm) * divider.ohm_per_count(ohm)


def mismatch_degc(
    divider: Divider, assumed_supply_v: float, temp_degc: float, *, r25_ohm: float, beta_k: float
) -> float | None:
    """Error when the plan assumes another divider supply, inferred minus true, K.

    None where the reading becomes impossible under the assumption.
    """
    ohm = thermistor_ohm(temp_degc, r25_ohm=r25_ohm, beta_k=beta_k)
    assumed = Divider(
        side=divider.side,
        fixed_ohm=divider.fixed_ohm,
        supply_v=assumed_supply_v,
        reference_v=divider.reference_v,
        full_scale_counts=divider.full_scale_counts,
    )
    inferred = assumed.sensor_ohm(divider.counts(ohm))
    if inferred is None:
        return None
    try:
        return thermistor_degc(inferred, r25_ohm=r25_ohm, beta_k=beta_k) - temp_degc
    except InputError:
        return None
