"""The form of a claim: who asks, for what, while what; read into a claim, written from one."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, cast, get_args

from pydantic import ValidationError

from aldea.core.base.errors import InputError
from aldea.core.base.unfit import unfit
from aldea.core.engine.layout import RANK_CODES
from aldea.core.plan.claim_edits import fresh_claim_id
from aldea.core.plan.claim_parts import taken_apart
from aldea.core.plan.document import Claim, ClaimRank, Load, Plan, Wanted
from aldea.core.plan.reading import probes_of_load
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
RANKS: Options = (
    ("trip", "trip: until a person resets it"),
    ("interlock", "interlock: for as long as it holds"),
    ("fault", "fault: when a probe is lost"),
    ("schedule", "schedule"),
    ("demand", "demand"),
)
BASES: Options = (
    ("stated", "stated"),
    ("assumed", "assumed, until borne out"),
    ("stand_in", "stands in for a trial"),
)
QUALITY_SETS: Options = (
    ("warming range jump stuck stale", "gives no good reading"),
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
class ClaimForm:
    """Everything the form of a claim shows; `deep` where its condition only stands in words."""

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
        found = [*self.who, *self.condition, *self.waits, *self.notes]
        if self.kind is not None:
            found.append(self.kind)
        for row in self.rows:
            found += [row.join, row.sense, row.kind, *row.fields]
        return {field.name: field.value for field in found}


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


def new_claim(load: Load, kind: str, asked: str = "") -> Claim:
    """A claim to begin with, whose marks are still to be typed; of the level asked for, if any."""
    rank: ClaimRank = "schedule" if kind in ("window", "sun") else "demand"
    if kind == "tape":
        rank = "trip"
    if kind in ("load", "gas"):
        rank = "interlock"
    if kind == "probe":
        rank = "fault"
    if asked in dict(RANKS):
        rank = cast(ClaimRank, asked)
    wants = [key for key, _ in wants_of(load)]
    off = "shut" if "shut" in wants else "off"
    want = off if rank in ("trip", "interlock", "fault") else wants[0]
    if want == "off" and rank in ("schedule", "demand"):
        want = wants[1]
    name, _, level = want.partition(":")
    return Claim.model_construct(
        id="", load=load.id, name="", rank=rank, want=cast(Want, name),
        level=int(level) if level else None, percent=None, pulse_s=None, condition=None,
        probe=None, qualities=("warming", "range", "jump", "stuck", "stale"), after_s=0.0,
        off_for_now=False, basis="stated", note="",
    )  # fmt: skip


def claim_form(
    plan: Plan, load: Load, claim: Claim, typed: Mapping[str, str], begun: str = ""
) -> ClaimForm:
    """The form of a claim, with what was typed; `begun` is the kind that a new one begins with."""
    parts = taken_apart(claim.condition) if claim.condition is not None else None
    rank = typed.get("rank", claim.rank)
    by_probe = begun == "probe" or (not begun and claim.condition is None)
    if "by_probe" in typed:
        by_probe = typed["by_probe"] == "yes"
    deep = claim.condition is not None and parts is None
    who = [
        choice("rank", "Its level", rank, RANKS, remade=True),
        choice("want", "It wants", typed.get("want", want_key(claim)), wants_of(load), remade=True),
    ]
    if typed.get("want", claim.want) == "pulse":
        who.append(seconds_field("pulse_s", "for", claim.pulse_s))
    who.append(text("name", "Called", claim.name, "if it has a name"))
    kind: Field | None = None
    condition: tuple[Field, ...] = ()
    waits: tuple[Field, ...] = ()
    rows: tuple[RowForm, ...] = ()
    count = 0
    if by_probe:
        condition = (
            choice("probe", "When", claim.probe or _first_probe(plan, load), _probes(plan)),
            choice("qualities", "", " ".join(claim.qualities), QUALITY_SETS),
            seconds_field("after_s", "and was last good", claim.after_s, note="ago"),
        )
    elif not deep:
        want = typed.get("want", want_key(claim)).partition(":")[0]
        usual = usual_result(load, rank, want)
        denied = typed.get("c_sense", "no" if parts and parts.reverse else "yes") == "no"
        now = parts.main.kind if parts else begun
        chosen = typed.get("c_kind", now)
        kind = choice("c_kind", "While", chosen, offered_kinds(plan, chosen), remade=True)
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
            condition = tuple(_begun(field, reading) for field in condition)
        waits = waits_of(chosen, parts, typed)
        rows, count = row_forms(plan, load.place, parts, typed, usual)
        if "sun" in (chosen, *(row.kind.value for row in rows)):
            waits = (*waits, *earth_fields(plan))
    notes = (
        choice("basis", "Its figures are", typed.get("basis", claim.basis), BASES),
        text("note", "because", claim.note, "what is assumed"),
    )
    return ClaimForm(
        who=tuple(who), kind=kind, condition=condition, waits=waits, rows=rows, notes=notes,
        deep=deep, by_probe=by_probe, count=count,
    )  # fmt: skip


def _begun(field: Field, reading: str) -> Field:
    if field.name == "c_probe":
        return choice(field.name, field.label, reading, field.options, remade=True)
    return field


def _first_probe(plan: Plan, load: Load) -> str:
    """The probe that a fault claim begins with: one that the load follows, else the first."""
    followed = probes_of_load(plan, load)
    return next(iter((*followed, *(key for key, _ in _probes(plan)))), "")


def _probes(plan: Plan) -> Options:
    return tuple((p.id, p.name) for p in plan.probes if p.stage == "working")


def read_claim(fields: Fields, plan: Plan, load: Load, claim: Claim) -> Claim:
    """The claim that a form describes; `InputError` where a field is refused."""
    rank = fields.choice("rank", get_args(ClaimRank))
    want = fields.choice("want", tuple(key for key, _ in wants_of(load)))
    name, _, level = want.partition(":")
    made: dict[str, Any] = {
        "id": claim.id or fresh_claim_id(plan, load.id, rank if rank in RANK_CODES else "claim"),
        "load": load.id,
        "name": fields.text("name", most=400),
        "rank": rank,
        "want": name,
        "level": int(level) if level else None,
        "percent": claim.percent if name == "percent" else None,
        "pulse_s": seconds_of(fields, "pulse_s", low=0.05) if name == "pulse" else None,
        "off_for_now": claim.off_for_now,
        "basis": fields.choice("basis", tuple(key for key, _ in BASES)),
        "note": fields.text("note", most=400),
    }
    if fields.sent.get("by_probe") == "yes":
        made["rank"] = "fault"
        made["probe"] = fields.choice("probe", dict(_probes(plan)))
        made["qualities"] = tuple(fields.choice("qualities", dict(QUALITY_SETS)).split())
        made["after_s"] = seconds_of(fields, "after_s")
    elif fields.sent.get("deep") == "yes":
        made["condition"] = claim.condition
    else:
        usual = usual_result(load, rank, name)
        made["condition"] = read_parts(fields, plan, claim.condition, usual)
    fields.check()
    try:
        return Claim.model_validate(made)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        key = first.steps[0] if first.steps else "claim"
        raise InputError(key, got=first.got, allowed=first.allowed) from exc
