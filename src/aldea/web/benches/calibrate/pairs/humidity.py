"""Taking a humidity pair: a jar from drier or from wetter, or a check instrument."""

import math

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import figure, short, signed
from aldea.core.calibrate.methods.humidity import APART
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.salts import SALTS, salt_rh_pct
from aldea.core.physics.moist_air import rh_after_pct
from aldea.web.benches.calibrate.pairs.pair_form import PairForm
from aldea.web.shell.forms import Fields

MOST_APART_K, NO_MATTER_K = 2.0, 0.05


def _read_pair(fields: Fields) -> Pair:
    approach = fields.choice("approach", ("drier", "wetter", "check"))
    temp = fields.number("temp_degc", low=0, high=60, unit="°C")
    reading = fields.number("reading", low=0, high=100, unit="%RH")
    salt: str | None = None
    reference, expanded = 0.0, 0.0
    if approach == "check":
        reference = fields.number("reference", low=1, high=99, unit="%RH")
        expanded = fields.number("reference_expanded", low=0.05, high=20, unit="%RH")
    else:
        salt = fields.choice("medium", SALTS)
        if salt in SALTS and math.isfinite(temp):
            try:
                reference = salt_rh_pct(salt, temp)
                expanded = SALTS[salt].expanded_uncertainty_rh_pct
            except CalibrationError as exc:
                fields.refuse_error("temp_degc", exc)
    detail, reference = _at_one_temperature(fields, temp, reference, salt)
    fields.check()
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=temp,
        reference_expanded=expanded,
        medium=salt,
        detail=detail,
    )


def _at_one_temperature(
    fields: Fields, temp_degc: float, reference: float, salt: str | None
) -> tuple[str, float]:
    """What to note, and the reference at the probe, where the probe was not as warm as the salt.

    The vapour pressure is the salt's: a probe that is warmer stands in drier air. Too far apart is
    refused: the correction would be all there is.
    """
    if salt is None or not fields.text("probe_degc"):
        return "", reference
    probe = fields.number("probe_degc", low=0, high=60, unit="°C")
    if not (math.isfinite(probe) and math.isfinite(temp_degc) and reference > 0):
        return "", reference
    apart = probe - temp_degc
    if abs(apart) > MOST_APART_K:
        fields.refuse_error(
            "probe_degc",
            InputError(
                "probe",
                got=f"{figure(abs(apart))} K {'warmer' if apart > 0 else 'colder'} than the salt",
                allowed=f"within {short(MOST_APART_K)} K",
                fix="Let both stand for an hour at one temperature, then record it.",
            ),
        )
        return "", reference
    there = rh_after_pct(temp_degc, reference, probe)
    if abs(apart) < NO_MATTER_K:
        return "", reference
    return (
        f"{APART} {signed(apart)} K from the salt, {signed(there - reference)} %RH corrected",
        there,
    )


HUMIDITY_FORM = PairForm(
    quantity="relative_humidity",
    template="calibrate/pairs/take_humidity.html",
    example="75.5 74.2",
    approaches=(
        ("drier", "from drier"),
        ("wetter", "from wetter"),
        ("check", "check instrument"),
    ),
    shapes=("▲ from drier", "▽ from wetter", "◇ check, not fitted"),
    media=tuple((key, salt.name) for key, salt in SALTS.items()),
    read_pair=_read_pair,
    first={
        "medium": "magnesium_chloride",
        "approach": "drier",
        "temp_degc": "20.0",
        "probe_degc": "",
        "reading": "",
        "reference": "",
        "reference_expanded": "1.0",
    },
)
