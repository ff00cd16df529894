"""Every rule of a load as one plain sentence: its claims, its hands, its limits, its failsafe."""

from aldea.core.base.figures import short
from aldea.core.base.instants import span
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine.layout import RANK_CODES, RANK_NAMES
from aldea.core.plan.document import Claim, Load, Plan, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import unspoken_probes
from aldea.core.words.conditions import condition_words
from aldea.core.words.hands import ways_of

FAULT_WORDS = {
    "warming": "still warms up",
    "range": "reads out of its range",
    "jump": "jumps",
    "stuck": "is stuck",
    "stale": "is silent",
}
ALL_FAULTS = frozenset(FAULT_WORDS)


def want_words(wanted: Wanted, load: Load | None = None) -> str:
    """What is wanted, as a sentence begins with it: “Off”, “Step 3”, “On for 20 s”."""
    words = {
        "step": f"Step {wanted.level}",
        "pattern": f"Pattern {wanted.level}",
        "percent": f"{short(wanted.percent or 0.0)} %",
        "pulse": f"On for {span(wanted.pulse_s or 0.0)}",
        "open": "Open",
        "shut": "Shut",
    }
    if wanted.want in words:
        return words[wanted.want]
    if load is not None:
        device = load_device(load)
        off, on = device.state_words
        return on if wanted.want == "on" else device.off_word or off
    return wanted.want.capitalize()


def clause_of(plan: Plan, claim: Claim) -> str:
    """What a claim hangs on, as a clause after “while”."""
    if claim.condition is not None:
        return condition_words(plan, claim.condition)
    name = reading_name(plan, claim.probe or "")
    lasting = f" and was last good {span(claim.after_s)} ago" if claim.after_s else ""
    if set(claim.qualities) >= ALL_FAULTS:
        return f"{name} gives no good reading{lasting}"
    faults = " or ".join(FAULT_WORDS.get(quality, quality) for quality in claim.qualities)
    return f"{name} {faults}{lasting}"


def claim_sentence(plan: Plan, claim: Claim) -> str:
    """The whole claim: what it wants, while what, and what ends it where that is not the same."""
    load = plan.load(claim.load)
    joined = "from the moment that" if claim.want == "pulse" else "while"
    text = f"{want_words(claim, load)} {joined} {clause_of(plan, claim)}"
    if claim.rank == "trip":
        text += ", and until a person resets it"
    text += "."
    if claim.off_for_now:
        text = f"Switched off for now: {text[:1].lower()}{text[1:]}"
    return text


def ranked_claims(plan: Plan, load: Load) -> tuple[Claim, ...]:
    """The claims of a load, strongest first, in the order of the plan inside a level."""
    claims = plan.claims_of(load.id)
    return tuple(sorted(claims, key=lambda claim: RANK_CODES[claim.rank]))


def hand_words(load: Load) -> str:
    """How a person's say over the load ends."""
    ends = {
        "time": f"it ends by itself after {span(load.hand.for_s)}",
        "agreement": "it ends when the rules come to want the same",
        "given_back": "it stays until it is given back",
        "position": "of a dial it stays while the dial stands there, else until it is given back",
    }
    return f"By hand: {ends[load.hand.school]}."


def over_a_hand(plan: Plan, load: Load) -> tuple[str, ...]:
    """The claims that no hand gets past: trips, interlocks and faults, binding hours among them."""
    return tuple(
        claim_sentence(plan, claim)
        for claim in ranked_claims(plan, load)
        if RANK_CODES[claim.rank] < RANK_CODES["hand"] and not claim.off_for_now
    )


def idle_words(load: Load) -> str:
    """What holds where nobody asks."""
    return f"{want_words(load.idle, load)} when nobody asks."


def limit_sentences(load: Load) -> list[str]:
    """What delays or ends its running, each as a sentence."""
    found = []
    if load.min_on_s:
        found.append(f"Once on it stays on for at least {span(load.min_on_s)}.")
    if load.min_off_s:
        found.append(f"Once off it stays off for at least {span(load.min_off_s)}.")
    if load.max_on_s is not None:
        rest = f", and then is idle for {span(load.max_on_rest_s)}" if load.max_on_rest_s else ""
        found.append(
            f"It runs {span(load.max_on_s)} at the longest{rest}; "
            "then it waits until what asked has let go."
        )
    if load.starts_per_hour is not None:
        times = "once" if load.starts_per_hour == 1 else f"{load.starts_per_hour} times"
        found.append(f"It begins at most {times} an hour.")
    return found


def silent_sentences(plan: Plan, load: Load) -> list[str]:
    """What it does when a probe that it follows gives no good reading."""
    probes = unspoken_probes(plan, load)
    if not probes or load.silent.state == "keep":
        return []
    state = want_words(Wanted(want="on" if load.silent.state == "on" else "off"), load)
    after = f" for {span(load.silent.after_s)}" if load.silent.after_s else ""
    if load.silent.each == "rule" and len(probes) > 1:
        names = ", ".join(reading_name(plan, probe) for probe in probes)
        return [
            f"When one of {names} has no valid reading{after}, only the rules on it stop.",
            f"{state} while none of {names} has a valid reading{after}.",
        ]
    names = " or ".join(reading_name(plan, probe) for probe in probes)
    return [f"{state} while {names} gives no good reading{after}."]


def return_words(load: Load) -> str:
    """What it does after a power cut."""
    delay = (
        f" no sooner than {span(load.power_return.delay_s)} after it"
        if (load.power_return.delay_s)
        else ""
    )
    words = {
        "off": "After a power cut it waits until each rule that asked has let go once",
        "decide": "After a power cut it follows its rules again",
        "last": "After a power cut it is again as it was before",
    }
    why = f" ({load.power_return.reason})" if load.power_return.reason else ""
    return f"{words[load.power_return.policy]}{',' if delay else ''}{delay}{why}."


def load_sentences(plan: Plan, load: Load) -> list[tuple[str, str]]:
    """Every rule of a load with the level that it speaks at, strongest first."""
    rows: list[tuple[str, str]] = [
        (claim.rank, claim_sentence(plan, claim)) for claim in ranked_claims(plan, load)
    ]
    rows += [("fault", text) for text in silent_sentences(plan, load)]
    rows += [("hand", text) for text in ways_of(plan, load)]
    rows.append(("hand", hand_words(load)))
    rows.sort(key=lambda row: RANK_CODES[row[0]])
    rows.append((RANK_NAMES[RANK_CODES["idle"]], idle_words(load)))
    rows += [("limits", text) for text in limit_sentences(load)]
    rows.append(("return", return_words(load)))
    return rows
