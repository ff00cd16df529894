"""A sensor in a voltage divider: counts to ohms, what an end of the scale means, one count's worth.

`sensor_low`: supply, fixed resistor, node, sensor, ground. `sensor_high`: the two changed over.
The full scale of the converter (2^N or 2^N − 1 counts) is always given.
"""

import math
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.limits import ABOVE_ZERO, ONE_OR_MORE, ZERO_OR_MORE, takes

Side = Literal["sensor_low", "sensor_high"]  # which half of the divider the sensor is
EndState = Literal["good", "open", "short", "saturated", "impossible"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Divider:
    """A divider and the converter that reads it.

    `supply_v` feeds the divider, `reference_v` the converter; equal means ratiometric.
    """

    side: Side
    fixed_ohm: float
    supply_v: float
    reference_v: float
    full_scale_counts: int

    def volts(self, sensor_ohm: float) -> float:
        """Node voltage for a sensor resistance, V."""
        lower = sensor_ohm if self.side == "sensor_low" else self.fixed_ohm
        return self.supply_v * lower / (sensor_ohm + self.fixed_ohm)

    def counts(self, sensor_ohm: float) -> float:
        """Counts for a sensor resistance, not rounded and not clipped."""
        return self.volts(sensor_ohm) / self.reference_v * self.full_scale_counts

    def sensor_ohm(self, counts: float) -> float | None:
        """Sensor resistance from counts, Ω; None where it cannot be told: open, or impossible."""
        share = counts / self.full_scale_counts * self.reference_v / self.supply_v
        if share > 1 or counts < 0:
            return None
        if self.side == "sensor_low":
            return None if share >= 1 else self.fixed_ohm * share / (1 - share)
        return None if share <= 0 else self.fixed_ohm * (1 - share) / share

    @property
    def top_counts(self) -> float:
        """Counts of a node at the whole supply; what lies above the converter's scale is lost."""
        return self.full_scale_counts * self.supply_v / self.reference_v

    def end_state(self, counts: float) -> EndState:
        """What a reading at the end of the scale says about the sensor.

        Within one count of a node at the whole supply, or at 0 V, the sensor is open or short,
        whatever supply and reference are. A converter at its full scale below that has lost what
        lies above: open and far are one there, `saturated`.
        """
        if (
            math.isnan(counts)
            or counts < 0
            or counts > min(self.top_counts, self.full_scale_counts) + 1
        ):
            return "impossible"
        if counts >= self.full_scale_counts and self.top_counts > self.full_scale_counts + 1:
            return "saturated"
        high, low = counts >= self.top_counts - 1, counts <= 0
        if self.side == "sensor_low":
            return "open" if high else "short" if low else "good"
        return "short" if high else "open" if low else "good"

    def code(self, volts: float) -> int:
        """What an ideal converter gives for node volts: ⌊V/Vref · (FS + 1)⌋, kept in 0 to FS."""
        steps = self.full_scale_counts + 1
        return min(self.full_scale_counts, max(0, math.floor(volts / self.reference_v * steps)))

    def ohm_of_code(self, code: int) -> float | None:
        """Sensor resistance at the middle of a code's step, Ω; None at the ends of the range."""
        if not 0 < code < self.full_scale_counts:
            return None
        share = (code + 0.5) / (self.full_scale_counts + 1)
        return self.sensor_ohm(share * self.full_scale_counts)

    def loaded_ohm(self, sensor_ohm: float, input_ohm: float) -> float | None:
        """Sensor resistance that is inferred while an input's own resistance loads the node, Ω."""
        lower = sensor_ohm if self.side == "sensor_low" else self.fixed_ohm
        upper = self.fixed_ohm if self.side == "sensor_low" else sensor_ohm
        volts = loaded_volts(upper, lower, self.supply_v, input_ohm)
        return self.sensor_ohm(volts / self.reference_v * self.full_scale_counts)

    def leaked_ohm(self, sensor_ohm: float, leakage_a: float) -> float | None:
        """Sensor resistance that is inferred while a current flows into the node, Ω."""
        offset_v = leakage_a * source_ohm(sensor_ohm, self.fixed_ohm)
        volts = self.volts(sensor_ohm) + offset_v
        return self.sensor_ohm(volts / self.reference_v * self.full_scale_counts)

    def ohm_per_count(self, sensor_ohm: float) -> float:
        """Size of one count near a resistance, Ω: (R + Rf)² / (Rf · FS) · Vref / Vs."""
        spread = (sensor_ohm + self.fixed_ohm) ** 2 / (self.fixed_ohm * self.full_scale_counts)
        return spread * self.reference_v / self.supply_v


@takes(upper_ohm=ABOVE_ZERO, lower_ohm=ABOVE_ZERO)
def source_ohm(upper_ohm: float, lower_ohm: float) -> float:
    """Thévenin resistance of a divider, Ω."""
    return upper_ohm * lower_ohm / (upper_ohm + lower_ohm)


def loaded_volts(upper_ohm: float, lower_ohm: float, supply_v: float, input_ohm: float) -> float:
    """Node voltage of a divider that an input resistance loads, V: lower ‖ input."""
    below = source_ohm(lower_ohm, input_ohm)
    return supply_v * below / (upper_ohm + below)


@takes(switch_ohm=ZERO_OR_MORE, hold_farad=ABOVE_ZERO, time_s=ABOVE_ZERO, bits=ONE_OR_MORE)
def highest_source_ohm(*, switch_ohm: float, hold_farad: float, time_s: float, bits: int) -> float:
    """Largest source resistance that settles to half a count in a time, Ω."""
    return time_s / (hold_farad * math.log(2 ** (bits + 1))) - switch_ohm
