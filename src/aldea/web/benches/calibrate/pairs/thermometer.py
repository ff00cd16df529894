"""Taking a thermometer's point: ice, boiling water, a reference beside it or one on each side."""

import math

from aldea.core.base.errors import InputError
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.thermometer import BOILING_EXPANDED_K, ICE_EXPANDED_K, WAYS, between
from aldea.core.physics.water import boiling_degc, ice_degc, pressure_at_pa, salt_lowering_k
from aldea.web.benches.calibrate.pairs.pair_form import PairForm
from aldea.web.shell.forms import Fields

LOWEST_DEGC, HIGHEST_DEGC = -55.0, 150.0
NEAR_K = 4.0  # a reading this near after conversion was surely typed in the other unit
FAR_K = 12.0  # and this far before


def _reference(fields: Fields, way: str) -> tuple[float, float, str]:
    """Reference, its U (k = 2), and what was noted, by the way it was had."""
    if way == "ice":
        return _ice(fields)
    if way == "boiling":
        sea = fields.number("sea_level_hpa", low=870, high=1085, unit="hPa")
        height = fields.number("altitude_m", low=-500, high=5000, unit="m")
        if not (math.isfinite(sea) and math.isfinite(height)):
            return math.nan, BOILING_EXPANDED_K, ""
        local_pa = pressure_at_pa(height, sea * 100)
        noted = (
            f"{figure(local_pa / 100)} hPa here: {short(sea)} hPa at sea level, {short(height)} m"
        )
        return boiling_degc(local_pa), BOILING_EXPANDED_K, noted
    expanded = fields.number("reference_expanded", low=0.005, high=20, unit="K")
    if way == "beside":
        beside = fields.number("reference", low=LOWEST_DEGC, high=HIGHEST_DEGC, unit="°C")
        return beside, expanded, ""
    return _between(fields, expanded)


def _ice(fields: Fields) -> tuple[float, float, str]:
    """The ice point; salt that is in the water lowers it, and is known no better than itself."""
    if not fields.text("salt_g_per_kg"):
        return ice_degc(), ICE_EXPANDED_K, ""
    salt = fields.number("salt_g_per_kg", low=0, high=5, unit="g/kg")
    if not math.isfinite(salt) or salt == 0:
        return ice_degc(), ICE_EXPANDED_K, ""
    lower = salt_lowering_k(salt)
    noted = f"{short(salt)} g/kg of salt lowers it by {figure(lower, 2)} K"
    return ice_degc() - lower, math.hypot(ICE_EXPANDED_K, lower), noted


def _between(fields: Fields, expanded: float) -> tuple[float, float, str]:
    first, second = (
        fields.number(name, low=LOWEST_DEGC, high=HIGHEST_DEGC, unit="°C")
        for name in ("first_degc", "second_degc")
    )
    first_cm, second_cm = (
        fields.number(name, low=0, high=1000, unit="cm") for name in ("first_cm", "second_cm")
    )
    if fields.errors:
        return math.nan, math.nan, ""
    try:
        reference = between(
            first_degc=first,
            second_degc=second,
            first_cm=first_cm,
            second_cm=second_cm,
            each_expanded_k=expanded,
        )
    except InputError as exc:
        fields.refuse_error("first_cm", exc)
        return math.nan, math.nan, ""
    noted = (
        f"{figure(first)} °C at {short(first_cm)} cm, {figure(second)} °C at {short(second_cm)} cm"
    )
    return reference.reference_degc, reference.expanded_k, noted


def _doubt_unit(fields: Fields, reading: float, reference: float) -> None:
    """Refuse a reading that makes sense in °F or in K only, and say what it is in °C."""
    if not (math.isfinite(reading) and math.isfinite(reference)):
        return
    for unit, as_degc in (("°F", (reading - 32) / 1.8), ("K", reading - 273.15)):
        if abs(reading - reference) > FAR_K and abs(as_degc - reference) < NEAR_K:
            fields.refuse_error(
                "reading",
                InputError(
                    "reading",
                    got=f"{short(reading)}, beside {figure(reference)} °C",
                    allowed="°C",
                    fix=f"It looks like {unit}: {short(reading)} {unit} is "
                    f"{figure(as_degc, 2)} °C. Type that.",
                ),
            )
            return


def _read_pair(fields: Fields) -> Pair:
    approach = fields.choice("approach", ("point", "check"))
    way = fields.choice("medium", WAYS)
    reading = fields.number("reading", low=-100, high=500, unit="°C")
    reference, expanded, noted = _reference(fields, way)
    _doubt_unit(fields, reading, reference)
    if not fields.errors and not LOWEST_DEGC <= reading <= HIGHEST_DEGC:
        fields.number("reading", low=LOWEST_DEGC, high=HIGHEST_DEGC, unit="°C")
    fields.check()
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=reference,
        reference_expanded=expanded,
        medium=way,
        detail=noted,
    )


THERMOMETER_FORM = PairForm(
    quantity="air_temperature",
    template="calibrate/pairs/take_thermometer.html",
    example="21.3 21.9",
    approaches=(("point", "a point to fit"), ("check", "a check, not fitted")),
    shapes=("▲ point", "◇ check, not fitted"),
    media=tuple(WAYS.items()),
    read_pair=_read_pair,
    first={
        "approach": "point",
        "medium": "ice",
        "reading": "",
        "reference": "",
        "reference_expanded": "0.2",
        "salt_g_per_kg": "",
        "sea_level_hpa": "1013",
        "altitude_m": "",
        "first_degc": "",
        "second_degc": "",
        "first_cm": "",
        "second_cm": "",
    },
)
