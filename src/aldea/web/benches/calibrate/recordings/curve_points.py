"""Points of a thermistor, pasted: units converted, and doubted where another makes more sense."""

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short
from aldea.core.calibrate.detective import Assumptions
from aldea.core.calibrate.thermistor_curve import CurvePoint
from aldea.core.devices.sensors.thermistor.law import thermistor_ohm
from aldea.formats.pasted import read_pasted
from aldea.web.benches.calibrate.recordings.bench import Given

TEMP_UNITS = (("degc", "°C"), ("degf", "°F"))
OHM_UNITS = (("ohm", "Ω"), ("kiloohm", "kΩ"), ("counts", "counts"))
THOUSAND, TWICE = 1000.0, 2.5  # a factor of a thousand is a unit, a factor of two another part


def curve_points(given: Given, assumed: Assumptions) -> list[CurvePoint]:
    """The points as °C and Ω; raises `InputError` where a line, or a unit, is wrong."""
    temp_unit = given.fields.choice("temp_unit", dict(TEMP_UNITS))
    ohm_unit = given.fields.choice("ohm_unit", dict(OHM_UNITS))
    text = given.text("points")
    given.fields.check()
    points = []
    for first, second in read_pasted(text):
        temp = (first - 32) / 1.8 if temp_unit == "degf" else first
        ohm: float | None = second * (THOUSAND if ohm_unit == "kiloohm" else 1)
        if ohm_unit == "counts":
            ohm = assumed.divider.sensor_ohm(second)
            if ohm is None or ohm <= 0:
                raise InputError(
                    "points",
                    got=f"{short(second)} counts",
                    allowed=f"0 to {assumed.divider.full_scale_counts}, between open and short",
                )
        points.append(CurvePoint(temp, ohm if ohm is not None else 0.0))
    _doubt_units(points, assumed, temp_unit, ohm_unit)
    return points


def _doubt_units(
    points: list[CurvePoint], assumed: Assumptions, temp_unit: str, ohm_unit: str
) -> None:
    """Refuse points that make sense in another unit only, and say which."""

    def off(temp_degc: float, ohm: float) -> float:
        if not (-60 < temp_degc < 200 and ohm > 0):
            return float("inf")
        wanted = thermistor_ohm(temp_degc, r25_ohm=assumed.r25_ohm, beta_k=assumed.beta_k)
        return max(ohm / wanted, wanted / ohm)

    if not points or all(off(p.temp_degc, p.ohm) < TWICE for p in points):
        return
    first = points[0]
    if ohm_unit == "ohm" and all(off(p.temp_degc, p.ohm * THOUSAND) < TWICE for p in points):
        raise InputError(
            "points",
            got=f"{short(first.ohm)} Ω at {short(first.temp_degc)} °C",
            allowed="ohms",
            fix="These look like kΩ: choose kΩ above the points.",
        )
    if temp_unit == "degc" and all(off((p.temp_degc - 32) / 1.8, p.ohm) < TWICE for p in points):
        raise InputError(
            "points",
            got=f"{short(first.temp_degc)} °C with {short(first.ohm)} Ω",
            allowed="degrees Celsius",
            fix="These look like °F: choose °F above the points.",
        )
