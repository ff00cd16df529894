"""Certificates checked in place, each once."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection, select
from sqlalchemy.dialects.postgresql import insert

from aldea.core.base.errors import ConflictError
from aldea.core.calibrate.in_place import InPlace
from aldea.core.plan.calibration import ProvenRange
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.calibrations import Certificate


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedInPlace:
    """What was compared in place, by whom, when."""

    result: InPlace
    by: str
    at_ms: int


def check_in_place(
    connection: Connection,
    house_id: int,
    certificate: Certificate,
    *,
    reference: float,
    reference_expanded: float,
    reading: float,
    by: Account,
    at_ms: int,
) -> None:
    """Write the comparison down; `ConflictError` where the certificate has one already."""
    done = connection.scalar(
        insert(t.certificate_in_place)
        .values(
            house_id=house_id,
            number=certificate.number,
            reference=reference,
            reference_expanded=reference_expanded,
            reading=reading,
            checked_by=by.id,
            at_ms=at_ms,
        )
        .on_conflict_do_nothing()
        .returning(t.certificate_in_place.c.number)
    )
    if done is None:
        raise ConflictError(
            f"certificate {certificate.number}",
            text=f"Certificate {certificate.number} was checked in place already. Sign a new one "
            "to check again.",
        )  # fmt: skip


def in_place_of(
    connection: Connection, house_id: int, certificates: list[Certificate]
) -> dict[int, CheckedInPlace]:
    """Of some certificates what was compared in place, by their numbers."""
    known = {certificate.number: certificate for certificate in certificates}
    c = t.certificate_in_place.c
    rows = connection.execute(
        select(t.certificate_in_place, t.account.c.name)
        .join_from(t.certificate_in_place, t.account)
        .where(c.house_id == house_id, c.number.in_(known))
    ).all()
    by_certificate = {}
    for row in rows:
        document = known[row.number].document
        line = document["line"]
        corrected = line["intercept"] + line["slope"] * row.reading
        low, high = document["range"]
        by_certificate[row.number] = CheckedInPlace(
            result=InPlace(
                reference=row.reference,
                reference_expanded=row.reference_expanded,
                corrected=corrected,
                expanded=_expanded_at(document, corrected),
                is_outside=not low <= row.reference <= high,
            ),
            by=row.name,
            at_ms=row.at_ms,
        )
    return by_certificate


def _expanded_at(document: Mapping[str, Any], value: float) -> float:
    """U of a certificate at a value; one signed before its range was kept has one for all."""
    expanded = float(document["expanded_uncertainty"])
    if not document.get("proven"):
        return expanded
    return ProvenRange.model_validate(document["proven"]).expanded_at(value, expanded)
