"""What rules of several loads share, in words: schedules, modes, conditions, groups, must-nevers.

An owner who reads every rule must find here the hours that a schedule's name stands for, the values
of a mode, the members of a group, and what must never happen.
"""

from collections.abc import Sequence

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.base.listing import listed
from aldea.core.plan.controls import LoadGroup
from aldea.core.plan.derived import read_by
from aldea.core.plan.document import Plan
from aldea.core.plan.house_rules import Doorway, Exclusive
from aldea.core.plan.naming import reading_name
from aldea.core.words.conditions import condition_words
from aldea.core.words.invariants import invariant_sentence
from aldea.core.words.modes import mode_sentences
from aldea.core.words.schedules import schedule_sentences

MADE_WORDS = {
    "mean": "the mean of",
    "median": "the median of",
    "lowest": "the lowest of",
    "highest": "the highest of",
    "difference": "the difference of",
    "rate": "how fast it changes:",
}
Rows = list[tuple[str, str]]


def shared_rules(plan: Plan) -> list[tuple[str, Rows]]:
    """Each kind of what rules share, with name and sentence of each; empty kinds are left out."""
    sections = [
        ("Schedules", [(s.name, " ".join(schedule_sentences(s))) for s in plan.schedules]),
        ("Modes", [(mode.name, " ".join(mode_sentences(plan, mode))) for mode in plan.modes]),
        (
            "Named conditions",
            [
                (c.name or c.id, f"True while {condition_words(plan, c.condition)}.")
                for c in plan.conditions
            ],
        ),
        ("Groups", [(group.name, _group(plan, group)) for group in plan.groups]),
        ("Doorways", [(door.name, _doorway(plan, door)) for door in plan.doorways]),
        (
            "Calculated signals",
            [(signal.name, _derived(plan, signal.made)) for signal in plan.derived],
        ),
        (
            "Never both",
            [(_relays(group.relays), exclusive_words(group)) for group in plan.exclusive],
        ),
        (
            "What must never happen",
            [
                (_whose(plan, nevers.loads), invariant_sentence(nevers, plan))
                for nevers in plan.invariants
            ],
        ),
    ]
    return [(title, rows) for title, rows in sections if rows]


def _group(plan: Plan, group: LoadGroup) -> str:
    names = [load.name for key in group.members if (load := plan.load(key)) is not None]
    apart = f", {short(group.stagger_s)} s apart" if group.stagger_s else ""
    return f"{listed(names)}{apart}."


def _doorway(plan: Plan, door: Doorway) -> str:
    reset = f" The count is reset at {listed(door.reset_at)}." if door.reset_at else ""
    return (
        f"{reading_name(plan, door.outer)} and then {reading_name(plan, door.inner)} within "
        f"{span(door.within_s)} is one person in; the other way round one out.{reset}"
    )


def _derived(plan: Plan, source: object) -> str:
    kind = str(getattr(source, "kind", ""))
    names = [reading_name(plan, key) for key in read_by(source)]  # type: ignore[arg-type]
    text = f"{MADE_WORDS.get(kind, kind.replace('_', ' ') + ' from')} {listed(names)}."
    return text[:1].upper() + text[1:]


def _relays(relays: Sequence[str]) -> str:
    return listed([relay.upper() for relay in relays])


def exclusive_words(group: Exclusive) -> str:
    """What exclusive relays promise."""
    gap = f"; dead time {span(group.dead_s)}" if group.dead_s else ""
    why = f" ({group.why})" if group.why else ""
    return f"They never close together{gap}{why}."


def _whose(plan: Plan, loads: Sequence[str]) -> str:
    return listed([load.name for key in loads if (load := plan.load(key)) is not None])
