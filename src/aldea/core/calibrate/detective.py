"""The supply detective: given counts and one known temperature, which wrong assumption explains it.

Each assumption about a thermistor's divider is solved alone: what would it have to be for the
reading to be right, which usual value lies nearest, and how much is left unexplained with that one.
The least unexplained comes first. One temperature cannot prove a cause: each says what to measure.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import ohms, short
from aldea.core.devices.sensors.thermistor.law import T25_K, thermistor_degc, thermistor_ohm
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.physics.divider import Divider, EndState, Side
from aldea.core.physics.moist_air import KELVIN_AT_ZERO_DEGC
from aldea.core.physics.resistors import HIGHEST_OHM, LOWEST_OHM, nearest_ohm
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.seats import reader_of

USUAL_SUPPLIES_V = (1.8, 2.5, 3.0, 3.3, 5.0)
USUAL_REFERENCES_V = (1.1, 2.048, 2.5, 3.0, 3.3, 4.096, 5.0)
USUAL_BETAS_K = (3380.0, 3435.0, 3470.0, 3892.0, 3950.0, 3977.0, 4250.0)
UNKNOWN_BOARD_V, UNKNOWN_BOARD_BITS = 3.3, 12  # where the plan has not yet chosen the board
USUAL_BITS = (8, 10, 12, 14, 16)


END_FIXES: Mapping[EndState, str] = {
    "open": "The sensor is open: unplugged, or a wire is broken. No assumption explains that.",
    "short": "The sensor is shorted: look at its wires. No assumption explains that.",
    "saturated": "The converter is at its full scale, and the divider’s supply lies above its "
    "reference: open, or merely far, cannot be told. Feed the divider from the reference.",
    "impossible": "The divider cannot give that: its supply, the converter’s reference or its bits "
    "are not what is assumed. Measure the supply first.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Assumptions:
    """What a converter takes for granted about a thermistor in a divider; Ω, V, K, bits."""

    side: Side
    fixed_ohm: float
    supply_v: float
    reference_v: float
    bits: int
    r25_ohm: float
    beta_k: float

    @property
    def divider(self) -> Divider:
        """The divider and its converter."""
        return Divider(
            side=self.side,
            fixed_ohm=self.fixed_ohm,
            supply_v=self.supply_v,
            reference_v=self.reference_v,
            full_scale_counts=2**self.bits - 1,
        )

    def having(self, key: str, value: object) -> "Assumptions":
        """The same with one assumption changed."""
        facts: dict[str, Any] = {name: getattr(self, name) for name in self.__dataclass_fields__}
        return Assumptions(**{**facts, key: value})

    def temp_degc(self, counts: float) -> float | None:
        """What the board makes of counts, °C; None where it is impossible."""
        ohm = self.divider.sensor_ohm(counts)
        if ohm is None:
            return None
        try:
            return thermistor_degc(ohm, r25_ohm=self.r25_ohm, beta_k=self.beta_k)
        except InputError:  # so small or so large that no temperature gives it
            return None

    def counts(self, temp_degc: float) -> float:
        """Counts that the divider gives at a temperature."""
        ohm = thermistor_ohm(temp_degc, r25_ohm=self.r25_ohm, beta_k=self.beta_k)
        return self.divider.counts(ohm)


def assumed_of(plan: Plan, probe: Probe, sensor: Thermistor) -> Assumptions:
    """What the plan takes for granted about a thermistor, and its board's converter."""
    kind = reader_of(plan, f"probe:{probe.id}.sense")
    volts = kind.converter_v if kind and kind.converter_v else UNKNOWN_BOARD_V
    return Assumptions(
        side=sensor.side,
        fixed_ohm=sensor.fixed_ohm,
        supply_v=sensor.supply_v or volts,
        reference_v=volts,
        bits=kind.converter_bits if kind and kind.converter_bits else UNKNOWN_BOARD_BITS,
        r25_ohm=sensor.r25_ohm,
        beta_k=sensor.beta_k,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspect:
    """One assumption: what it was, what it would have to be, the usual value nearest to that.

    `left_k` is what stays unexplained with the usual value, None where it makes the reading
    impossible; `explains` where that is within what the comparison can tell.
    """

    key: str
    name: str
    assumed: str
    would_be: str
    usual: str
    instead: Assumptions
    left_k: float | None
    explains: bool
    measure: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Inquiry:
    """What the board reads, how far off that is, and the suspects in order."""

    reads_degc: float | None
    error_k: float | None
    can_tell_k: float
    suspects: tuple[Suspect, ...]

    @property
    def innocent(self) -> bool:
        """Whether the reading is right as far as the comparison can tell."""
        return self.error_k is not None and abs(self.error_k) <= self.can_tell_k


def investigate(
    counts: float, known_degc: float, *, expanded_k: float, assumed: Assumptions
) -> Inquiry:
    """Priority what may be wrong; `expanded_k` is U (k = 2) of the known temperature.

    Raises `CalibrationError` for counts outside the converter, or of an open or shorted sensor or a
    saturated converter, which are no assumptions. Counts that the divider cannot give under what is
    assumed are looked into: then something of it is wrong.
    """
    state = assumed.divider.end_state(counts)
    inside = 0 < counts < assumed.divider.full_scale_counts
    if state != "good" and not (state == "impossible" and inside):
        full = min(assumed.divider.full_scale_counts, round(assumed.divider.top_counts))
        raise CalibrationError(
            "counts",
            got=f"{short(counts)}",
            allowed=f"above 0 and below {full}",
            fix=END_FIXES[state],
        )
    reads = assumed.temp_degc(counts)
    step = assumed.divider.ohm_per_count(
        thermistor_ohm(known_degc, r25_ohm=assumed.r25_ohm, beta_k=assumed.beta_k)
    )
    ohm = thermistor_ohm(known_degc, r25_ohm=assumed.r25_ohm, beta_k=assumed.beta_k)
    one_count_k = (known_degc + KELVIN_AT_ZERO_DEGC) ** 2 / (assumed.beta_k * ohm) * step
    can_tell = math.hypot(expanded_k, one_count_k)
    judged = [
        _judged(suspect, counts, known_degc, can_tell)
        for suspect in _suspects(counts, known_degc, ohm, assumed)
    ]
    judged.sort(key=lambda s: math.inf if s.left_k is None else abs(s.left_k))
    return Inquiry(
        reads_degc=reads,
        error_k=None if reads is None else reads - known_degc,
        can_tell_k=can_tell,
        suspects=tuple(judged),
    )


def _judged(suspect: Suspect, counts: float, known_degc: float, can_tell_k: float) -> Suspect:
    temp = suspect.instead.temp_degc(counts)
    left = None if temp is None else temp - known_degc
    return replace(suspect, left_k=left, explains=left is not None and abs(left) <= can_tell_k)


def _suspects(counts: float, known_degc: float, ohm: float, a: Assumptions) -> list[Suspect]:
    share = a.divider.volts(ohm) / a.supply_v
    node_v = counts / (2**a.bits - 1) * a.reference_v
    suspects = [
        _suspect(
            a,
            "supply_v",
            "divider’s supply",
            node_v / share,
            "V",
            _nearest(node_v / share, USUAL_SUPPLIES_V, a.supply_v),
            "Measure volts from 0 V to the divider’s upper end.",
        ),
        _suspect(
            a,
            "reference_v",
            "converter’s reference",
            share * a.supply_v * (2**a.bits - 1) / counts,
            "V",
            _nearest(
                share * a.supply_v * (2**a.bits - 1) / counts, USUAL_REFERENCES_V, a.reference_v
            ),
            "Measure the reference pin, or read a known voltage and compare.",
        ),
    ]
    measured_share = node_v / a.supply_v
    if 0 < measured_share < 1:
        ratio = (1 - measured_share) / measured_share
        fixed = ohm * (ratio if a.side == "sensor_low" else 1 / ratio)
        suspects.append(
            _suspect(
                a,
                "fixed_ohm",
                "fixed resistor",
                fixed,
                "Ω",
                _nearest_made(fixed),
                "Switch off, lift one end, measure it with an ohmmeter.",
            )
        )
        sensed = a.divider.sensor_ohm(counts)
        inverse = 1 / (known_degc + KELVIN_AT_ZERO_DEGC) - 1 / T25_K
        if sensed and abs(inverse) > 1e-5 and math.log(sensed / a.r25_ohm) / inverse > 0:
            beta = math.log(sensed / a.r25_ohm) / inverse
            suspects.append(
                _suspect(
                    a,
                    "beta_k",
                    "B value",
                    beta,
                    "K",
                    _nearest(beta, USUAL_BETAS_K, a.beta_k),
                    "Compare at a second temperature, 20 K away: a wrong B grows from 25 °C on.",
                )
            )
    bits = math.log2(counts * a.reference_v / (share * a.supply_v) + 1)
    suspects.append(
        _suspect(
            a,
            "bits",
            "converter’s bits",
            bits,
            "bits",
            _nearest(bits, USUAL_BITS, a.bits),
            "Tie the pin to the reference and read: the full scale shows.",
        )
    )
    side: Side = "sensor_high" if a.side == "sensor_low" else "sensor_low"
    suspects.append(
        Suspect(
            key="side",
            name="side of the sensor",
            assumed=_side(a.side),
            would_be=_side(side),
            usual=_side(side),
            instead=replace(a, side=side),
            left_k=None,
            explains=False,
            measure="Warm the sensor: with it at the lower side the counts fall.",
        )
    )
    return suspects


def _nearest_made(ohm: float) -> float:
    """The nearest resistor of E24, which most drawers hold; of E96 where none is within 1 %."""
    kept = min(max(ohm, LOWEST_OHM), HIGHEST_OHM)
    common = nearest_ohm(kept, "E24")
    return common if abs(math.log(common / kept)) <= 0.01 else nearest_ohm(kept, "E96")


def _side(side: str) -> str:
    return "between pin and 0 V" if side == "sensor_low" else "between pin and +"


def _nearest(wanted: float, usual: tuple[float, ...], own: float) -> float:
    """The usual value nearest in ratio, other than the one that is assumed."""
    others = [value for value in usual if value != own]
    return min(others, key=lambda value: abs(math.log(value / max(wanted, 1e-9))))


def _suspect(
    a: Assumptions, key: str, name: str, wanted: float, unit: str, usual: float, measure: str
) -> Suspect:
    return Suspect(
        key=key,
        name=name,
        assumed=_figure(getattr(a, key), unit),
        would_be=_figure(float(f"{wanted:.4g}"), unit),
        usual=_figure(usual, unit),
        instead=a.having(key, usual),
        left_k=None,
        explains=False,
        measure=measure,
    )


def _figure(value: float, unit: str) -> str:
    return ohms(value) if unit == "Ω" else f"{short(value)} {unit}"


def shift_k(old: Assumptions, new: Assumptions, temp_degc: float) -> float | None:
    """How far readings move at a temperature when the assumptions change, K; None if impossible."""
    moved = new.temp_degc(old.counts(temp_degc))
    return None if moved is None else moved - temp_degc
