"""The form of the Tune bench: its words, its reading, and which field a refusal belongs to."""

import math
from dataclasses import dataclass

from aldea.core.base.errors import NotFoundError, PlanError
from aldea.core.base.figures import as_typed
from aldea.core.base.instants import MS_PER_DAY, MS_PER_MINUTE, local
from aldea.core.plan.check import plan_problems
from aldea.core.plan.document import Load, OnSensorFault, Plan, PowerReturn, Rule
from aldea.core.plan.tuning import Tuning, tuned
from aldea.core.rehearse.faults import Faults
from aldea.web.shell.forms import Fields
from aldea.web.shell.window import Window

LONGEST_FAULT_MIN = 2880
LABELS = {
    "on": "On threshold",
    "off": "Off threshold",
    "min_on_min": "Shortest on",
    "min_off_min": "Shortest off",
    "fault_min": "No valid reading for",
    "fault_state": "Then",
    "return_policy": "After a power cut",
    "return_delay_s": "Wait after a power cut",
    "return_reason": "Reason it is safe",
    "silence_at": "No reading from",
    "silence_min": "No valid reading for",
    "cut_at": "Power cut from",
    "cut_min": "Power cut for",
    "over": "Figures of",
}
OVER = (
    ("31", "31 days of the record"),
    ("7", "its last 7 days"),
    ("1", "its last day"),
    ("window", "the window shown"),
)
AFTER_CUT = (("follow_rules", "follow the rules"), ("off", "stay off"), ("last", "last state"))
FAULT_STATES = (("off", "then off"), ("on", "then on"), ("keep", "no rule of its own"))
FAULT_FIELDS = (("silence", "No reading", "Silent"), ("cut", "Power cut", "Cut"))
FIELD_OF_PATH = {
    "on": "on",
    "off": "off",
    "reason": "return_reason",
    "state": "fault_state",
    "min_on_s": "min_on_min",
    "min_off_s": "min_off_min",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A form of the bench, read: the plan that it makes, faults to put in, the figures' span."""

    plan: Plan
    tuning: Tuning
    faults: Faults
    over: str = "31"

    def span_of(self, end_ms: int, window: Window) -> tuple[int, int]:
        """From when to when figures are counted, of a record that ends at an instant."""
        if self.over == "window":
            return window.start_ms, window.end_ms
        return end_ms - int(self.over) * MS_PER_DAY, end_ms


def subject_of(plan: Plan, load_id: str, rule_id: str = "") -> tuple[Load, Rule]:
    """The load that the bench is about, and the rule whose band is tuned: its first if unsaid."""
    load = plan.load(load_id)
    rules = plan.bands_of(load_id)
    if load is None or load.stage != "working" or not rules:
        raise NotFoundError(
            "load", got=repr(load_id), allowed="a working load with a band of its own"
        )
    return load, next((rule for rule in rules if rule.id == rule_id), rules[0])


def words_of(tuning: Tuning) -> dict[str, str]:
    """A tuning as it stands in its fields."""
    return {
        "on": as_typed(tuning.on),
        "off": as_typed(tuning.off),
        "min_on_min": as_typed(round(tuning.min_on_s / 60, 4)),
        "min_off_min": as_typed(round(tuning.min_off_s / 60, 4)),
        "fault_min": as_typed(round(tuning.on_sensor_fault.after_s / 60, 4)),
        "fault_state": tuning.on_sensor_fault.state,
        "return_policy": tuning.power_return.policy,
        "return_delay_s": as_typed(tuning.power_return.delay_s),
        "return_reason": tuning.power_return.reason,
    }


def fault_words(window: Window, zone: str) -> dict[str, str]:
    """Where the two trial faults stand until somebody moves them: inside the window."""
    length = window.end_ms - window.start_ms
    silence = local(window.start_ms + round(length * 0.3), zone)
    cut = local(window.start_ms + round(length * 0.62), zone)
    return {
        "silence_on": "",
        "silence_at": f"{silence:%Y-%m-%dT%H:%M}",
        "silence_min": "90",
        "cut_on": "",
        "cut_at": f"{cut:%Y-%m-%dT%H:%M}",
        "cut_min": "20",
    }


def read_tuning(fields: Fields, plan: Plan, load: Load, rule: Rule) -> Asked:
    """The form, or `InputError` with every wrong field named in `fields.errors`."""
    probe = plan.probe(rule.band.probe)
    if probe is None:
        raise NotFoundError("probe", got=rule.band.probe, allowed="a probe of the plan")
    low, high = probe.range.low, probe.range.high
    on = fields.number("on", low=low, high=high)
    off = fields.number("off", low=low, high=high)
    min_on = fields.number("min_on_min", low=0, high=1440, unit="min")
    min_off = fields.number("min_off_min", low=0, high=1440, unit="min")
    fault_min = fields.number("fault_min", low=0, high=1440, unit="min")
    fault_state = fields.choice("fault_state", ("off", "on", "keep"))
    policy = fields.choice("return_policy", ("off", "follow_rules", "last"))
    delay = fields.number("return_delay_s", low=0, high=86_400, unit="s")
    reason = fields.text("return_reason")
    faults = _faults(fields, plan, rule)
    over = fields.choice("over", dict(OVER)) if "over" in fields.sent else "31"
    fields.check()
    tuning = Tuning(
        on=on,
        off=off,
        min_on_s=round(min_on * 60, 3),
        min_off_s=round(min_off * 60, 3),
        on_sensor_fault=OnSensorFault(
            after_s=round(fault_min * 60, 3),
            state=fault_state,  # type: ignore[arg-type]
            each=load.on_sensor_fault.each,
        ),
        power_return=PowerReturn(policy=policy, delay_s=delay, reason=reason),  # type: ignore[arg-type]
    )
    asked_tuning = tuned(plan, rule, tuning)
    for problem in plan_problems(asked_tuning):
        fields.refuse_error(_field_of(problem), problem)
    fields.check()
    return Asked(plan=asked_tuning, tuning=tuning, faults=faults, over=over)


def _field_of(problem: PlanError) -> str:
    return FIELD_OF_PATH.get(problem.where.rsplit("/", 1)[-1], "on")


def _faults(fields: Fields, plan: Plan, rule: Rule) -> Faults:
    zone = plan.house.time_zone
    spans: dict[str, tuple[int, int]] = {}
    for name in ("silence", "cut"):
        if not fields.sent.get(f"{name}_on"):
            continue
        start = fields.moment_ms(f"{name}_at", zone)
        minutes = fields.number(f"{name}_min", low=0.1, high=LONGEST_FAULT_MIN, unit="min")
        if start is not None and math.isfinite(minutes):
            spans[name] = (start, start + round(minutes * MS_PER_MINUTE))
    silences = ((rule.band.probe, *spans["silence"]),) if "silence" in spans else ()
    return Faults(silences=silences, cuts=(spans["cut"],) if "cut" in spans else ())
