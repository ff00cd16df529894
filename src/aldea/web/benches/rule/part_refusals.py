"""Why a part that rules share is refused, in a person's words: the part, never a path."""

import re

from aldea.core.base.errors import AldeaError
from aldea.core.plan.document import Plan
from aldea.core.plan.reading import in_words

OF_A_PART = re.compile(r"/(rules|modes|conditions|derived|doorways|exclusive|controls)/([0-9]+)/")


def part_refused(plan: Plan, exc: AldeaError) -> str:
    """The part of a plan that a refusal is about, as people call it; empty where it is none."""
    where = OF_A_PART.match(exc.where)
    rows = getattr(plan, where[1]) if where else ()
    if where is None or int(where[2]) >= len(rows):
        return ""
    part = rows[int(where[2])]
    (name,) = in_words(plan, [part.id])
    if where[1] == "rules":
        return f"A rule of {name}"
    if where[1] == "exclusive":
        return f"“Never together” of {', '.join(relay.upper() for relay in part.relays)}"
    kind = {"modes": "Mode ", "controls": "Control ", "conditions": "Condition "}
    return f"{kind.get(where[1], '')}{getattr(part, 'name', '') or name}"


def in_its_words(plan: Plan, exc: AldeaError) -> str:
    """A refusal in a person's words: a path of the document is the part that it is about."""
    if not exc.where.startswith("/"):
        return exc.sentence
    part = part_refused(plan, exc)
    return f"{part}: {exc.at_field}" if part else exc.at_field


def still_used(plan: Plan, exc: AldeaError) -> str:
    """Why a part cannot be removed: what uses it, and what to do first."""
    part = part_refused(plan, exc)
    if not part:
        return in_its_words(plan, exc)
    return f"{part} uses it. Change or remove that first."
