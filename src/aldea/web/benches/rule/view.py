"""The stack of say of one load at the scrubber's instant, and what stands beside it."""

from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import near, span
from aldea.core.base.quantities import unit_of
from aldea.core.devices.finding import Finding
from aldea.core.engine import layout as lay
from aldea.core.engine.layout import PRIORITY_CODES, PRIORITY_NAMES
from aldea.core.plan.document import Load, Plan, Rule, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import probes_of_load, probes_of_rule, working_rules
from aldea.core.rehearse.ahead import HangsOn
from aldea.core.rehearse.foresight import RuleStand, Standing
from aldea.core.rehearse.stretches import Stretch, stretch_at
from aldea.core.words.ahead import ahead_sentence, sooner_sentence
from aldea.core.words.distance import rule_distance
from aldea.core.words.priorities import priority_words
from aldea.core.words.reasons import asked_by, load_words
from aldea.core.words.rules import (
    limit_sentences,
    no_reading_words,
    override_words,
    return_words,
    rule_words,
    want_words,
)
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.window import Window


@dataclass(frozen=True, slots=True, kw_only=True)
class Slab:
    """One slab of the stack: who says what, whether it is heard, how far it is from speaking."""

    key: str
    priority: int
    level: str
    text: str
    name: str
    wants: str
    decides: bool
    active: bool
    disabled: bool
    effect: str
    basis: str
    rule: str
    movable: bool
    under: bool

    @property
    def word(self) -> str:
        """What stands at the right of a slab that does not decide."""
        if self.disabled:
            return "disabled"
        return (
            self.effect
            if not self.active
            else f"requests {self.wants[:1].lower()}{self.wants[1:]}, overruled"
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far the deciding rule has come between its begin and the next change; in percent."""

    share: float
    begun: str
    ends: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleView:
    """The whole bench for one load."""

    load: Load
    facts: str
    state: str
    on: bool
    priority: int
    slabs: tuple[Slab, ...]
    progress: Progress | None
    why: str
    ahead: str
    sooner: str
    chips: tuple[tuple[str, str], ...]
    limits: tuple[str, ...]
    override: str
    back: str
    findings: tuple[tuple[str, Finding], ...]
    drawn: bool


def make_rule_view(
    plan: Plan,
    load: Load,
    *,
    replayed: Replayed | None,
    now: Standing | None,
    window: Window,
    findings: Sequence[Finding],
) -> RuleView:
    """Everything of one load; without readings or working stage the stack stands as it is told."""
    stretches = replayed.stretches(load.id) if replayed else []
    stretch = stretch_at(stretches, window.at_ms) if stretches else None
    slabs = tuple(_slabs(plan, load, now, stretch))
    words = load_words(stretch, load=load, plan=plan) if stretch else None
    ahead = now.ahead.get(load.id) if now else None
    over: list[RuleStand] = []
    if now is not None and stretch is not None:
        over = [
            stand
            for stand in now.rules.get(load.id, ())
            if stand.row.priority <= stretch.priority and not stand.active
        ]
    return RuleView(
        load=load,
        facts=_facts(plan, load),
        state=words.state if words else "not rehearsed yet",
        on=bool(stretch and stretch.state),
        priority=stretch.priority if stretch else lay.PRIORITY_DEFAULT,
        slabs=slabs,
        progress=_progress(plan, stretch, now, load, window),
        why=words.why if words else "",
        ahead=ahead_sentence(plan, load, ahead, now.at_ms, now.quiet_ms.get(load.id, 0))
        if now
        else "",
        sooner=sooner_sentence(plan, load, stretch.state, over) if now and stretch else "",
        chips=tuple(_chips(plan, load, now)),
        limits=tuple(limit_sentences(load)),
        override=override_words(load),
        back=return_words(load),
        findings=tuple((f"R{number}", f) for number, f in enumerate(findings, 1)),
        drawn=stretch is not None,
    )


def _facts(plan: Plan, load: Load) -> str:
    relays = [relay.id.upper() for relay in plan.relays_of(load.id)]
    parts = [f"relay {' + '.join(relays)}" if relays else "no relay yet"]
    if load.power_w:
        kilo = load.power_w >= 1000
        parts.append(f"{short(load.power_w / 1000)} kW" if kilo else f"{short(load.power_w)} W")
    if load.feed:
        parts.append(f"feed {load.feed}")
    return ", ".join(parts)


def _order(plan: Plan, load: Load) -> list[tuple[int, Rule | None, str]]:
    """All rules, highest priority first: priority, rule, the probe of the load's own fault."""
    rules = plan.rules_of(load.id)
    rows: list[tuple[int, Rule | None, str]] = [(PRIORITY_CODES[c.priority], c, "") for c in rules]
    spoken_for = {c.probe for c in working_rules(plan, load.id) if c.priority == "fault"}
    if load.on_sensor_fault.state != "keep":
        rows += [
            (lay.PRIORITY_FAULT, None, probe)
            for probe in probes_of_load(plan, load)
            if probe not in spoken_for
        ]
    rows += [(lay.PRIORITY_OVERRIDE, None, ""), (lay.PRIORITY_DEFAULT, None, "")]
    return sorted(rows, key=lambda row: row[0])


def _slabs(plan: Plan, load: Load, now: Standing | None, stretch: Stretch | None) -> list[Slab]:
    stands = {
        (stand.row.rule, stand.row.priority, "" if stand.row.rule else stand.row.probe or ""): stand
        for stand in (now.rules.get(load.id, ()) if now else ())
    }
    decider = stretch.decided_by if stretch else None
    slabs: list[Slab] = []
    passed = False
    rules = plan.rules_of(load.id)
    for priority, rule, probe in _order(plan, load):
        stand = stands.get((rule.id if rule else None, priority, probe))
        decides = decider is not None and (
            (decider.rule, decider.priority) == (rule.id if rule else None, priority)
            and (rule is not None or not probe or decider.probe == probe)
        )
        if decides and slabs and passed:
            decides = False
        level = [c for c in rules if rule is not None and c.priority == rule.priority]
        slabs.append(
            Slab(
                key=rule.id if rule else probe or PRIORITY_NAMES[priority],
                priority=priority,
                level=priority_words(priority).capitalize(),
                text=_text(plan, load, priority, rule, probe, stretch if decides else None),
                name=rule.name if rule else "",
                wants=_wants(load, priority, rule),
                decides=decides,
                active=_is_active(priority, stand, now, load),
                disabled=rule.disabled if rule else False,
                effect=_distance_words(plan, load, now, rule, stand, priority, probe),
                basis=rule.basis if rule else "entered",
                rule=rule.id if rule else "",
                movable=len(level) > 1,
                under=passed,
            )
        )
        passed = passed or decides
    return slabs


def _is_active(priority: int, stand: RuleStand | None, now: Standing | None, load: Load) -> bool:
    if priority == lay.PRIORITY_DEFAULT:
        return True
    if priority == lay.PRIORITY_OVERRIDE:
        return bool(now and now.hands.get(load.id))
    return stand is not None and (stand.active or stand.tripped)


def _text(
    plan: Plan, load: Load, priority: int, rule: Rule | None, probe: str, stretch: Stretch | None
) -> str:
    if rule is not None:
        return rule_words(plan, rule)
    if priority == lay.PRIORITY_OVERRIDE:
        if stretch is not None and stretch.author:
            return asked_by(stretch.author)
        return "No manual override"
    if priority == lay.PRIORITY_FAULT:
        lost = no_reading_words(reading_name(plan, probe), load.on_sensor_fault.after_s)
        return f"{_wants(load, priority, rule)} when {lost}"
    return _wants(load, priority, rule)


def _wants(load: Load, priority: int, rule: Rule | None) -> str:
    if rule is not None:
        return want_words(rule, load)
    if priority == lay.PRIORITY_FAULT:
        return want_words(Wanted(want="on" if load.on_sensor_fault.state == "on" else "off"), load)
    if priority == lay.PRIORITY_OVERRIDE:
        return "as overridden"
    return want_words(load.default_state, load)


def _distance_words(
    plan: Plan,
    load: Load,
    now: Standing | None,
    rule: Rule | None,
    stand: RuleStand | None,
    priority: int,
    probe: str,
) -> str:
    if now is None:
        return ""
    if rule is not None and stand is not None:
        if stand.tripped:
            return "tripped: a person must reset it"
        return rule_distance(plan, now, rule, stand.node)
    if priority == lay.PRIORITY_OVERRIDE:
        return "override active" if now.hands.get(load.id) else "no override"
    if priority == lay.PRIORITY_FAULT and probe in now.quality:
        ago = (now.at_ms - now.good_ms[probe]) / 1000
        return f"last valid {span(ago)} ago" if 0 <= ago < 10**7 else "never read"
    return ""


def _progress(
    plan: Plan, stretch: Stretch | None, now: Standing | None, load: Load, window: Window
) -> Progress | None:
    ahead = now.ahead.get(load.id) if now else None
    if stretch is None or now is None or ahead is None or ahead.hangs_on is HangsOn.USUAL:
        return None  # between two times there is no one end to go to
    zone = plan.house.time_zone
    whole = ahead.t_ms - stretch.start_ms
    if whole <= 0:
        return None
    left = (ahead.t_ms - now.at_ms) / 1000
    sure = "about " if ahead.hangs_on is HangsOn.HELD else ""
    return Progress(
        share=round(100 * (now.at_ms - stretch.start_ms) / whole, 1),
        begun=near(stretch.start_ms, now.at_ms, zone),
        ends=f"{sure}{near(ahead.t_ms, now.at_ms, zone)}, {span(left)} left",
    )


def _chips(plan: Plan, load: Load, now: Standing | None) -> list[tuple[str, str]]:
    """The readings that its rules look at, as they are at the instant."""
    if now is None:
        return []
    chips: list[tuple[str, str]] = []
    probes = dict.fromkeys(
        probe for rule in working_rules(plan, load.id) for probe in probes_of_rule(plan, rule)
    )
    for probe_id in list(probes)[:4]:
        probe = plan.probe(probe_id)
        if probe is None or probe_id not in now.compiled.probe_ids:
            continue
        row = now.compiled.probe_ids.index(probe_id)
        good = now.quality[probe_id] == lay.GOOD
        value = f"{figure(float(now.values[row]))} {unit_of(probe.quantity)}" if good else "lost"
        chips.append((probe.name, value.strip()))
    return chips
