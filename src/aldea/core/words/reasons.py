"""Why a load is as it is: sentences from a stretch and the plan."""

from dataclasses import dataclass

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import near, span
from aldea.core.base.quantities import unit_of
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine import layout as lay
from aldea.core.engine.compiling.people import OUTSIDE_AUTHOR, WALL_AUTHOR
from aldea.core.plan.conditions import Band
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.rehearse.stretches import Stretch
from aldea.core.words.conditions import condition_words, one_line
from aldea.core.words.override_ends import override_ends
from aldea.core.words.priorities import priority_words

INHIBIT_WORDS = {
    lay.INHIBIT_MIN_ON: "its minimum on time",
    lay.INHIBIT_MIN_OFF: "its minimum off time",
    lay.INHIBIT_BOOT_DELAY: "its wait after the power cut",
}
OTHER_INHIBITS = {
    lay.INHIBIT_MAX_ON: "Maximum on time reached: restart inhibited until every rule that "
    "requested it has been inactive{rest}.",
    lay.INHIBIT_STARTS: "Maximum starts per hour reached ({starts}): no further start yet.",
    lay.INHIBIT_EXCLUSIVE: "Waiting for a relay that must never conduct together with this one.",
    lay.INHIBIT_BREAK: "Its relays have opened; the others close after the dead time of {dead}.",
    lay.INHIBIT_MOVING: "The drive is still moving; the new request follows when it has arrived.",
    lay.INHIBIT_NOT_ARRIVING: "It did not arrive {tries} times in a row; it is locked out until a "
    "person resets it.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadWords:
    """What is said about a load at an instant."""

    state: str
    decided_by: str
    priority: int
    why: str
    until: str
    next_change: str


def state_word(load: Load, state: int) -> str:
    """Its state as people say it: On or Off, Open or Shut."""
    return load_device(load).state_word(state)


def load_words(stretch: Stretch, *, load: Load, plan: Plan) -> LoadWords:
    """State, what decides, reason and end of a stretch, in the house's time."""
    zone = plan.house.time_zone
    decided_by = priority_words(stretch.priority)
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
        priority=stretch.priority,
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
    if stretch.priority == lay.PRIORITY_OVERRIDE:
        return f"{asked_by(stretch.author)}; {override_ends(plan, load, stretch.author)}."
    if stretch.cited is None:
        return "No rule requests it."
    if stretch.priority == lay.PRIORITY_FAULT and stretch.cited.rule is None:
        return _fault(load, plan, stretch.cited.probe or "")
    rule = next(c for c in plan.rules_of(load.id) if c.id == stretch.cited.rule)
    if stretch.priority == lay.PRIORITY_FAULT and rule.condition is None:
        return _fault_rule(rule, plan)
    if isinstance(rule.condition, Band):
        return _demand(stretch, rule.condition, plan, since)
    return _on_condition(stretch, rule, load, plan, since)


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


def _fault_rule(rule: Rule, plan: Plan) -> str:
    probe = plan.probe(rule.probe or "")
    name = probe.name if probe else rule.probe
    lasting = f" for {span(rule.after_s)}" if rule.after_s > 0 else ""
    return f"{name} has had no valid reading{lasting}: the plan sets {want_word(rule)} then."


def want_word(rule: Rule) -> str:
    """What a rule wants, as people say it."""
    words = {
        "step": f"step {rule.level}",
        "pattern": f"pattern {rule.level}",
        "percent": f"{short(rule.percent or 0.0)} %",
        "pulse": f"on for {span(rule.pulse_s or 0.0)}",
    }
    return words.get(rule.want, rule.want)


def _turns(rule: Rule) -> str:
    """“Turns on”, “Opens”, “Goes to step 2”."""
    verbs = {"open": "Opens", "shut": "Shuts"}
    verb = "Turns" if rule.want in ("on", "off", "pulse") else "Goes to"
    return verbs.get(rule.want, f"{verb} {want_word(rule)}")


def _on_condition(stretch: Stretch, rule: Rule, load: Load, plan: Plan, since: str) -> str:
    clause = one_line(condition_words(plan, rule.condition))
    state = state_word(load, stretch.state)
    if stretch.priority == lay.PRIORITY_TRIP:
        return f"Tripped: {clause}. A person must reset it."
    if stretch.priority < lay.PRIORITY_DEFAULT:
        return f"{state} since {since}: {clause}."
    if stretch.inhibit == lay.INHIBIT_RETURN_OFF:
        return f"{state} since the power cut, until this rule has been inactive once: {clause}."
    return f"{state} since {since}. {_turns(rule)} when {clause}."


def _demand(stretch: Stretch, band: Band, plan: Plan, since: str) -> str:
    if stretch.priority == lay.PRIORITY_DEMAND:
        return f"On since {since}: {_crossing(stretch, band, plan)}"
    if stretch.inhibit == lay.INHIBIT_RETURN_OFF:
        return (
            "Off since the power cut: stays off until the reading has passed the off threshold "
            f"{short(band.off_threshold)} {_unit(band, plan)}."
        )
    return _rest(stretch, band, plan, since)


def _fault(load: Load, plan: Plan, probe_id: str) -> str:
    probe = plan.probe(probe_id)
    name = probe.name if probe else probe_id
    after_s = load.on_sensor_fault.after_s
    lasting = f" for {span(after_s)}" if after_s > 0 else ""
    state = load.on_sensor_fault.state
    return f"{name} has had no valid reading{lasting}: the plan sets {state} then."


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
    there = (
        stretch.value >= band.on_threshold
        if band.direction == "rising"
        else stretch.value <= band.on_threshold
    )
    begun = figure(stretch.value) if there else f"before; {figure(stretch.value)} then"
    mark = f"{short(band.on_threshold)} {_unit(band, plan)}"
    return f"it {side} the on threshold {mark} ({begun}). Off at {short(band.off_threshold)}."


def _rest(stretch: Stretch, band: Band, plan: Plan, since: str) -> str:
    unit = _unit(band, plan)
    reading = f" ({figure(stretch.value)} {unit} then)" if stretch.value == stretch.value else ""
    return f"Off since {since}{reading}. Starts again at {short(band.on_threshold)} {unit}."
