"""The faults that a load can be rehearsed under, and what its rules say to each."""

from dataclasses import dataclass
from typing import cast

from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import (
    contacts_of,
    own_contacts,
    reads_the_clock,
    unspoken_probes,
    working_rules,
)
from aldea.core.rehearse.trial import Failing
from aldea.core.rules.network import probes_away
from aldea.core.words.lost_probe import fault_rule, probe_words, probes_read

POLICY_WORDS = {
    "follow_rules": "It follows its rules again.",
    "off": "It stays off until requested anew.",
    "last": "It returns to its last state.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialRow:
    """What can fail, what the rules say to it, and each way as a key and a word on a button."""

    name: str
    rule: str
    ways: tuple[tuple[str, str], ...]


def trial_rows(plan: Plan, load: Load) -> tuple[TrialRow, ...]:
    """Each probe and contact of its rules; the network, the clock and the power."""
    rows = [_of_probe(plan, load, probe) for probe in probes_read(plan, load)]
    rows += [
        TrialRow(
            name=reading_name(plan, probe),
            rule="A contact has no valid-reading check, so no sensor fault can be detected.",
            ways=((f"open:{probe}", "Stands open"), (f"closed:{probe}", "Stands closed")),
        )
        for probe in _contacts(plan, load)
    ]
    if load.two_way is not None and load.two_way.sense is not None:
        rows.append(
            TrialRow(
                name="Its wall switch",
                rule="It is a manual override.",
                ways=(("wall", "Thrown while off"), ("lit", "Thrown while on")),
            )
        )
    away = probes_away(plan, load)
    if away:
        names = " and ".join(probe.name for probe in away)
        rows.append(
            TrialRow(
                name="The network is gone",
                rule=f"{names}: nothing is read.",
                ways=(("network", "Try it"),),
            )
        )
    timed = any(reads_the_clock(plan, rule) for rule in working_rules(plan, load.id))
    if timed:
        rows.append(
            TrialRow(
                name="The clock is not set",
                rule="Each schedule states whether it is in force then.",
                ways=(("clock", "Try it"),),
            )
        )
    ways = [("power", "Clock kept")] + ([("dark", "Clock lost")] if timed else [])
    rule = POLICY_WORDS[load.power_return.policy]
    rows.append(TrialRow(name="Power cut of 4 min", rule=rule, ways=tuple(ways)))
    return tuple(rows)


def failing_of(plan: Plan, load: Load, key: str) -> tuple[Failing, str, tuple[str, ...]] | None:
    """What fails by the key of a button, the load, and of which probes; None where it is none."""
    if key not in {way for row in trial_rows(plan, load) for way, _ in row.ways}:
        return None
    what, _, probe = key.partition(":")
    probes = tuple(p.id for p in probes_away(plan, load)) if what == "network" else (probe,)
    return cast(Failing, what), load.id, tuple(p for p in probes if p)


def _contacts(plan: Plan, load: Load) -> tuple[str, ...]:
    own = own_contacts(plan.loads)
    probes = (
        probe
        for rule in working_rules(plan, load.id)
        if rule.condition is not None
        for probe in contacts_of(plan, rule.condition)
    )
    return tuple(dict.fromkeys(probe for probe in probes if probe not in own))


def _of_probe(plan: Plan, load: Load, probe: str) -> TrialRow:
    known = plan.probe(probe)
    return TrialRow(
        name=reading_name(plan, probe),
        rule=" ".join(filter(None, (_fault_rule(plan, load, probe), _unwatched(known)))),
        ways=(
            (f"silent:{probe}", "No reading"),
            (f"stuck:{probe}", "Stuck"),
            (f"beyond:{probe}", "Out of range"),
        ),
    )


def _unwatched(probe: Probe | None) -> str:
    return "No check for a stuck value is set." if probe and probe.stuck is None else ""


def _fault_rule(plan: Plan, load: Load, probe: str) -> str:
    rule = fault_rule(plan, load, probe)
    if (
        rule is None
        and probe in unspoken_probes(plan, load)
        and load.on_sensor_fault.each == "rule"
    ):
        words = probe_words(plan, load, probe)
        return f"{words[:1].upper()}{words[1:]}."
    if rule is None:
        return "No fault rule: each condition on it says what it counts as."
    return f"{rule.words(load)}{', by a rule of its own' if rule.own else ''}."
