"""A certificate with every figure finished: for the page, the sheet and the label."""

from dataclasses import dataclass
from typing import Any

from aldea.core.base.figures import figure, short, signed
from aldea.core.base.instants import stamp
from aldea.core.calibrate.calibration_line import line_words
from aldea.core.calibrate.methods.registry import METHODS
from aldea.core.calibrate.salts import SALTS
from aldea.core.calibrate.thermometer import WAYS
from aldea.core.words.proven import range_words
from aldea.store.calibrations import Certificate
from aldea.store.in_place import CheckedInPlace
from aldea.web.benches.calibrate.certificates.standing import NotStanding

MEDIA = {**{key: salt.name for key, salt in SALTS.items()}, **WAYS}
SPREADS = {"expanded_k2": "U, k=2"}
TESTED = {
    "holds": "a check pair confirms it",
    "not_shown": "not verified: no check pair was recorded",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class CertificateView:
    """What stands on a certificate; rows of `pairs` and `budget` are cells in order."""

    number: int
    probe: str
    probe_name: str
    equation: str
    stands: str
    where: str
    range_words: str
    coverage: str
    unit: str
    computed: str
    tested: str
    despite: str
    signed_by: str
    signed_at: str
    due: str
    sha256: str
    pairs: tuple[dict[str, str], ...]
    budget: tuple[dict[str, str], ...]
    not_standing: NotStanding | None


def certificate_view(
    certificate: Certificate, zone: str, standing: NotStanding | None
) -> CertificateView:
    """Finish a signed document as it was signed, with why it does not stand today, if so."""
    document = certificate.document
    unit, (low, high) = document["unit"], document["range"]
    method = METHODS[document["probe"]["quantity"]]
    places = method.places
    line = document["line"]
    return CertificateView(
        number=certificate.number,
        probe=certificate.probe,
        probe_name=document["probe"]["name"],
        equation=f"true = {line_words(line['slope'], line['intercept'], (3, 5))}",
        stands=f"±{figure(document['expanded_uncertainty'], 2)} {unit}",
        where=f"from {figure(low)} to {figure(high)} {unit}{_temperature(document)}",
        range_words=f"{figure(low, 0)}–{figure(high, 0)} {unit}",
        coverage=f"k = {short(round(document['coverage_factor'], 2))}",
        unit=unit,
        computed=method.computed,
        tested=TESTED[document["verdict"]],
        despite=_despite(document),
        signed_by=certificate.signed_by,
        signed_at=stamp(certificate.at_ms, zone),
        due=stamp(certificate.due_ms, zone),
        sha256=certificate.sha256,
        pairs=tuple(_pair(row, places, zone) for row in document["pairs"]),
        budget=tuple(_row(row) for row in document["budget"]),
        not_standing=standing,
    )


def in_place_words(checked: CheckedInPlace, certificate: Certificate, zone: str) -> str:
    """The second stage in a line: when, by whom, off by how much of what may be."""
    unit = certificate.document["unit"]
    places = METHODS[certificate.document["probe"]["quantity"]].places
    difference = checked.result
    says = "it is valid"
    if not difference.holds:
        says = "it is not valid"
    elif not difference.tells:
        known = figure(difference.reference_expanded, places)
        says = f"a reference known to ±{known} cannot verify it"
    if difference.is_outside:
        low, high = certificate.document["range"]
        says += f"; outside its range {range_words(low, high, unit)}"
    return (
        f"{stamp(checked.at_ms, zone)}, {checked.by}: "
        f"{signed(difference.off, places)} {unit} off at "
        f"{figure(difference.reference, places)} {unit}; "
        f"up to ±{figure(difference.allowed, places)}; {says}"
    )


def _despite(document: dict[str, Any]) -> str:
    despite = document.get("signed_despite")
    return f"{despite['what']}, beyond U of the fit without it: {despite['why']}" if despite else ""


def _temperature(document: dict[str, Any]) -> str:
    if document["unit"] == "°C":
        return ""
    low, high = (figure(value) for value in document["temp_degc"])
    return f" at {low} °C" if low == high else f" at {low} to {high} °C"


def _pair(row: dict[str, Any], places: int, zone: str) -> dict[str, str]:
    approach = f"{row['approach']}, {row['detail']}" if row["detail"] else row["approach"]
    return {
        "with": MEDIA.get(row["medium"], "Check instrument"),
        "approach": approach,
        "temp_degc": figure(row["temp_degc"]),
        "reference": figure(row["reference"], places),
        "reading": figure(row["reading"], places),
        "residual": signed(row["residual"], 2),
        "taken": f"{row['taken_by']}, {stamp(row['taken_ms'], zone)}",
    }


def _row(row: dict[str, Any]) -> dict[str, str]:
    return {
        "label": row["label"],
        "ground": row["ground"],
        "spread": SPREADS.get(row["distribution"], row["distribution"]),
        "value": figure(row["value"], 3),
        "sensitivity": figure(row["sensitivity"], 3),
        "sigma": figure(row["standard_uncertainty"], 3),
    }
