"""Checks of what ends a load: no fallback, no off, no maximum on time, a return that is unsafe."""

from collections.abc import Iterator

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.base.listing import listed
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.loads.classes import LOAD_CLASSES, must_rest
from aldea.core.plan.conditions import Always, Dark
from aldea.core.plan.document import Load, OnSensorFault, Plan, Rule, Wanted
from aldea.core.plan.reading import expanded, probes_of_load, working_rules
from aldea.core.rules.network import probes_away

USUAL_MOST_S = {"heat": 10_800.0, "water": 43_200.0, "motion": 14_400.0}
USUAL_SILENCE_S = 900.0


def _working(plan: Plan) -> Iterator[Load]:
    return (load for load in plan.loads if load.stage == "working" and plan.rules_of(load.id))


def no_fallback(plan: Plan) -> Iterator[Finding]:
    """A load that follows a probe and says nothing of its silence."""
    for load in _working(plan):
        spoken_for = {c.probe for c in working_rules(plan, load.id) if c.priority == "fault"}
        lost = [p for p in probes_of_load(plan, load) if p not in spoken_for]
        if load.on_sensor_fault.state != "keep" or not lost:
            continue
        names = listed([probe.name for p in lost if (probe := plan.probe(p)) is not None])
        gone = OnSensorFault(after_s=USUAL_SILENCE_S, state="off")
        yield Finding(
            key=f"fallback-{load.id}",
            weight="severe" if must_rest(load.load_class) else "warning",
            head=f"{load.name} follows {names} and has no failsafe state.",
            why="Without a valid reading no rule requests anything, and none states that this "
            "is meant.",
            fix=f"Off after {span(USUAL_SILENCE_S)} without a reading.",
            at=f"load:{load.id}",
            field="on_sensor_fault.state",
            press=f"Turn off after {span(USUAL_SILENCE_S)}",
            apply=put_changed("load", load.model_copy(update={"on_sensor_fault": gone})),
        )


def no_end(plan: Plan) -> Iterator[Finding]:
    """A load that is asked to be on always, or is on by default, with nothing to end it."""
    for load in _working(plan):
        rules = working_rules(plan, load.id)
        offs = [c for c in rules if c.want in ("off", "shut")]
        always = next((c for c in rules if _asks_always(c)), None)
        if (always is None and load.default_state.want in ("off", "shut")) or offs or load.max_on_s:
            continue
        yield Finding(
            key=f"no-end-{load.id}",
            weight="warning",
            head=f"{load.name} turns on and never off.",
            why="A rule always requests it, and no rule or limit ever ends it."
            if always
            else f"It is {load.default_state.want} by default, and no rule ever ends it.",
            fix="Add what ends it, or a maximum on time.",
            at=f"load:{load.id}",
            field="max_on_s",
        )


def _asks_always(rule: Rule) -> bool:
    return isinstance(rule.condition, Always) and rule.want not in ("off", "shut", "pulse")


def no_longest_run(plan: Plan) -> Iterator[Finding]:
    """Heat, water or motion without a maximum on time."""
    for load in _working(plan):
        if load.load_class not in USUAL_MOST_S or load.max_on_s is not None:
            continue
        if load.default_state.want not in ("off", "shut"):
            continue  # it is meant to run: a maximum on time would stop what it is for
        most_s = USUAL_MOST_S[load.load_class]
        yield Finding(
            key=f"longest-{load.id}",
            weight="warning",
            head=f"{load.name} has no maximum on time.",
            why=f"Of class {load.load_class}: {LOAD_CLASSES[load.load_class].follows}",
            fix=f"Set a maximum on time; {span(most_s)} is usual.",
            at=f"load:{load.id}",
            field="max_on_s",
            press=f"Set maximum on time {span(most_s)}",
            apply=put_changed("load", load.model_copy(update={"max_on_s": most_s})),
        )


def _by_hand(plan: Plan, load: Load) -> bool:
    """Whether some control is for a load, or wants something of it or of a group with it."""
    groups = {group.id for group in plan.groups if load.id in group.members}
    return any(
        control.load == load.id
        or any(want.load == load.id or want.group in groups for want in control.wants)
        for control in plan.controls
    )


def never_opened(plan: Plan) -> Iterator[Finding]:
    """A valve whose default state is shut, and that no rule and no control opens."""
    for load in _working(plan):
        if load.kind != "valve" or load.default_state.want not in ("off", "shut"):
            continue
        opens = [c for c in working_rules(plan, load.id) if c.want not in ("off", "shut")]
        if opens or _by_hand(plan, load):
            continue
        rests = load.model_copy(update={"default_state": Wanted(want="open"), "max_on_s": None})
        yield Finding(
            key=f"shut-{load.id}",
            weight="warning",
            head=f"No rule ever opens {load.name}.",
            why="Its default state is shut; no rule opens it and no control reaches it.",
            fix="Make open its default state, or add a rule that opens it.",
            at=f"load:{load.id}",
            field="default_state.want",
            press="Set default state: open",
            apply=put_changed("load", rests),
        )


def unsafe_return(plan: Plan) -> Iterator[Finding]:
    """Heat, water or motion that comes back as it was, without a written reason."""
    for load in _working(plan):
        back = load.power_return
        if not must_rest(load.load_class) or back.policy != "last" or back.reason:
            continue
        fixed = back.model_copy(update={"policy": "off"})
        yield Finding(
            key=f"return-{load.id}",
            weight="severe",
            head=f"{load.name} returns to its last state after a power cut.",
            why=f"Of class {load.load_class}: {LOAD_CLASSES[load.load_class].follows}",
            fix="Set a minimum off time, or enter the reason it needs none.",
            at=f"load:{load.id}",
            field="power_return.policy",
            press="Stay off until requested",
            apply=put_changed("load", load.model_copy(update={"power_return": fixed})),
        )


def lights_itself(plan: Plan) -> Iterator[Finding]:
    """A lamp that lights its own sensor by more than the gap of its rule."""
    for load in _working(plan):
        for rule in working_rules(plan, load.id):
            if rule.condition is None or rule.want in ("off", "shut"):
                continue
            for part in expanded(plan, rule.condition):
                probe = plan.probe(part.probe) if isinstance(part, Dark) else None
                own = getattr(probe.sensor, "own_lamp_lux", 0.0) if probe else 0.0
                if probe is None or part.lamp is not None or own < part.hysteresis or not own:
                    continue
                yield Finding(
                    key=f"lights-{rule.id}",
                    weight="warning",
                    head=f"{load.name} would put itself out.",
                    why=f"It adds {short(own)} lx to {probe.name}, and the gap is "
                    f"{short(part.hysteresis)} lx.",
                    fix="Subtract the lamp’s own share, or widen the gap.",
                    at=f"rule:{rule.id}",
                    field="condition.value",
                )


def over_the_network(plan: Plan) -> Iterator[Finding]:
    """A rule that reads a probe of another board: without the network it knows nothing."""
    for load in _working(plan):
        away = probes_away(plan, load)
        if away:
            names = listed([probe.name for probe in away])
            yield Finding(
                key=f"network-{load.id}",
                weight="open",
                head=f"{load.name} reads {names} over the network.",
                why="They are wired to another board than its relay. When the network fails, "
                "their readings are missing.",
                fix="Set the failsafe state at Failsafe, or wire the probe to the same board.",
                at=f"load:{load.id}",
                field="rules",
            )


END_CHECKS: tuple[Check, ...] = (
    no_fallback,
    no_end,
    no_longest_run,
    never_opened,
    unsafe_return,
    lights_itself,
    over_the_network,
)
