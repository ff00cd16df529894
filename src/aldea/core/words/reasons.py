"""Why a load is as it is: sentences from a stretch and the plan."""

from dataclasses import dataclass

from aldea.core.engine import layout as lay
from aldea.core.plan.document import Band, Load, Plan
from aldea.core.rehearse.stretches import Stretch
from aldea.core.words.figures import UNIT, figure, short
from aldea.core.words.times import near, span

HOLD_WORDS = {
    lay.HOLD_MIN_ON: "its shortest run",
    lay.HOLD_MIN_OFF: "its rest between runs",
    lay.HOLD_RETURN_DELAY: "its wait after the power cut",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What is said about a load at an instant."""

    state: str
    holder: str
    rank: int
    why: str
    until: str
    next_change: str


def state_word(load: Load, state: int) -> str:
    """On/Off, Open/Shut for valves."""
    if load.kind == "valve":
        return "Open" if state else "Shut"
    return "On" if state else "Off"


def say(stretch: Stretch, *, load: Load, plan: Plan) -> Said:
    """State, holder, reason and end of a stretch, in the house's time."""
    zone = plan.house.time_zone
    holder = lay.RANK_NAMES[stretch.rank]
    if stretch.hold != lay.HOLD_NONE:
        holder = f"{holder}, held by {lay.HOLD_NAMES[stretch.hold]}"
    why = _why(stretch, load, plan)
    if stretch.next_change_ms is None:
        until, following = "", "no further change in this replay"
    else:
        until = near(stretch.next_change_ms, stretch.start_ms, zone)
        word = state_word(load, stretch.next_state or 0)
        following = f"{word} at {until}"
    return Said(
        state="Dark" if stretch.holder is None else state_word(load, stretch.state),
        holder=holder,
        rank=stretch.rank,
        why=why,
        until=until,
        next_change=following,
    )


def _why(stretch: Stretch, load: Load, plan: Plan) -> str:
    zone = plan.house.time_zone
    since = near(stretch.cause_ms, stretch.start_ms, zone)
    if stretch.holder is None:
        return f"No power since {near(stretch.start_ms, stretch.start_ms, zone)}."
    claims = plan.claims_of(load.id)
    band = next(
        (c.condition for c in claims if c.id == stretch.holder.claim),
        claims[0].condition if claims else None,
    )
    if stretch.hold != lay.HOLD_NONE:
        wants = "stays on for" if stretch.state else "stays off for"
        return f"It {wants} {HOLD_WORDS[stretch.hold]} {_hold_end(stretch, load)}."
    if stretch.rank == lay.RANK_FAULT:
        return (
            f"No good reading for {span(load.silent.after_s)}: the plan says "
            f"{load.silent.state} then."
        )
    if band is None:
        return "Nobody asks for it."
    if stretch.rank == lay.RANK_DEMAND:
        return f"On since {since}: {_crossing(stretch, band, plan)}"
    return _rest(stretch, band, plan, since)


def _hold_end(stretch: Stretch, load: Load) -> str:
    length_s = {
        lay.HOLD_MIN_ON: load.min_on_s,
        lay.HOLD_MIN_OFF: load.min_off_s,
        lay.HOLD_RETURN_DELAY: load.power_return.delay_s,
    }[stretch.hold]
    return f"of {span(length_s)}"


def _unit(band: Band, plan: Plan) -> str:
    probe = plan.probe(band.probe)
    return UNIT[probe.quantity] if probe else ""


def _crossing(stretch: Stretch, band: Band, plan: Plan) -> str:
    side = "reached" if band.direction == "rising" else "fell to"
    unit = _unit(band, plan)
    begun = figure(stretch.value)
    return f"it {side} the on mark {short(band.on)} {unit} ({begun}). Off at {short(band.off)}."


def _rest(stretch: Stretch, band: Band, plan: Plan, since: str) -> str:
    unit = _unit(band, plan)
    reading = f" ({figure(stretch.value)} {unit} then)" if stretch.value == stretch.value else ""
    return f"Off since {since}{reading}; the band asks again at {short(band.on)} {unit}."
