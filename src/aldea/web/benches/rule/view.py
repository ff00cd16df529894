"""The stack of say of one load at the scrubber's instant, and what stands beside it."""

from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.base.figures import figure, short
from aldea.core.base.instants import near, span
from aldea.core.base.quantities import unit_of
from aldea.core.devices.finding import Finding
from aldea.core.engine import layout as lay
from aldea.core.engine.layout import RANK_CODES, RANK_NAMES
from aldea.core.plan.document import Claim, Load, Plan, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import probes_of_claim, probes_of_load, working_claims
from aldea.core.rehearse.ahead import HangsOn
from aldea.core.rehearse.foresight import ClaimStand, Standing
from aldea.core.rehearse.stretches import Stretch, stretch_at
from aldea.core.words.ahead import ahead_sentence, sooner_sentence
from aldea.core.words.claims import (
    clause_of,
    hand_words,
    limit_sentences,
    return_words,
    want_words,
)
from aldea.core.words.distance import claim_distance
from aldea.core.words.reasons import asked_by, load_words
from aldea.web.shell.replay_cache import Replayed
from aldea.web.shell.window import Window

LEVEL_NAMES = {
    1: "Safety trip",
    2: "Interlock",
    3: "Fault",
    4: "By hand",
    5: "Schedule",
    6: "Demand",
    7: "Idle",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Slab:
    """One slab of the stack: who says what, whether it is heard, how far it is from speaking."""

    key: str
    rank: int
    level: str
    text: str
    name: str
    wants: str
    decides: bool
    heard: bool
    off_for_now: bool
    said: str
    basis: str
    claim: str
    movable: bool
    under: bool

    @property
    def word(self) -> str:
        """What stands at the right of a slab that does not decide."""
        if self.off_for_now:
            return "switched off for now"
        return self.said if not self.heard else f"would want {self.wants}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far the deciding claim has come between its begin and the next change; in percent."""

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
    rank: int
    slabs: tuple[Slab, ...]
    progress: Progress | None
    why: str
    ahead: str
    sooner: str
    chips: tuple[tuple[str, str], ...]
    limits: tuple[str, ...]
    hand: str
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
    timeline = replayed.timeline(load.id) if replayed else []
    stretch = stretch_at(timeline, window.at_ms) if timeline else None
    slabs = tuple(_slabs(plan, load, now, stretch))
    words = load_words(stretch, load=load, plan=plan) if stretch else None
    ahead = now.ahead.get(load.id) if now else None
    over: list[ClaimStand] = []
    if now is not None and stretch is not None:
        over = [
            stand
            for stand in now.claims.get(load.id, ())
            if stand.row.rank <= stretch.rank and not stand.heard
        ]
    return RuleView(
        load=load,
        facts=_facts(plan, load),
        state=words.state if words else "not rehearsed yet",
        on=bool(stretch and stretch.state),
        rank=stretch.rank if stretch else lay.RANK_REST,
        slabs=slabs,
        progress=_progress(plan, stretch, now, load, window),
        why=words.why if words else "",
        ahead=ahead_sentence(plan, load, ahead, now.at_ms, now.quiet_ms.get(load.id, 0))
        if now
        else "",
        sooner=sooner_sentence(plan, load, stretch.state, over) if now and stretch else "",
        chips=tuple(_chips(plan, load, now)),
        limits=tuple(limit_sentences(load)),
        hand=hand_words(load),
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


def _order(plan: Plan, load: Load) -> list[tuple[int, Claim | None, str]]:
    """All that can speak, strongest first: rank, claim, and the probe of the load's own fault."""
    claims = plan.claims_of(load.id)
    rows: list[tuple[int, Claim | None, str]] = [(RANK_CODES[c.rank], c, "") for c in claims]
    spoken_for = {c.probe for c in working_claims(plan, load.id) if c.rank == "fault"}
    if load.silent.state != "keep":
        rows += [
            (lay.RANK_FAULT, None, probe)
            for probe in probes_of_load(plan, load)
            if probe not in spoken_for
        ]
    rows += [(lay.RANK_HAND, None, ""), (lay.RANK_REST, None, "")]
    return sorted(rows, key=lambda row: row[0])


def _slabs(plan: Plan, load: Load, now: Standing | None, stretch: Stretch | None) -> list[Slab]:
    stands = {
        (stand.row.claim, stand.row.rank, "" if stand.row.claim else stand.row.probe or ""): stand
        for stand in (now.claims.get(load.id, ()) if now else ())
    }
    decider = stretch.decided_by if stretch else None
    found: list[Slab] = []
    passed = False
    claims = plan.claims_of(load.id)
    for rank, claim, probe in _order(plan, load):
        stand = stands.get((claim.id if claim else None, rank, probe))
        decides = decider is not None and (
            (decider.claim, decider.rank) == (claim.id if claim else None, rank)
            and (claim is not None or not probe or decider.probe == probe)
        )
        if decides and found and passed:
            decides = False
        level = [c for c in claims if claim is not None and c.rank == claim.rank]
        found.append(
            Slab(
                key=claim.id if claim else probe or RANK_NAMES[rank],
                rank=rank,
                level=LEVEL_NAMES[rank],
                text=_text(plan, load, rank, claim, probe, stretch if decides else None),
                name=claim.name if claim else "",
                wants=_wants(load, rank, claim),
                decides=decides,
                heard=_heard(rank, stand, now, load),
                off_for_now=claim.off_for_now if claim else False,
                said=_said(plan, load, now, claim, stand, rank, probe),
                basis=claim.basis if claim else "stated",
                claim=claim.id if claim else "",
                movable=len(level) > 1,
                under=passed,
            )
        )
        passed = passed or decides
    return found


def _heard(rank: int, stand: ClaimStand | None, now: Standing | None, load: Load) -> bool:
    if rank == lay.RANK_REST:
        return True
    if rank == lay.RANK_HAND:
        return bool(now and now.hands.get(load.id))
    return stand is not None and (stand.heard or stand.tripped)


def _text(
    plan: Plan, load: Load, rank: int, claim: Claim | None, probe: str, stretch: Stretch | None
) -> str:
    if claim is not None:
        joined = "from when" if claim.want == "pulse" else "while"
        return f"{want_words(claim, load)} {joined} {clause_of(plan, claim)}"
    if rank == lay.RANK_HAND:
        if stretch is not None and stretch.author:
            return asked_by(stretch.author)
        return "When a person asks"
    if rank == lay.RANK_FAULT:
        after = f" for {span(load.silent.after_s)}" if load.silent.after_s else ""
        return f"{_wants(load, rank, claim)} while {reading_name(plan, probe)} is lost{after}"
    return f"{_wants(load, rank, claim)} when nobody asks"


def _wants(load: Load, rank: int, claim: Claim | None) -> str:
    if claim is not None:
        return want_words(claim, load)
    if rank == lay.RANK_FAULT:
        return want_words(Wanted(want="on" if load.silent.state == "on" else "off"), load)
    if rank == lay.RANK_HAND:
        return "what was asked"
    return want_words(load.idle, load)


def _said(
    plan: Plan,
    load: Load,
    now: Standing | None,
    claim: Claim | None,
    stand: ClaimStand | None,
    rank: int,
    probe: str,
) -> str:
    if now is None:
        return ""
    if claim is not None and stand is not None:
        if stand.tripped:
            return "tripped, until a person resets it"
        return claim_distance(plan, now, claim, stand.node)
    if rank == lay.RANK_HAND:
        return "somebody asked" if now.hands.get(load.id) else "nobody asked"
    if rank == lay.RANK_FAULT and probe in now.quality:
        ago = (now.at_ms - now.good_ms[probe]) / 1000
        return f"last good {span(ago)} ago" if 0 <= ago < 10**7 else "no reading yet"
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
    """The readings that its claims look at, as they are at the instant."""
    if now is None:
        return []
    found: list[tuple[str, str]] = []
    probes = dict.fromkeys(
        probe for claim in working_claims(plan, load.id) for probe in probes_of_claim(plan, claim)
    )
    for probe_id in list(probes)[:4]:
        probe = plan.probe(probe_id)
        if probe is None or probe_id not in now.compiled.probe_ids:
            continue
        row = now.compiled.probe_ids.index(probe_id)
        good = now.quality[probe_id] == lay.GOOD
        value = f"{figure(float(now.values[row]))} {unit_of(probe.quantity)}" if good else "lost"
        found.append((probe.name, value.strip()))
    return found
