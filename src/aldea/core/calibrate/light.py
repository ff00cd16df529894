"""Light at a threshold: a photoresistor's law from two points, its resistor, the lamp's own share.

The lamp that a light sensor switches must not light that sensor past its other threshold: the width
between the two marks has to hold the lamp's own share and the noise.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.base.limits import ABOVE_ZERO, FINITE, takes
from aldea.core.devices.sensors.light_resistor.law import photoresistor_ohm

SIGMAS = 3.0
LEAST_R10_OHM, MOST_R10_OHM = 500.0, 5e6
MOST_HEAT_MW = 50.0  # half of what small photoresistors bear, as their sheets mostly have it


@dataclass(frozen=True, slots=True, kw_only=True)
class LightLaw:
    """R = R10 (E / 10 lx)^−γ: resistance at 10 lx, Ω, and gamma."""

    r10_ohm: float
    gamma_1: float

    def ohm_at(self, lux: float) -> float:
        """Resistance at an illuminance, Ω."""
        return photoresistor_ohm(lux, r10_ohm=self.r10_ohm, gamma_1=self.gamma_1)


@takes(lux=ABOVE_ZERO, ohm=ABOVE_ZERO)
def law_of(lux: tuple[float, float], ohm: tuple[float, float]) -> LightLaw:
    """Gamma and R10 from two points: γ = log(R1/R2) / log(E2/E1).

    Raises `CalibrationError` where the points are equal or the resistance rises with light.
    """
    if lux[0] == lux[1]:
        raise CalibrationError(
            "second light",
            got=f"{short(lux[1])} lx twice",
            allowed="two different illuminances, ten times apart or so",
        )
    gamma = math.log(ohm[0] / ohm[1]) / math.log(lux[1] / lux[0])
    if not 0.1 < gamma < 2:
        raise CalibrationError(
            "second resistance",
            got=f"gamma {figure(gamma, 2)}",
            allowed="0.1 to 2; less resistance in more light",
            fix="Are the two resistances changed over? Ω or kΩ?",
        )
    law = LightLaw(r10_ohm=ohm[0] * (lux[0] / 10) ** gamma, gamma_1=gamma)
    if not LEAST_R10_OHM <= law.r10_ohm <= MOST_R10_OHM:
        raise CalibrationError(
            "second resistance",
            got=f"{law.r10_ohm:.3g} Ω at 10 lx",
            allowed=f"{short(LEAST_R10_OHM)} Ω to {short(MOST_R10_OHM)} Ω there, as "
            "photoresistors have",
            fix="Are they kΩ? Then write them in Ω: 12 kΩ is 12000."
            if law.r10_ohm < LEAST_R10_OHM
            else "Are they Ω, written as kΩ or MΩ?",
        )
    return law


@takes(supply_v=FINITE, fixed_ohm=ABOVE_ZERO)
def most_heat_mw(supply_v: float, fixed_ohm: float) -> float:
    """The most heat in a photoresistor in a divider, mW: where it equals the fixed resistor."""
    return 1000 * supply_v**2 / (4 * fixed_ohm)


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnLamp:
    """What the sensor's own lamp adds, lx, its noise, and the width that a band must have."""

    share_lux: float
    noise_lux: float
    width_lux: float


def own_lamp(on_lux: Sequence[float], off_lux: Sequence[float]) -> OwnLamp:
    """The lamp's own share from readings with it on and off, in the dark and at one moment.

    The width demanded is the share and three sigma of the noisier of the two. Raises
    `CalibrationError` where the lamp darkens the sensor by more than the noise.
    """
    if len(on_lux) < 3 or len(off_lux) < 3:
        raise CalibrationError(
            "lamp",
            got=f"{len(on_lux)} readings on, {len(off_lux)} off",
            allowed="three or more of each",
        )
    share = float(np.mean(on_lux) - np.mean(off_lux))
    noise = max(float(np.std(on_lux, ddof=1)), float(np.std(off_lux, ddof=1)))
    if share < -SIGMAS * noise:
        raise CalibrationError(
            "lamp",
            got=f"{figure(share)} lx with the lamp on",
            allowed="not darker than with it off",
            fix="Are the two rows changed over, or did the daylight fade between them?",
        )
    return OwnLamp(
        share_lux=max(0.0, share), noise_lux=noise, width_lux=max(0.0, share) + SIGMAS * noise
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Diode:
    """A photodiode with its amplifier: A/W, mm², Ω of feedback, nA in the dark."""

    responsivity_a_per_w: float
    area_mm2: float
    feedback_ohm: float
    dark_na: float

    def current_a(self, irradiance_w_per_m2: float) -> float:
        """Photocurrent with the dark current on top, A."""
        lit = irradiance_w_per_m2 * self.responsivity_a_per_w * self.area_mm2 * 1e-6
        return lit + self.dark_na * 1e-9

    def volts(self, irradiance_w_per_m2: float) -> float:
        """Output of the amplifier, V: current times feedback."""
        return self.current_a(irradiance_w_per_m2) * self.feedback_ohm

    def irradiance_w_per_m2(self, current_a: float) -> float:
        """Irradiance: (I − dark) / (responsivity · area), W/m²."""
        lit = current_a - self.dark_na * 1e-9
        return lit / (self.responsivity_a_per_w * self.area_mm2 * 1e-6)

    def at_volts(self, volts: float) -> float:
        """Irradiance at an output voltage, W/m²."""
        return self.irradiance_w_per_m2(volts / self.feedback_ohm)
