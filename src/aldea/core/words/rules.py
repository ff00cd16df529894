"""Every rule of a load as one sentence: its rules, overrides, limits, what a power cut does."""

from aldea.core.base.figures import short
from aldea.core.base.instants import duration
from aldea.core.devices.loads.registry import load_device
from aldea.core.engine.layout import PRIORITY_CODES
from aldea.core.plan.conditions import Always, Edge, InWindow, Sun, Unless
from aldea.core.plan.document import Load, Plan, Rule, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import lost_together, unspoken_probes
from aldea.core.words.clauses import QUALITY_WORDS, window_words
from aldea.core.words.conditions import becoming, condition_words
from aldea.core.words.override_ways import ways_of
from aldea.core.words.power_cut import return_clause

ALL_FAULTS = frozenset({"warming", "range", "jump", "stuck", "stale"})


def want_words(wanted: Wanted, load: Load | None = None) -> str:
    """What is wanted, as a sentence begins with it: “Off”, “Step 3”, “On for 20 s”."""
    words = {
        "step": f"Step {wanted.level}",
        "pattern": f"Pattern {wanted.level}",
        "percent": f"{short(wanted.percent or 0.0)} %",
        "pulse": f"On for {duration(wanted.pulse_s or 0.0)}",
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


def clause_of(plan: Plan, rule: Rule) -> str:
    """When a rule is active, as a clause after “when”."""
    if rule.condition is not None:
        return condition_words(plan, rule.condition)
    name = reading_name(plan, rule.probe or "")
    if set(rule.qualities) >= ALL_FAULTS:
        return no_reading_words(name, rule.after_s)
    faults = " or ".join(QUALITY_WORDS[quality] for quality in rule.qualities)
    if rule.after_s:
        return f"{name} has been {faults} for {duration(rule.after_s)}"
    return f"{name} is {faults}"


def no_reading_words(name: str, after_s: float) -> str:
    """“Box air has had no valid reading for 15 min”."""
    if after_s:
        return f"{name} has had no valid reading for {duration(after_s)}"
    return f"{name} has no valid reading"


def rule_words(plan: Plan, rule: Rule) -> str:
    """What a rule requests and when, without a full stop: “Step 1 when …”, “Kept off while …”."""
    load = plan.load(rule.load)
    want, condition = want_words(rule, load), rule.condition
    if rule.want == "pulse" and condition is not None:
        return f"{want} {becoming(plan, condition)}"
    if rule.priority == "interlock":
        at = "at " if rule.want in ("step", "percent") else ""
        return f"Kept {at}{want[:1].lower()}{want[1:]} while {clause_of(plan, rule)}"
    return f"{want} {_when(plan, rule)}"


def _when(plan: Plan, rule: Rule) -> str:
    """When a rule is active, with the word that such a condition follows."""
    condition = rule.condition
    if isinstance(condition, InWindow):
        return f"during {window_words(plan, condition)}"
    if isinstance(condition, Unless) and isinstance(condition.of, InWindow):
        return f"outside {window_words(plan, condition.of)}"
    if isinstance(condition, Sun):
        return clause_of(plan, rule).removeprefix("the time is ")
    if isinstance(condition, Edge):
        return clause_of(plan, rule)
    return "always" if isinstance(condition, Always) else f"when {clause_of(plan, rule)}"


def rule_sentence(plan: Plan, rule: Rule) -> str:
    """The whole rule: what it requests, when, and what ends a trip; lists in lines of their own."""
    text = f"{rule_words(plan, rule)}."
    if rule.priority == "trip":
        text += " Latched: a person must reset it."
    return f"Disabled (not evaluated): {text}" if rule.disabled else text


def ranked_rules(plan: Plan, load: Load) -> tuple[Rule, ...]:
    """The rules of a load, highest priority first, in the order of the plan inside one."""
    rules = plan.rules_of(load.id)
    return tuple(sorted(rules, key=lambda rule: PRIORITY_CODES[rule.priority]))


def override_words(load: Load) -> str:
    """How a manual override of the load ends."""
    ends = {
        "time": f"after {duration(load.override.for_s)}",
        "agreement": "when the rules next request the same state",
        "automatic": "when it is returned to automatic",
        "position": "when the selector leaves its position; else when it is returned to automatic",
    }
    return f"A manual override ends {ends[load.override.ends_by]}."


def over_an_override(plan: Plan, load: Load) -> tuple[str, ...]:
    """The rules that take precedence over an override, enforced quiet hours among them."""
    return tuple(
        rule_sentence(plan, rule)
        for rule in ranked_rules(plan, load)
        if PRIORITY_CODES[rule.priority] < PRIORITY_CODES["override"] and not rule.disabled
    )


def default_state_words(load: Load) -> str:
    """The state while no rule requests one."""
    return f"{want_words(load.default_state, load)}."


def limit_sentences(load: Load) -> list[str]:
    """What delays or ends its running, each as a sentence."""
    off, on = (word.lower() for word in load_device(load).state_words)
    sentences = []
    if load.min_on_s:
        sentences.append(
            f"Stays {on} at least {duration(load.min_on_s)}, except on a trip, interlock or "
            "sensor fault."
        )
    if load.min_off_s:
        sentences.append(f"Stays {off} at least {duration(load.min_off_s)}, without exception.")
    if load.max_on_s is not None:
        rest = (
            f", then {off} for at least {duration(load.max_on_rest_s)}"
            if load.max_on_rest_s
            else ""
        )
        sentences.append(
            f"{on.capitalize()} for at most {duration(load.max_on_s)}{rest}; restart inhibited "
            f"until every rule that requested {on} has been inactive."
        )
    if load.starts_per_hour is not None:
        starts = "start" if load.starts_per_hour == 1 else "starts"
        sentences.append(f"At most {load.starts_per_hour} {starts} per hour.")
    return sentences


def sensor_fault_sentences(plan: Plan, load: Load) -> list[str]:
    """What the load does when a probe that it follows has no valid reading."""
    probes = unspoken_probes(plan, load)
    if not probes or load.on_sensor_fault.state == "keep":
        return []
    state = want_words(Wanted(want="on" if load.on_sensor_fault.state == "on" else "off"), load)
    after_s = load.on_sensor_fault.after_s
    after = f" for {duration(after_s)}" if after_s else ""
    if together := lost_together(plan, load):
        names = ", ".join(reading_name(plan, probe) for probe in probes)
        whose = f"one of {names}" if len(probes) > 1 else names
        every = ", ".join(reading_name(plan, probe) for probe in together)
        return [
            f"When {whose} has no valid reading{after}, only the rules on it become inactive.",
            f"{state} when none of {every} has a valid reading{after}.",
        ]
    return [
        f"{state} when {no_reading_words(reading_name(plan, probe), after_s)}." for probe in probes
    ]


def return_words(load: Load) -> str:
    """What the load does after a power cut."""
    why = f" ({load.power_return.reason})" if load.power_return.reason else ""
    return f"After a power cut it {return_clause(load)}{why}."


def load_sentences(plan: Plan, load: Load) -> list[tuple[str, str]]:
    """Every rule of a load with its priority, highest first; then limits and power cuts."""
    rows: list[tuple[str, str]] = [
        (rule.priority, rule_sentence(plan, rule)) for rule in ranked_rules(plan, load)
    ]
    rows += [("fault", text) for text in sensor_fault_sentences(plan, load)]
    rows += [("override", text) for text in ways_of(plan, load)]
    rows.append(("override", override_words(load)))
    rows.sort(key=lambda row: PRIORITY_CODES[row[0]])
    rows.append(("default_state", default_state_words(load)))
    rows += [("limits", text) for text in limit_sentences(load)]
    rows.append(("return", return_words(load)))
    return rows
