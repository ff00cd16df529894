"""What must never happen, in a sentence; and what is usually said for a class of load."""

from dataclasses import dataclass

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.base.quantities import unit_of
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.invariants import (
    AtMost,
    Invariant,
    LoadIs,
    Never,
    NeverTogether,
    ProbeIs,
    Term,
    ValueIs,
    Whenever,
)

USUAL_WET_KOHM = 60.0


def invariant_sentence(invariant: Invariant, plan: Plan) -> str:
    """The invariant as a plain sentence."""
    rule = invariant.rule
    if isinstance(rule, Never):
        for_s = f" for longer than {span(rule.longer_than_s)}" if rule.longer_than_s else ""
        first, *rest = rule.when
        meanwhile = f" while {' and '.join(_clause(term, plan) for term in rest)}" if rest else ""
        return f"{_must(first, plan, 'must never')}{for_s}{meanwhile}."
    if isinstance(rule, Whenever):
        when = " and ".join(_clause(term, plan) for term in rule.when)
        then = " and ".join(_must(term, plan, "must") for term in rule.then)
        return f"Whenever {when}, {then} within {span(rule.within_s)}."
    if isinstance(rule, NeverTogether):
        first_load, second = (_load(load, plan) for load in rule.loads)
        return f"{first_load} and {second} must never be on together."
    return (
        f"{_must(LoadIs(load=rule.load), plan, 'must never')} for more than "
        f"{span(rule.at_most_s)} in any {span(rule.window_s)}."
    )


def _load(load_id: str, plan: Plan) -> str:
    load = plan.load(load_id)
    return load.name if load else load_id


def _must(term: Term, plan: Plan, verb: str) -> str:
    """“Main valve must never be open”, “Front door must never be without a valid reading”."""
    name, state = _subject(term, plan)
    return f"{name} {verb} be {state}"


def _clause(term: Term, plan: Plan) -> str:
    """“Sink tape is below 60 kΩ”."""
    name, state = _subject(term, plan)
    return f"{name} is {state}"


def _subject(term: Term, plan: Plan) -> tuple[str, str]:
    """What a term is about, and how it is."""
    if isinstance(term, LoadIs):
        load = plan.load(term.load)
        word = load_device(load).state_word(term.state == "on").lower() if load else term.state
        return _load(term.load, plan), word
    probe = plan.probe(term.probe)
    name = probe.name if probe else term.probe
    if isinstance(term, ProbeIs):
        return name, f"{'with' if term.quality == 'good' else 'without'} a valid reading"
    unit = unit_of(probe.quantity) if probe else ""
    return name, f"{term.side} {short(term.value)} {unit}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """A figure of an invariant that a person may set: where it stands, its unit, its limits."""

    key: str
    label: str
    value: float
    unit: str
    low: float = 0.0
    high: float = 1e6


def figures_of(invariant: Invariant, plan: Plan) -> tuple[Figure, ...]:
    """What can be set in an invariant: times in minutes or seconds, values in their unit."""
    rule = invariant.rule
    figures: list[Figure] = []
    for index, term in enumerate(invariant.terms):
        if isinstance(term, ValueIs):
            probe = plan.probe(term.probe)
            figures.append(
                Figure(
                    key=f"value{index}",
                    label=f"{term.side}",
                    value=term.value,
                    unit=unit_of(probe.quantity) if probe else "",
                    low=probe.range.low if probe else -1e6,
                    high=probe.range.high if probe else 1e6,
                )
            )
    if isinstance(rule, Never):
        figures.append(
            Figure(key="longer", label="longer than", value=rule.longer_than_s, unit="s")
        )
    elif isinstance(rule, Whenever):
        figures.append(Figure(key="within", label="within", value=rule.within_s, unit="s"))
    elif isinstance(rule, AtMost):
        figures.append(
            Figure(key="at_most", label="at most", value=rule.at_most_s / 60, unit="min")
        )
        figures.append(Figure(key="window", label="in any", value=rule.window_s / 60, unit="min"))
    return tuple(figures)


def with_figures(invariant: Invariant, values: dict[str, float], other: str = "") -> Invariant:
    """The invariant with figures set, and for two loads with another partner."""
    rule = invariant.rule
    if isinstance(rule, NeverTogether):
        pair = (rule.loads[0], other or rule.loads[1])
        return invariant.model_copy(update={"rule": rule.model_copy(update={"loads": pair})})
    terms = [
        term.model_copy(update={"value": values.get(f"value{index}", term.value)})
        if isinstance(term, ValueIs)
        else term
        for index, term in enumerate(invariant.terms)
    ]
    update: dict[str, object]
    if isinstance(rule, Never):
        update = {"when": tuple(terms), "longer_than_s": values.get("longer", rule.longer_than_s)}
    elif isinstance(rule, Whenever):
        cut = len(rule.when)
        update = {
            "when": tuple(terms[:cut]),
            "then": tuple(terms[cut:]),
            "within_s": values.get("within", rule.within_s),
        }
    else:
        update = {
            "at_most_s": 60 * values.get("at_most", rule.at_most_s / 60),
            "window_s": 60 * values.get("window", rule.window_s / 60),
        }
    return invariant.model_copy(update={"rule": rule.model_copy(update=update)})


def _wet(probe: Probe) -> ValueIs:
    """A tape that is wet, by what the plan holds of it."""
    device = sensor_device(probe)
    trips = device.trips_at(probe.sensor) if device else None
    kohm = USUAL_WET_KOHM if trips is None else trips
    return ValueIs(probe=probe.id, side="below", value=float(f"{kohm:.4g}"))


def suggestions(load: Load, plan: Plan) -> list[tuple[str, Invariant]]:
    """What is usually said for a load of its class, as sentence and typed form; ids are free."""
    on = LoadIs(load=load.id)
    rules: list[Never | Whenever | NeverTogether | AtMost] = []
    here = [p for p in plan.probes if p.place == load.place]
    if load.load_class == "heat":
        rules.append(AtMost(load=load.id, at_most_s=10_800.0, window_s=14_400.0))
        rules += [
            Never(when=(on, ProbeIs(probe=p.id)), longer_than_s=60.0)
            for p in here
            if p.quantity == "air_temperature"
        ]
    elif load.load_class == "water":
        rules += [
            Never(when=(on, _wet(p)), longer_than_s=30.0) for p in here if p.quantity == "leak"
        ]
        rules.append(AtMost(load=load.id, at_most_s=2700.0, window_s=21_600.0))
    elif load.load_class == "motion":
        rules.append(AtMost(load=load.id, at_most_s=120.0, window_s=3600.0))
    elif load.load_class == "air":
        rules += [
            Never(when=(on, ProbeIs(probe=p.id)), longer_than_s=3600.0)
            for p in here
            if p.quantity in ("relative_humidity", "gas_hint")
        ]
        rules.append(AtMost(load=load.id, at_most_s=28_800.0, window_s=86_400.0))
    else:
        rules += [
            Whenever(
                when=(ValueIs(probe=p.id, side="below", value=5.0),), then=(on,), within_s=10.0
            )
            for p in here
            if p.quantity == "illuminance"
        ]
        rules.append(AtMost(load=load.id, at_most_s=43_200.0, window_s=86_400.0))
    others = [other for other in plan.loads if other.id != load.id]
    others.sort(key=lambda other: (other.feed != load.feed, other.place != load.place))
    rules += [NeverTogether(loads=(load.id, other.id)) for other in others[:1]]
    stated = {invariant.rule for invariant in plan.invariants}
    suggested = [Invariant(id="suggested", rule=rule) for rule in rules if rule not in stated]
    return [(invariant_sentence(one, plan), one) for one in suggested]
