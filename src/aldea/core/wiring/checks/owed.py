"""Checks of what is still to do: relays, names that can be told apart, what must never happen."""

from collections.abc import Iterator

from aldea.core.devices.finding import Check, Finding, change_around
from aldea.core.devices.loads.classes import must_rest
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.seats import assignment_of
from aldea.core.wiring.names import alike_names, spoken_names
from aldea.core.wiring.relays import roles_wanted, with_relays


def relays_there(plan: Plan) -> Iterator[Finding]:
    """A load lacks relays for what it is to do."""
    for load in plan.loads:
        have = {relay.role for relay in plan.relays_of(load.id)}
        missing = [role for role in roles_wanted(load) if role not in have]
        if not missing:
            continue
        count = len(missing)
        yield Finding(
            key=f"relays-{load.id}",
            weight="open",
            head=f"{load.name} has no relay{'' if count == 1 else 's'} yet."
            if not have
            else f"{load.name} lacks {count} relay{'' if count == 1 else 's'}.",
            why=f"It needs {', '.join(missing)}.",
            fix="Propose relays and check their ratings.",
            at=f"load:{load.id}",
            press=f"Propose {count} relay{'' if count == 1 else 's'}",
            apply=change_around(with_relays, load.id),
        )


def unwired_loads(plan: Plan) -> tuple[Load, ...]:
    """Working loads that no board switches: without all their relays, or relays without a pin."""
    rows = assignment_of(plan)

    def wired(load: Load) -> bool:
        relays = plan.relays_of(load.id)
        have = {relay.role for relay in relays}
        return have >= set(roles_wanted(load)) and all(f"relay:{r.id}.coil" in rows for r in relays)

    return tuple(load for load in plan.loads if load.stage == "working" and not wired(load))


def names_apart(plan: Plan) -> Iterator[Finding]:
    """Names that are equal or sound alike."""
    for alike in alike_names(spoken_names(plan)):
        owners = tuple(owner for name, owner in _owners(plan) if name in alike.names)
        last = alike.names[-1]
        yield Finding(
            key=f"names-{alike.names[0]}-{last}",
            weight="warning",
            head=alike.sentence,
            why="A voice service, or a tired person, would confuse them.",
            fix="Give one of them another name, or another form to be said by; or number them.",
            at=owners[-1],
            about=owners[:-1],
            field="name",
        )


def _owners(plan: Plan) -> Iterator[tuple[str, str]]:
    """Names with what they are of, in the order in which they are compared."""
    yield from ((load.spoken or load.name, f"load:{load.id}") for load in plan.loads)
    yield from ((control.name, f"control:{control.id}") for control in plan.controls)
    yield from ((place.name, f"place:{place.id}") for place in plan.places)


def must_never_said(plan: Plan) -> Iterator[Finding]:
    """Nothing was said about what must never happen with something dangerous."""
    spoken = {load for invariant in plan.invariants for load in invariant.loads}
    for load in plan.loads:
        if must_rest(load.load_class) and load.id not in spoken:
            yield Finding(
                key=f"never-{load.id}",
                weight="open",
                head=f"{load.name}: what must never happen?",
                why=f"It is of class {load.load_class}; nothing is set yet.",
                fix="Set it at Lay out; every replay checks it.",
                at=f"load:{load.id}",
            )


OWED_CHECKS: tuple[Check, ...] = (relays_there, names_apart, must_never_said)
