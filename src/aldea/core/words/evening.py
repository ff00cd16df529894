"""What a house did in the last hours: a sentence where nothing is on now."""

from collections.abc import Mapping, Sequence

from aldea.core.base.instants import near, span
from aldea.core.engine import layout as lay
from aldea.core.plan.document import Plan
from aldea.core.rehearse.stretches import Stretch
from aldea.core.words.reasons import state_word

LOOK_MS = 4 * 3_600_000
MOST_TOLD = 3


def evening(plan: Plan, stretches: Mapping[str, Sequence[Stretch]], at_ms: int) -> str:
    """Who ran in the four hours before an instant and how long, and what is tripped since when."""
    zone = plan.house.time_zone
    from_ms = at_ms - LOOK_MS
    ran: list[tuple[int, str]] = []
    tripped: list[str] = []
    for load in plan.loads:
        rows = [s for s in stretches.get(load.id, ()) if s.end_ms > from_ms and s.start_ms <= at_ms]
        on_ms = sum(min(s.end_ms, at_ms) - max(s.start_ms, from_ms) for s in rows if s.state)
        if on_ms > 0:
            state = state_word(load, next(s.state for s in rows if s.state)).lower()
            ran.append((on_ms, f"{load.name} was {state} for {span(on_ms / 1000)}"))
        if rows and rows[-1].priority == lay.PRIORITY_TRIP:
            since = near(rows[-1].cause_ms, at_ms, zone)
            tripped.append(f"{load.name} is tripped since {since}")
    names = [text for _, text in sorted(ran, reverse=True)[:MOST_TOLD]]
    more = len(ran) - len(names)
    if more > 0:
        names.append(f"{more} more ran")
    since = near(from_ms, at_ms, zone)
    text = f"Since {since}: {', '.join(names)}." if names else f"Nothing ran since {since}."
    return f"{text} {'; '.join(tripped)}." if tripped else text
