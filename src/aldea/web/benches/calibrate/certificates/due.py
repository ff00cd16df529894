"""Certificates as a list: what is due, how each probe drifted, what is owed."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import groupby
from types import MappingProxyType
from typing import Literal

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, signed
from aldea.core.base.instants import span, stamp
from aldea.core.base.quantities import unit_of
from aldea.core.calibrate.drift import Drift, Signed, drift_of
from aldea.core.plan.document import Plan
from aldea.core.plan.reading import probes_of_rule
from aldea.core.wiring.evidence import is_void
from aldea.core.words.verdicts import Verdict
from aldea.store.calibrations import Certificate
from aldea.store.in_place import CheckedInPlace
from aldea.web.benches.calibrate.certificates.standing import is_of_another_circuit

NONE_CHECKED: Mapping[int, CheckedInPlace] = MappingProxyType({})
DUE_SOON_MS = 30 * 86_400_000
FAR_MS = 50 * 31_557_600_000  # a forecast beyond fifty years says nothing


@dataclass(frozen=True, slots=True, kw_only=True)
class DueRow:
    """A probe with what its newest certificate says; `numbers` of all of them, newest first."""

    probe: str
    name: str
    signed: str
    due: str
    state: Literal["holds", "owed", "fails"]
    words: str
    drift: str
    leaves: str
    numbers: tuple[int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class DueList:
    """All probes that a load follows or that were ever certified, the most pressing first."""

    verdict: Verdict
    rows: tuple[DueRow, ...]


def signed_of(certificate: Certificate) -> Signed:
    """A certificate as the history reads it."""
    document = certificate.document
    low, high = document["range"]
    return Signed(
        at_ms=certificate.at_ms,
        slope=document["line"]["slope"],
        intercept=document["line"]["intercept"],
        expanded=document["expanded_uncertainty"],
        low=low,
        high=high,
    )


def due_list(
    plan: Plan,
    certificates: list[Certificate],
    now_ms: int,
    checked: Mapping[int, CheckedInPlace] = NONE_CHECKED,
) -> DueList:
    """What is certified until when, and what is not."""
    rows: list[tuple[int, DueRow]] = []
    ordered = sorted(certificates, key=lambda c: (c.probe, -c.number))
    history = {probe: list(group) for probe, group in groupby(ordered, key=lambda c: c.probe)}
    read = {probe for rule in plan.rules for probe in probes_of_rule(plan, rule)}
    for probe in plan.probes:
        mine = history.get(probe.id, [])
        if mine or probe.id in read or probe.calibration.basis == "carried":
            rows.append(_row(plan, probe.id, mine, now_ms, checked))
    rows.sort(key=lambda pair: pair[0])
    pressing = [row for _, row in rows if row.state != "holds"]
    if not rows:
        verdict = Verdict(
            state="owed", sentence="No probe has a certificate, and no rule reads one."
        )
    elif pressing:
        first = pressing[0]
        more = f"{len(pressing) - 1} more." if len(pressing) > 1 else ""
        state: Literal["fails", "owed"] = "fails" if first.state == "fails" else "owed"
        verdict = Verdict(state=state, sentence=f"{first.name}: {first.words}.", rest=more)
    else:
        verdict = Verdict(state="holds", sentence="Every certificate is valid.")
    return DueList(verdict=verdict, rows=tuple(row for _, row in rows))


def _row(
    plan: Plan,
    probe_id: str,
    mine: list[Certificate],
    now_ms: int,
    checked: Mapping[int, CheckedInPlace],
) -> tuple[int, DueRow]:
    probe = plan.probe(probe_id)
    if probe is None:
        raise KeyError(probe_id)
    zone, unit = plan.house.time_zone, unit_of(probe.quantity)
    source = plan.probe(probe.calibration.carried_from or "")
    carried = "its line is taken over: record its own check point"
    if source is not None:
        carried = f"its line is taken from {source.name}: record its own check point"
    if not mine or probe.calibration.basis == "carried":
        return now_ms, DueRow(
            probe=probe.id,
            name=probe.name,
            signed="",
            due="",
            state="owed",
            words=carried
            if probe.calibration.basis == "carried"
            else "no certificate yet; a rule reads it",
            drift="",
            leaves="",
            numbers=tuple(c.number for c in mine),
        )
    newest = mine[0]
    left_ms = newest.due_ms - now_ms
    state: Literal["holds", "owed", "fails"] = "holds"
    words = f"covers {span(left_ms / 1000)}"
    place = checked.get(newest.number)
    if place is None:
        words += ", on the bench; not checked in place"
    elif place.result.holds and not place.result.tells:
        words += ", on the bench; its reference in place could not verify it"
    elif not place.result.holds:
        state, words = "fails", "not valid in place: sign a new one"
    if left_ms <= 0:
        state, words = "fails", f"overdue for {span(-left_ms / 1000)}"
    elif left_ms < DUE_SOON_MS:
        state, words = "owed", f"due in {span(left_ms / 1000)}"
    if is_void(plan, probe):
        state, words = "fails", "void: its circuit was changed since"
    of_this = [signed_of(c) for c in mine if not is_of_another_circuit(plan, c)]
    drift, leaves = _drift_words(of_this, unit, zone)
    return newest.due_ms, DueRow(
        probe=probe.id,
        name=probe.name,
        signed=f"{stamp(newest.at_ms, zone)}, {newest.signed_by}",
        due=stamp(newest.due_ms, zone),
        state=state,
        words=words,
        drift=drift,
        leaves=leaves,
        numbers=tuple(c.number for c in mine),
    )


def _drift_words(history: list[Signed], unit: str, zone: str) -> tuple[str, str]:
    try:
        estimate: Drift | None = drift_of(history)
    except CalibrationError:
        estimate = None
    if estimate is None:
        if len(history) > 1:
            return "needs one signed two months later", ""
        return "needs a second certificate", ""
    doubt = (
        " (from two points, so without its own uncertainty)" if estimate.certificates == 2 else ""
    )
    drift = f"{signed(estimate.per_year, 2)} {unit} a year at {figure(estimate.middle, 0)}{doubt}"
    if estimate.leaves_ms is None or estimate.leaves_ms - history[0].at_ms > FAR_MS:
        return drift, "not within fifty years"
    return drift, stamp(estimate.leaves_ms, zone)
