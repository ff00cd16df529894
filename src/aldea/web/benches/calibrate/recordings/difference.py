"""Two thermometers in one bath: their difference, and how well a ΔT between them is known."""

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import as_typed, figure, signed
from aldea.core.calibrate.probe_pair import ProbePair, compare_pair
from aldea.core.plan.document import Plan, Probe
from aldea.core.words.verdicts import Verdict
from aldea.formats.pasted import read_pasted
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Table,
    filled,
)


def _thermometers(plan: Plan) -> list[Probe]:
    return [p for p in plan.probes if p.quantity == "air_temperature"]


def _subjects(plan: Plan) -> tuple[tuple[str, str], ...]:
    thermometers = _thermometers(plan)
    return tuple((p.id, p.name) for p in thermometers) if len(thermometers) > 1 else ()


def _own(name: str, label: str, probe: Probe) -> Ask:
    first = as_typed(probe.calibration.expanded_uncertainty)
    return Ask(name=name, label=label, unit="± K, k=2", first=first, low=0.001, high=20)


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    here = next(p for p in _thermometers(plan) if p.id == subject)
    others = [p for p in _thermometers(plan) if p.id != subject]
    return (
        Ask(
            name="other",
            label="Second",
            first=others[0].id,
            options=tuple((p.id, p.name) for p in others),
        ),
        Ask(name="pairs", label="Readings, first and second, °C", rows=6),
        Ask(
            name="common_k", label="Reference, common to both", unit="± K, k=2", first="0", high=20
        ),
        _own("own_1_k", "The first’s own", here),
        Ask(
            name="own_2_k",
            label="The second’s own",
            unit="± K, k=2",
            first=as_typed(others[0].calibration.expanded_uncertainty),
            low=0.001,
            high=20,
            note="Own: what is left of a probe’s uncertainty without the reference that both were "
            "calibrated on.",
        ),
    )


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    other = given.plan.probe(given.fields.choice("other", dict(asks["other"].options)))
    common = given.number(asks["common_k"])
    own_1, own_2 = given.number(asks["own_1_k"]), given.number(asks["own_2_k"])
    text = given.text("pairs")
    given.fields.check()
    if other is None:  # a choice of the list is a probe of the plan
        raise InputError("other", got="nothing", allowed="another thermometer")
    try:
        pair = compare_pair(
            read_pasted(text),
            expanded_common_k=common,
            expanded_own_1_k=own_1,
            expanded_own_2_k=own_2,
        )
    except (InputError, CalibrationError) as exc:
        given.fields.errors.setdefault("pairs", exc.sentence)
        raise
    return Found(
        verdict=_verdict(given.probe, other, pair),
        tables=(
            Table(
                bold=frozenset({1}),
                title="Their difference, and what remains",
                head=("", "", ""),
                rows=_rows(pair),
                figures=frozenset({1}),
            ),
        ),
    )


def _verdict(first: Probe, second: Probe, pair: ProbePair) -> Verdict:
    head = f"{second.name} reads {signed(pair.mean_k, 3)} K beside {first.name}."
    rest = f"A ΔT between them is known to ±{figure(pair.expanded_k, 2)} K (k=2)."
    if pair.stands_out:
        return Verdict(state="owed", sentence=head, rest=f"{rest} Subtract it before using a ΔT.")
    return Verdict(state="holds", sentence=head, rest=f"{rest} The bath scatters more than that.")


def _rows(pair: ProbePair) -> tuple[tuple[str, str, str], ...]:
    return (
        ("Second minus first", f"{signed(pair.mean_k, 3)} K", f"the mean of {pair.count}"),
        ("Scatter of one pair", f"{figure(pair.sd_k, 3)} K", "one sigma"),
        ("The mean is known to", f"{figure(pair.u_mean_k, 3)} K", "one sigma"),
        (
            "Correlation",
            figure(pair.correlation_1, 3),
            "by their common reference",
        ),
        ("In a ΔT, correlated", f"±{figure(2 * pair.u_k, 3)} K", "k=2; the reference cancels"),
        (
            "In a ΔT, if independent",
            f"±{figure(2 * pair.u_uncorrelated_k, 3)} K",
            "k=2; two certificates of two references",
        ),
    )


DIFFERENCE = RecordingsBench(
    key="difference",
    computed="difference",
    called="two thermometers",
    heading="Difference of two",
    does="two probes in one bath, what is left in a ΔT",
    takes="about 30 min in one bath",
    subjects=_subjects,
    asks=_fields_of,
    work=_calculate,
    begin="Both in one stirred bath, read at the same moment, three times or more.",
    nothing="not compared yet.",
    empty="Tie both probes together, stir the bath and wait until both are stable. Note both "
    "readings at the same moment and paste them into the form, one pair a line.",
    enough=filled("pairs"),
    links=lambda subject: (("To the bench", f"/calibrate/{subject}"),),
    action="Compare them",
)
