"""Why a load is as it is: sentences from a stretch and the plan."""

from dataclasses import dataclass

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import near, span
from aldea.core.base.quantities import unit_of
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine import layout as lay
from aldea.core.engine.compiling.people import OUTSIDE_AUTHOR, WALL_AUTHOR
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.rehearse.stretches import Stretch
from aldea.core.words.conditions import condition_words
from aldea.core.words.override_ends import override_ends

INHIBIT_WORDS = {
    lay.INHIBIT_MIN_ON: "its shortest run",
    lay.INHIBIT_MIN_OFF: "its rest between runs",
    lay.INHIBIT_BOOT_DELAY: "its wait after the power cut",
}
OTHER_INHIBITS = {
    lay.INHIBIT_MAX_ON: "It has run its longest time; it is locked out until what asked lets go"
    "{rest}.",
    lay.INHIBIT_STARTS: "It has begun {starts} times within an hour; no further start yet.",
    lay.INHIBIT_EXCLUSIVE: "It waits for a relay that must never conduct together with its own.",
    lay.INHIBIT_BREAK: "Its relays have opened; the others close after the dead time of {dead}.",
    lay.INHIBIT_MOVING: "It still moves; what is wanted now comes after that.",
    lay.INHIBIT_NOT_ARRIVING: "It did not arrive {tries} times in a row; it is locked out until a "
    "person resets it.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadWords:
    """What is said about a load at an instant."""

    state: str
    decided_by: str
    rank: int
    why: str
    until: str
    next_change: str


def state_word(load: Load, state: int) -> str:
    """Its state as people say it: On or Off, Open or Shut."""
    return load_device(load).state_word(state)


def load_words(stretch: Stretch, *, load: Load, plan: Plan) -> LoadWords:
    """State, what decides, reason and end of a stretch, in the house's time."""
    zone = plan.house.time_zone
    decided_by = lay.RANK_NAMES[stretch.rank]
    if stretch.inhibit != lay.INHIBIT_NONE:
        decided_by = f"{decided_by}, delayed by {lay.INHIBIT_NAMES[stretch.inhibit]}"
    why = _why(stretch, load, plan)
    if stretch.next_change_ms is None:
        until, following = "", "no further change in this replay"
    else:
        until = near(stretch.next_change_ms, stretch.start_ms, zone)
        word = state_word(load, stretch.next_state or 0)
        following = f"{word} at {until}"
    return LoadWords(
        state="Dark" if stretch.decided_by is None else state_word(load, stretch.state),
        decided_by=decided_by,
        rank=stretch.rank,
        why=why,
        until=until,
        next_change=following,
    )


def _why(stretch: Stretch, load: Load, plan: Plan) -> str:
    zone = plan.house.time_zone
    since = near(stretch.cause_ms, stretch.start_ms, zone)
    if stretch.decided_by is None:
        return f"No power since {near(stretch.start_ms, stretch.start_ms, zone)}."
    if stretch.inhibit in INHIBIT_WORDS:
        wants = "stays on for" if stretch.state else "stays off for"
        return f"It {wants} {INHIBIT_WORDS[stretch.inhibit]} {_inhibit_end(stretch, load)}."
    if stretch.inhibit in OTHER_INHIBITS:
        return _other_inhibit(stretch.inhibit, load)
    if stretch.rank == lay.RANK_HAND:
        return f"{asked_by(stretch.author)}; {override_ends(plan, load, stretch.author)}."
    if stretch.cited is None:
        return "Nobody asks for it."
    if stretch.rank == lay.RANK_FAULT and stretch.cited.claim is None:
        return _fault(load, plan, stretch.cited.probe or "")
    claim = next(c for c in plan.claims_of(load.id) if c.id == stretch.cited.claim)
    if stretch.rank == lay.RANK_FAULT and claim.condition is None:
        return _fault_claim(claim, plan)
    if isinstance(claim.condition, Band):
        return _demand(stretch, claim.condition, plan, since)
    return _on_condition(stretch, claim, load, plan, since)


def asked_by(author: str) -> str:
    """Who asked by hand: a person or a control, a wall switch, or others at the drive itself."""
    words = {
        WALL_AUTHOR: "Its wall switch was thrown",
        OUTSIDE_AUTHOR: "It was moved by its own button",
    }
    return words.get(author, f"{author} asked for it")


def _other_inhibit(inhibit: int, load: Load) -> str:
    rest = f", and {span(load.max_on_rest_s)} have passed" if load.max_on_rest_s else ""
    dead_s = load_device(load).contacts(load).dead_s
    return OTHER_INHIBITS[inhibit].format(
        rest=rest,
        starts=load.starts_per_hour,
        dead=f"{short(dead_s)} s",
        tries=load.drive.tries if load.drive else 0,
    )


def _fault_claim(claim: Claim, plan: Plan) -> str:
    probe = plan.probe(claim.probe or "")
    name = probe.name if probe else claim.probe
    lasting = f" for {span(claim.after_s)}" if claim.after_s > 0 else ""
    return f"{name} has given no good reading{lasting}: the plan says {want_word(claim)} then."


def want_word(claim: Claim) -> str:
    """What a claim wants, as people say it."""
    words = {
        "step": f"step {claim.level}",
        "pattern": f"pattern {claim.level}",
        "percent": f"{short(claim.percent or 0.0)} %",
        "pulse": f"on for {span(claim.pulse_s or 0.0)}",
    }
    return words.get(claim.want, claim.want)


def _on_condition(stretch: Stretch, claim: Claim, load: Load, plan: Plan, since: str) -> str:
    clause = condition_words(plan, claim.condition)
    state = state_word(load, stretch.state)
    if stretch.rank == lay.RANK_TRIP:
        return f"Tripped: {clause}. It stays so until a person resets it."
    if stretch.rank < lay.RANK_REST:
        return f"{state} since {since}: {clause}."
    if stretch.inhibit == lay.INHIBIT_RETURN_OFF:
        waits = "as the plan says: it waits until this has ended"
        return f"{state} since the power cut, {waits}: {clause}."
    return f"{state} since {since}; it is asked for while {clause}."


def _demand(stretch: Stretch, band: Band, plan: Plan, since: str) -> str:
    if stretch.rank == lay.RANK_DEMAND:
        return f"On since {since}: {_crossing(stretch, band, plan)}"
    if stretch.inhibit == lay.INHIBIT_RETURN_OFF:
        return (
            "Off since the power cut, as the plan says: it waits until the band has let go at "
            f"{short(band.off)} {_unit(band, plan)}."
        )
    return _rest(stretch, band, plan, since)


def _fault(load: Load, plan: Plan, probe_id: str) -> str:
    probe = plan.probe(probe_id)
    name = probe.name if probe else probe_id
    after_s = load.silent.after_s
    lasting = f" for {span(after_s)}" if after_s > 0 else ""
    return f"{name} has given no good reading{lasting}: the plan says {load.silent.state} then."


def _inhibit_end(stretch: Stretch, load: Load) -> str:
    length_s = {
        lay.INHIBIT_MIN_ON: load.min_on_s,
        lay.INHIBIT_MIN_OFF: load.min_off_s,
        lay.INHIBIT_BOOT_DELAY: load.power_return.delay_s,
    }[stretch.inhibit]
    return f"of {span(length_s)}"


def _unit(band: Band, plan: Plan) -> str:
    probe = plan.probe(band.probe)
    return unit_of(probe.quantity) if probe else ""


def _crossing(stretch: Stretch, band: Band, plan: Plan) -> str:
    side = "reached" if band.direction == "rising" else "fell to"
    there = stretch.value >= band.on if band.direction == "rising" else stretch.value <= band.on
    begun = figure(stretch.value) if there else f"before; {figure(stretch.value)} then"
    mark = f"{short(band.on)} {_unit(band, plan)}"
    return f"it {side} the on mark {mark} ({begun}). Off at {short(band.off)}."


def _rest(stretch: Stretch, band: Band, plan: Plan, since: str) -> str:
    unit = _unit(band, plan)
    reading = f" ({figure(stretch.value)} {unit} then)" if stretch.value == stretch.value else ""
    return f"Off since {since}{reading}; the band asks again at {short(band.on)} {unit}."
