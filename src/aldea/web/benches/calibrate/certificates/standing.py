"""Whether a signed certificate still stands: void, superseded, expired, or taken back."""

from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.base.instants import stamp
from aldea.core.plan.document import Plan
from aldea.core.wiring.evidence import VOID_WORDS, circuit_digest
from aldea.store.calibrations import Certificate


@dataclass(frozen=True, slots=True, kw_only=True)
class NotStanding:
    """Why a certificate does not stand: a word for the label, a sentence for page and sheet."""

    word: str
    sentence: str


def is_of_another_circuit(plan: Plan, certificate: Certificate) -> bool:
    """Whether a certificate was signed for another circuit than its probe has in the plan."""
    probe = plan.probe(certificate.probe)
    signed_for = certificate.document.get("circuit", "")
    return probe is not None and signed_for not in ("", circuit_digest(plan, probe))


def not_standing(
    plan: Plan, certificate: Certificate, signed: Sequence[Certificate], now_ms: int
) -> NotStanding | None:
    """Why a certificate does not stand today, the gravest first; None where it does.

    `signed` are the certificates of the house.
    """
    zone = plan.house.time_zone
    probe = plan.probe(certificate.probe)
    if probe is None:
        return NotStanding(word="probe removed", sentence="Its probe is not in the plan any more.")
    if is_of_another_circuit(plan, certificate):
        return NotStanding(word="void", sentence=f"Void. {VOID_WORDS}")
    newer = max(
        (c for c in signed if c.probe == probe.id and c.number > certificate.number),
        key=lambda c: c.number,
        default=None,
    )
    if newer is not None:
        return NotStanding(
            word="superseded",
            sentence=f"Superseded by certificate {newer.number} on {stamp(newer.at_ms, zone)}.",
        )
    if certificate.due_ms <= now_ms:
        return NotStanding(
            word="expired",
            sentence=f"Expired on {stamp(certificate.due_ms, zone)}: sign a new one.",
        )
    if probe.calibration.certificate != certificate.number:
        return NotStanding(
            word="not applied",
            sentence="The draft has another line for this probe: this certificate was undone.",
        )
    return None
