"""The form of a rule: who asks, for what, while what; read into a rule, written from one."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, cast, get_args

from pydantic import ValidationError

from aldea.core.base.errors import InputError
from aldea.core.base.unfit import unfit
from aldea.core.engine.layout import PRIORITY_CODES
from aldea.core.plan.document import Load, Plan, Rule, RulePriority, Wanted
from aldea.core.plan.reading import probes_of_load
from aldea.core.plan.rule_edits import fresh_rule_id
from aldea.core.plan.rule_parts import taken_apart
from aldea.core.plan.without_reading import usual_result
from aldea.web.benches.rule.condition_form import (
    condition_fields,
    first_reading,
    offered_kinds,
)
from aldea.web.benches.rule.earth import earth_fields
from aldea.web.benches.rule.parts_form import (
    RowForm,
    read_parts,
    row_forms,
    seconds_field,
    seconds_of,
    waits_of,
)
from aldea.web.shell.form_fields import Field, Options, choice, text
from aldea.web.shell.forms import Fields

Want = Literal["off", "on", "open", "shut", "step", "pattern", "percent", "pulse"]
PRIORITIES: Options = (
    ("trip", "trip: until a person resets it"),
    ("interlock", "interlock: while its condition is true"),
    ("fault", "sensor fault: while a probe has no valid reading"),
    ("schedule", "schedule"),
    ("demand", "demand"),
)
BASES: Options = (
    ("entered", "entered"),
    ("estimated", "estimated, until confirmed"),
    ("trial", "trial value"),
)
QUALITY_SETS: Options = (
    ("warming range jump stuck stale", "has no valid reading"),
    ("stale", "is silent"),
    ("stuck", "is stuck"),
    ("range", "is out of its range"),
    ("range jump stuck stale", "gives none, warm-up aside"),
)
WANTS: dict[str, Options] = {
    "valve": (("open", "open"), ("shut", "shut")),
    "pulse_drive": (("open", "open"), ("shut", "shut")),
}
ON_OFF: Options = (("on", "on"), ("off", "off"), ("pulse", "on for a time"))


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleForm:
    """Everything the form of a rule shows; `deep` where its condition only stands in words."""

    who: tuple[Field, ...]
    kind: Field | None
    condition: tuple[Field, ...]
    waits: tuple[Field, ...]
    rows: tuple[RowForm, ...]
    notes: tuple[Field, ...]
    deep: bool
    by_probe: bool
    count: int

    @property
    def values(self) -> dict[str, str]:
        """Every field's own value, by its name."""
        all_fields = [*self.who, *self.condition, *self.waits, *self.notes]
        if self.kind is not None:
            all_fields.append(self.kind)
        for row in self.rows:
            all_fields += [row.join, row.sense, row.kind, *row.fields]
        return {field.name: field.value for field in all_fields}


def wants_of(load: Load) -> Options:
    """What may be wanted of a load of its kind."""
    if load.kind in WANTS:
        return WANTS[load.kind]
    if load.stepped is not None:
        steps = tuple(
            (f"step:{i}", f"step {step.name}") for i, step in enumerate(load.stepped.steps, 1)
        )
        return (("off", "off"), *steps, ("on", "on, its lowest step"))
    if load.pattern is not None:
        count = 1 + len(getattr(load.pattern, "others", ()))
        patterns = tuple((f"pattern:{i}", f"pattern {i}") for i in range(1, count + 1))
        return (("off", "off"), ("on", "on"), *patterns)
    return ON_OFF


def want_key(wanted: Wanted) -> str:
    """The choice of a form that stands for what is wanted of a load."""
    return f"{wanted.want}:{wanted.level}" if wanted.level is not None else wanted.want


def new_rule(load: Load, kind: str, wanted_kind: str = "") -> Rule:
    """A rule to begin with, whose marks are still to be typed; of the level asked for, if any."""
    priority: RulePriority = "schedule" if kind in ("window", "sun") else "demand"
    if kind == "tape":
        priority = "trip"
    if kind in ("load", "gas"):
        priority = "interlock"
    if kind in ("probe", "quality"):
        priority = "fault"
    if wanted_kind in dict(PRIORITIES):
        priority = cast(RulePriority, wanted_kind)
    wants = [key for key, _ in wants_of(load)]
    off = "shut" if "shut" in wants else "off"
    want = off if priority in ("trip", "interlock", "fault") else wants[0]
    if want == "off" and priority in ("schedule", "demand"):
        want = wants[1]
    name, _, level = want.partition(":")
    return Rule.model_construct(
        id="", load=load.id, name="", priority=priority, want=cast(Want, name),
        level=int(level) if level else None, percent=None, pulse_s=None, condition=None,
        probe=None, qualities=("warming", "range", "jump", "stuck", "stale"), after_s=0.0,
        disabled=False, basis="entered", note="",
    )  # fmt: skip


def rule_form(
    plan: Plan, load: Load, rule: Rule, typed: Mapping[str, str], begun: str = ""
) -> RuleForm:
    """The form of a rule, with what was typed; `begun` is the kind that a new one begins with."""
    parts = taken_apart(rule.condition) if rule.condition is not None else None
    priority = typed.get("priority", rule.priority)
    by_probe = begun == "probe" or (not begun and rule.condition is None)
    if "by_probe" in typed:
        by_probe = typed["by_probe"] == "yes"
    deep = rule.condition is not None and parts is None
    who = [
        choice("priority", "Priority", priority, PRIORITIES, remade=True),
        choice(
            "want",
            "State requested",
            typed.get("want", want_key(rule)),
            wants_of(load),
            remade=True,
        ),
    ]
    if typed.get("want", rule.want) == "pulse":
        who.append(seconds_field("pulse_s", "for", rule.pulse_s))
    who.append(text("name", "Name", rule.name, "optional"))
    kind: Field | None = None
    condition: tuple[Field, ...] = ()
    waits: tuple[Field, ...] = ()
    rows: tuple[RowForm, ...] = ()
    count = 0
    if by_probe:
        condition = (
            choice("probe", "When", rule.probe or _first_probe(plan, load), _probes(plan)),
            choice("qualities", "", " ".join(rule.qualities), QUALITY_SETS),
            seconds_field("after_s", "and was last good", rule.after_s, note="ago"),
        )
    elif not deep:
        want = typed.get("want", want_key(rule)).partition(":")[0]
        usual = usual_result(load, priority, want)
        denied = typed.get("c_sense", "no" if parts and parts.reverse else "yes") == "no"
        now = parts.main.kind if parts else begun
        chosen = typed.get("c_kind", now)
        kind = choice("c_kind", "Kind", chosen, offered_kinds(plan, chosen), remade=True)
        main = parts.main if parts and parts.main.kind == chosen else None
        reading = (
            typed.get("c_probe")
            or getattr(main, "probe", "")
            or first_reading(plan, load.place, chosen)
        )
        condition = condition_fields(
            plan,
            chosen,
            main,
            "c_",
            reading,
            typed=typed,
            usual=usual.under_not if denied else usual,
        )
        if main is None:
            condition = tuple(_remade_by_probe(field, reading) for field in condition)
        waits = waits_of(chosen, parts, typed)
        rows, count = row_forms(plan, load.place, parts, typed, usual)
        if "sun" in (chosen, *(row.kind.value for row in rows)):
            waits = (*waits, *earth_fields(plan))
    notes = (
        choice("basis", "Basis", typed.get("basis", rule.basis), BASES),
        text("note", "Note", rule.note, "what the figures rest on"),
    )
    return RuleForm(
        who=tuple(who), kind=kind, condition=condition, waits=waits, rows=rows, notes=notes,
        deep=deep, by_probe=by_probe, count=count,
    )  # fmt: skip


def _remade_by_probe(field: Field, reading: str) -> Field:
    if field.name == "c_probe":
        return choice(field.name, field.label, reading, field.options, remade=True)
    return field


def _first_probe(plan: Plan, load: Load) -> str:
    """The probe that a fault rule begins with: one that the load follows, else the first."""
    followed = probes_of_load(plan, load)
    return next(iter((*followed, *(key for key, _ in _probes(plan)))), "")


def _probes(plan: Plan) -> Options:
    return tuple((p.id, p.name) for p in plan.probes if p.stage == "working")


def read_rule(fields: Fields, plan: Plan, load: Load, rule: Rule) -> Rule:
    """The rule that a form describes; `InputError` where a field is refused."""
    priority = fields.choice("priority", get_args(RulePriority))
    want = fields.choice("want", tuple(key for key, _ in wants_of(load)))
    name, _, level = want.partition(":")
    facts: dict[str, Any] = {
        "id": rule.id
        or fresh_rule_id(plan, load.id, priority if priority in PRIORITY_CODES else "rule"),
        "load": load.id,
        "name": fields.text("name", most=400),
        "priority": priority,
        "want": name,
        "level": int(level) if level else None,
        "percent": rule.percent if name == "percent" else None,
        "pulse_s": seconds_of(fields, "pulse_s", low=0.05) if name == "pulse" else None,
        "disabled": rule.disabled,
        "basis": fields.choice("basis", tuple(key for key, _ in BASES)),
        "note": fields.text("note", most=400),
    }
    if fields.sent.get("by_probe") == "yes":
        facts["priority"] = "fault"
        facts["probe"] = fields.choice("probe", dict(_probes(plan)))
        facts["qualities"] = tuple(fields.choice("qualities", dict(QUALITY_SETS)).split())
        facts["after_s"] = seconds_of(fields, "after_s")
    elif fields.sent.get("deep") == "yes":
        facts["condition"] = rule.condition
    else:
        usual = usual_result(load, priority, name)
        facts["condition"] = read_parts(fields, plan, rule.condition, usual)
    fields.check()
    try:
        return Rule.model_validate(facts)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        key = first.steps[0] if first.steps else "rule"
        raise InputError(key, got=first.got, allowed=first.allowed) from exc
