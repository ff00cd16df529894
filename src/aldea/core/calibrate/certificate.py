"""What is signed: the document of a certificate, and the calibration that it gives the plan."""

import math
from collections.abc import Mapping, Sequence
from typing import Any

from aldea.core.base.figures import signed
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.pairs import TakenPair
from aldea.core.plan.calibration import Calibration, ProvenRange
from aldea.core.plan.document import Probe


def new_calibration(fit: Fit, certificate: int, circuit: str = "") -> Calibration:
    """What a signed certificate puts into the plan, with the digest of its circuit."""
    return Calibration(
        slope=round(fit.line.slope, 6),
        intercept=round(fit.line.intercept, 5),
        expanded_uncertainty=round(fit.expanded, 2),
        basis="certificate",
        certificate=certificate,
        circuit=circuit,
        proven=proven_range(fit),
    )


def proven_range(fit: Fit) -> ProvenRange | None:
    """Where the pairs of a fit showed its line; None where one point showed an offset alone.

    An offset has its reach, and the slope that was not shown, in its budget.
    """
    if not fit.line.is_sloped:
        return None
    return ProvenRange(
        low=round(fit.low, 3),
        high=round(fit.high, 3),
        middle=round(fit.line.at(fit.mean_reading), 3),
        expanded_per_unit=round(fit.expanded_per_unit, 6),
    )


def beyond_words(fit: Fit) -> str:
    """The outliers of a fit, by number and residual; empty where it has none."""
    return ", ".join(
        f"pair {number} ({signed(fit.results[number - 1].residual)})" for number in fit.outliers
    )


def certificate_document(
    probe: Probe,
    unit: str,
    fit: Fit,
    taken: Sequence[TakenPair],
    stated: Mapping[str, float],
    despite: str = "",
    circuit: str = "",
) -> dict[str, Any]:
    """What is signed: the line, what it rests on, and where it holds; in the probe's unit.

    Outliers are named in it, with the reason (`despite`) why that was signed.
    """
    beyond = set(fit.outliers)
    return {
        "format": "aldea-certificate/2",
        "probe": {"id": probe.id, "name": probe.name, "quantity": probe.quantity},
        "unit": unit,
        "line": {"slope": fit.line.slope, "intercept": fit.line.intercept},
        "expanded_uncertainty": fit.expanded,
        "coverage_factor": fit.budget.factor,
        "factor_95": fit.budget.factor_95,
        "effective_degrees_of_freedom": fit.budget.effective_degrees_of_freedom
        if math.isfinite(fit.budget.effective_degrees_of_freedom)
        else None,
        "range": [fit.low, fit.high],
        "proven": proven.model_dump(mode="json") if (proven := proven_range(fit)) else None,
        "temp_degc": list(fit.temp_degc),
        "verdict": fit.verdict,
        "signed_despite": {"what": beyond_words(fit), "why": despite} if beyond else None,
        "conditions": dict(stated),
        "circuit": circuit,
        "budget": [
            {
                "label": row.label,
                "value": row.value,
                "distribution": row.distribution,
                "sensitivity": row.sensitivity,
                "degrees_of_freedom": row.degrees_of_freedom
                if math.isfinite(row.degrees_of_freedom)
                else None,
                "standard_uncertainty": row.standard_uncertainty,
                "ground": row.ground,
            }
            for row in fit.budget.rows
        ],
        "pairs": [
            {
                "pair": row.id,
                "medium": row.pair.medium,
                "approach": row.pair.approach,
                "temp_degc": row.pair.temp_degc,
                "reference": row.pair.reference,
                "reading": row.pair.reading,
                "residual": result.residual,
                "beyond": number in beyond,
                "detail": row.pair.detail,
                "taken_by": row.by,
                "taken_ms": row.taken_ms,
            }
            for number, (row, result) in enumerate(zip(taken, fit.results, strict=True), 1)
        ],
        "before": probe.calibration.model_dump(mode="json"),
    }
