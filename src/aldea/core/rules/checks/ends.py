"""Checks of what ends a load: no fallback, no off, no longest run, a return that is unsafe."""

from collections.abc import Iterator

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.loads.classes import LOAD_CLASSES, must_rest
from aldea.core.plan.conditions import Always, Dark
from aldea.core.plan.document import Claim, Load, Plan, Silent, Wanted
from aldea.core.plan.reading import expanded, probes_of_load, working_claims
from aldea.core.rules.network import probes_away

USUAL_MOST_S = {"heat": 10_800.0, "water": 43_200.0, "motion": 14_400.0}
USUAL_SILENCE_S = 900.0


def _working(plan: Plan) -> Iterator[Load]:
    return (load for load in plan.loads if load.stage == "working" and plan.claims_of(load.id))


def no_fallback(plan: Plan) -> Iterator[Finding]:
    """A load that follows a probe and says nothing of its silence."""
    for load in _working(plan):
        spoken_for = {c.probe for c in working_claims(plan, load.id) if c.rank == "fault"}
        lost = [p for p in probes_of_load(plan, load) if p not in spoken_for]
        if load.silent.state != "keep" or not lost:
            continue
        names = " and ".join(probe.name for p in lost if (probe := plan.probe(p)) is not None)
        silent = Silent(after_s=USUAL_SILENCE_S, state="off")
        yield Finding(
            key=f"fallback-{load.id}",
            weight="severe" if must_rest(load.load_class) else "warning",
            head=f"{load.name} follows {names} and has no fallback.",
            why="When it falls silent nobody asks, and no rule says that this is meant.",
            mend=f"Off after {span(USUAL_SILENCE_S)} of silence.",
            at=f"load:{load.id}",
            field="silent.state",
            press=f"Off after {span(USUAL_SILENCE_S)}",
            apply=put_changed("load", load.model_copy(update={"silent": silent})),
        )


def no_end(plan: Plan) -> Iterator[Finding]:
    """A load that is asked to be on always, or is on when nobody asks, with nothing to end it."""
    for load in _working(plan):
        claims = working_claims(plan, load.id)
        offs = [c for c in claims if c.want in ("off", "shut")]
        always = next((c for c in claims if _asks_always(c)), None)
        if (always is None and load.idle.want in ("off", "shut")) or offs or load.max_on_s:
            continue
        yield Finding(
            key=f"no-end-{load.id}",
            weight="warning",
            head=f"{load.name} has an on and no off.",
            why="It is asked for always, and no claim or limit ever ends it."
            if always
            else f"It is {load.idle.want} when nobody asks, and no claim ever ends it.",
            mend="Add what ends it, or a longest run.",
            at=f"load:{load.id}",
            field="max_on_s",
        )


def _asks_always(claim: Claim) -> bool:
    return isinstance(claim.condition, Always) and claim.want not in ("off", "shut", "pulse")


def no_longest_run(plan: Plan) -> Iterator[Finding]:
    """Heat, water or motion without a longest run."""
    for load in _working(plan):
        if load.load_class not in USUAL_MOST_S or load.max_on_s is not None:
            continue
        if load.idle.want not in ("off", "shut"):
            continue  # it is meant to run: a longest run would stop what it is for
        most_s = USUAL_MOST_S[load.load_class]
        yield Finding(
            key=f"longest-{load.id}",
            weight="warning",
            head=f"{load.name} has no longest run.",
            why=f"Of class {load.load_class}: {LOAD_CLASSES[load.load_class].follows}",
            mend=f"Say how long it may run at most; {span(most_s)} is usual.",
            at=f"load:{load.id}",
            field="max_on_s",
            press=f"At most {span(most_s)}",
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
        if load.kind != "valve" or load.idle.want not in ("off", "shut"):
            continue
        opens = [c for c in working_claims(plan, load.id) if c.want not in ("off", "shut")]
        if opens or _by_hand(plan, load):
            continue
        rests = load.model_copy(update={"idle": Wanted(want="open"), "max_on_s": None})
        yield Finding(
            key=f"shut-{load.id}",
            weight="warning",
            head=f"Nothing ever opens {load.name}.",
            why="Its default state is shut; no rule opens it and no control reaches it.",
            mend="Make open its default state, or add a rule that opens it.",
            at=f"load:{load.id}",
            field="idle.want",
            press="Default state: open",
            apply=put_changed("load", rests),
        )


def unsafe_return(plan: Plan) -> Iterator[Finding]:
    """Heat, water or motion that comes back as it was, without a written reason."""
    for load in _working(plan):
        back = load.power_return
        if not must_rest(load.load_class) or back.policy != "last" or back.reason:
            continue
        mended = back.model_copy(update={"policy": "off"})
        yield Finding(
            key=f"return-{load.id}",
            weight="severe",
            head=f"{load.name} comes back as it was after a power cut.",
            why=f"Of class {load.load_class}: {LOAD_CLASSES[load.load_class].follows}",
            mend="Let it wait, or write why it may.",
            at=f"load:{load.id}",
            field="power_return.policy",
            press="Let it wait",
            apply=put_changed("load", load.model_copy(update={"power_return": mended})),
        )


def lights_itself(plan: Plan) -> Iterator[Finding]:
    """A lamp that lights its own sensor by more than the gap of its rule."""
    for load in _working(plan):
        for claim in working_claims(plan, load.id):
            if claim.condition is None or claim.want in ("off", "shut"):
                continue
            for part in expanded(plan, claim.condition):
                probe = plan.probe(part.probe) if isinstance(part, Dark) else None
                own = getattr(probe.sensor, "own_lamp_lux", 0.0) if probe else 0.0
                if probe is None or part.lamp is not None or own < part.gap or not own:
                    continue
                yield Finding(
                    key=f"lights-{claim.id}",
                    weight="warning",
                    head=f"{load.name} would put itself out.",
                    why=f"It adds {short(own)} lx to {probe.name}, and the gap is "
                    f"{short(part.gap)} lx.",
                    mend="Subtract the lamp’s own share, or widen the gap.",
                    at=f"claim:{claim.id}",
                    field="condition.value",
                )


def over_the_network(plan: Plan) -> Iterator[Finding]:
    """A claim that reads a probe of another board: without the network it knows nothing."""
    for load in _working(plan):
        away = probes_away(plan, load)
        if away:
            names = " and ".join(probe.name for probe in away)
            yield Finding(
                key=f"network-{load.id}",
                weight="open",
                head=f"{load.name} reads {names} over the network.",
                why="They hang on another board than its relay: when the network goes, their "
                "readings fall silent.",
                mend="Say at Failsafe what holds then, or bring the probe to the same board.",
                at=f"load:{load.id}",
                field="claims",
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
