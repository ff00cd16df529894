"""The parts of a plan that are rehearsed by themselves: loads that hang together, what they read.

A load hangs on its own rules, on what they read, and on few other loads: those that it stands on
or shares exclusive relays with. So a threshold that is moved makes one part's replay anew, no
other's.
"""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, fields
from typing import Any

from aldea.core.base.memo import ByIdentity, per_plan
from aldea.core.base.parts import Part
from aldea.core.engine.calendar import calendar_reads
from aldea.core.engine.compiled_plan import CompiledPlan, compile_plan
from aldea.core.plan.conditions import (
    Dark,
    InMode,
    LoadState,
    Named,
    Position,
    QualityIs,
    Tape,
)
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.house_rules import Mode
from aldea.core.plan.panel import Assignment
from aldea.core.plan.reading import (
    contacts_of,
    expanded,
    position_probes,
    probes_of_rule,
    setting_conditions,
    values_of,
    working_rules,
)

MOST_KEPT = 400  # parts; a drag makes one anew, another house all of its own


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class LoadPart:
    """Working loads that hang together, with their rules and what they read: a plan of its own.

    `contacts` are the probes that are read as contacts. Two parts are equal where nothing that
    their replay, or what is said of it, rests on differs: `digest` is made of the very tables that
    the engine runs, of what the calendar reads, and of the parts of the plan that are told.
    """

    plan: Plan
    compiled: CompiledPlan
    probes: tuple[str, ...]
    contacts: tuple[str, ...]
    digest: bytes

    @classmethod
    def of(cls, plan: Plan, loads: tuple[Load, ...]) -> "LoadPart":
        """The part of some loads."""
        rules = tuple(rule for load in loads for rule in working_rules(plan, load.id))
        read = {probe for load in loads for probe in position_probes(load)}
        contacts: dict[str, None] = {}
        named: set[str] = set()
        modes: set[str] = set()
        for rule in rules:
            read.update(probes_of_rule(plan, rule))
            for condition in _conditions(plan, rule):
                read.update(values_of(plan, condition))
                contacts.update(dict.fromkeys(contacts_of(plan, condition)))
                for part in expanded(plan, condition):
                    if isinstance(part, QualityIs):
                        read.add(part.probe)
                    if isinstance(part, Named):
                        named.add(part.condition)
                    if isinstance(part, InMode):
                        modes.add(part.mode)
        probes = tuple(probe for probe in plan.probes if probe.id in read)
        ids = {load.id for load in loads}
        relays = tuple(relay for relay in plan.relays if relay.load in ids)
        known = {relay.id for relay in relays}
        alone = plan.model_copy(
            update={
                "loads": loads,
                "rules": rules,
                "probes": probes,
                "conditions": tuple(row for row in plan.conditions if row.id in named),
                "modes": _modes(plan, modes),
                "relays": relays,
                "exclusive": tuple(g for g in plan.exclusive if known & set(g.relays)),
                "controls": (),
                "groups": (),
                "assignments": _pins_of_tapes(plan, rules),
                "memory": _memory(plan, ids),
            }
        )
        compiled = compile_plan(alone)
        return cls(
            plan=alone,
            compiled=compiled,
            probes=tuple(probe.id for probe in probes),
            contacts=tuple(contacts),
            digest=digest_of(compiled),
        )

    @property
    def reads(self) -> tuple[str, ...]:
        """Every probe that the replay looks at."""
        return tuple(dict.fromkeys((*self.probes, *self.contacts)))

    @property
    def loads(self) -> frozenset[str]:
        """The loads that hang together."""
        return frozenset(load.id for load in self.plan.loads)

    def __hash__(self) -> int:
        return hash(self.digest)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, LoadPart) and self.digest == other.digest


def digest_of(compiled: CompiledPlan) -> bytes:
    """A digest of all that a run of a compiled plan, and its words, rest on in the plan."""
    digest = hashlib.blake2b(digest_size=16)
    for table in fields(compiled.tables):
        digest.update(bytes(getattr(compiled.tables, table.name)))
        digest.update(b"|")
    for row in (compiled.period_ms, compiled.rule_rows, compiled.input_ids, compiled.line_names):
        digest.update(repr(row).encode())
    for part in (*_parts_read(compiled.plan), *calendar_reads(compiled)):
        text = part.model_dump_json() if isinstance(part, Part) else repr(part)
        digest.update(text.encode())
        digest.update(b"|")
    return digest.digest()


def _parts_read(plan: Plan) -> Iterator[object]:
    """What is said of a run: names and figures of loads, probes, rules and what these name."""
    for rows in (
        plan.loads,
        plan.rules,
        plan.probes,
        plan.derived,
        plan.conditions,
        plan.modes,
        plan.doorways,
    ):
        yield from rows


def _pins_of_tapes(plan: Plan, rules: tuple[Rule, ...]) -> tuple[Assignment, ...]:
    """The pins of the tapes that are read: a tape's states hang on its divider, and so on its pin.

    Those of any other probe change nothing that its rules do.
    """
    tapes = {
        f"probe:{part.probe}"
        for rule in rules
        for part in _parts(plan, rule)
        if isinstance(part, Tape)
    }
    return tuple(row for row in plan.assignments if row.signal.partition(".")[0] in tapes)


def _conditions(plan: Plan, rule: Rule) -> list[Any]:
    """What a rule stands on: its condition, and what sets the modes that this looks at."""
    if rule.condition is None:
        return []
    return [rule.condition, *setting_conditions(plan, rule.condition)]


def _parts(plan: Plan, rule: Rule) -> list[Any]:
    return [part for row in _conditions(plan, rule) for part in expanded(plan, row)]


def _modes(plan: Plan, looked_at: set[str]) -> tuple[Mode, ...]:
    """Every mode; those that nobody looks at are set by nothing."""
    return tuple(
        mode
        if mode.id in looked_at or not mode.changes
        else mode.model_copy(update={"changes": ()})
        for mode in plan.modes
    )


def _memory(plan: Plan, loads: set[str]) -> object:
    """What of the memory's fields the part has; which fields there are changes no other load."""
    if plan.memory.fields is None:
        return plan.memory
    of_loads = ("load", "override", "lock_out")
    kept = tuple(
        field
        for field in plan.memory.fields
        if field.partition(":")[0] not in of_loads or field.partition(":")[2] in loads
    )
    return plan.memory.model_copy(update={"fields": kept})


def _stands_on(plan: Plan, load: Load) -> set[str]:
    """The other loads that a load's rules or relays hang on."""
    others: set[str] = set()
    for rule in working_rules(plan, load.id):
        for part in _parts(plan, rule):
            if isinstance(part, LoadState | Position):
                others.add(part.load)
            if isinstance(part, Dark) and part.lamp is not None:
                others.add(part.lamp)
    mine = {relay.id for relay in plan.relays_of(load.id)}
    owner = {relay.id: relay.load for relay in plan.relays}
    for group in plan.exclusive:
        if mine & set(group.relays):
            others.update(owner[relay] for relay in group.relays if relay in owner)
    return others


@per_plan
def load_parts(plan: Plan) -> dict[str, LoadPart]:
    """The part of every working load, in the order of the plan; loads that hang together share it.

    A memory that is not written at each change ties all loads together. A part of which nothing
    is another object than in a plan before is the part of that plan.
    """
    placed = _with_places(plan)
    working = [load for load in plan.loads if load.stage == "working"]
    group = {load.id: index for index, load in enumerate(working)}

    def join(first: str, second: str) -> None:
        if first in group and second in group and group[first] != group[second]:
            gone, stays = group[second], group[first]
            for load_id, at in group.items():
                if at == gone:
                    group[load_id] = stays

    for load in working:
        for other in _linked(plan, load):
            join(load.id, other)
        if plan.memory.quiet_s or plan.memory.least_s:
            join(working[0].id, load.id)
    parts: dict[int, LoadPart] = {}
    for at in dict.fromkeys(group.values()):
        together = tuple(load for load in working if group[load.id] == at)
        parts[at] = _part(plan, placed, together)
    return {load.id: parts[group[load.id]] for load in working}


_links: ByIdentity[frozenset[str]] = ByIdentity(MOST_KEPT)
_known_parts: ByIdentity[LoadPart] = ByIdentity(MOST_KEPT)


def _linked(plan: Plan, load: Load) -> frozenset[str]:
    return _links.get(
        (
            load,
            *working_rules(plan, load.id),
            plan.conditions,
            plan.modes,
            plan.relays,
            plan.exclusive,
        ),
        (),
        lambda: frozenset(_stands_on(plan, load)),
    )


def _part(plan: Plan, placed: Plan, loads: tuple[Load, ...]) -> LoadPart:
    """The part of some loads, their places in the stagger written down in `placed`."""
    ids = {load.id for load in loads}
    own = tuple(load for load in placed.loads if load.id in ids)
    rules = [rule for load in loads for rule in working_rules(plan, load.id)]
    whole = (getattr(plan, name) for name in WHOLE)
    places = tuple(load.stagger_place for load in own)
    return _known_parts.get(
        (*loads, *rules, *whole),
        (plan.scan_period_ms, places),
        lambda: LoadPart.of(placed, own),
    )


# The fields of a plan that a part reads as a whole; loads and rules it has by themselves.
WHOLE = (
    "house",
    "probes",
    "derived",
    "conditions",
    "modes",
    "doorways",
    "schedules",
    "relays",
    "exclusive",
    "memory",
    "boot",
    "assignments",
    "boards",
    "board_types",
    "supplies",
)


def _with_places(plan: Plan) -> Plan:
    """Every load with its place in the stagger written down, so that a part keeps it."""
    if not plan.boot.stagger_s:
        return plan
    place = 0
    loads = []
    for load in plan.loads:
        given = place if load.stagger_place is None else load.stagger_place
        place += load.stage == "working"
        loads.append(load.model_copy(update={"stagger_place": given}))
    return plan.model_copy(update={"loads": tuple(loads)})
