"""The form of one condition: what each kind asks for, and how it is read again."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isfinite
from types import MappingProxyType
from typing import Any

from pydantic import TypeAdapter, ValidationError

from aldea.core.base.figures import as_typed
from aldea.core.base.quantities import Quantity
from aldea.core.base.unfit import unfit
from aldea.core.plan.conditions import Condition
from aldea.core.plan.document import Plan
from aldea.core.plan.naming import reading_unit
from aldea.core.plan.without_reading import KEPT, Result
from aldea.web.benches.rule.without_form import read_without, without_fields
from aldea.web.shell.form_fields import Field, Options, choice
from aldea.web.shell.forms import Fields

CONDITION: TypeAdapter[Any] = TypeAdapter(Condition)
KINDS: Options = (
    ("band", "a band: an on and an off threshold"),
    ("above", "a value at or above a threshold"),
    ("below", "a value at or below a threshold"),
    ("within", "a value in a range"),
    ("difference", "a difference of two probes"),
    ("rate", "a rate of change"),
    ("window", "a schedule"),
    ("sun", "the sun"),
    ("presence", "somebody is there"),
    ("dark", "it is dark"),
    ("contact", "a contact"),
    ("tape", "a leak tape"),
    ("gas", "a gas or smoke hint"),
    ("load", "the state of a load"),
    ("position", "where a drive stands"),
    ("mode", "a mode"),
    ("count_above", "people counted inside"),
    ("quality", "the quality of a probe"),
    ("named", "a named condition"),
    ("clock_known", "the clock is set"),
    ("always", "always"),
)
CONTACT_QUANTITIES: tuple[Quantity, ...] = ("position", "presence", "sensed_output", "count")
DIRECTIONS: Options = (("rising", "above it"), ("falling", "below it"))
YES_NO: Options = (("no", "no"), ("yes", "yes"))
TAPE_STATES: Options = (
    ("wet short", "wet"),
    ("damp wet short", "damp or wet"),
    ("damp", "damp alone"),
    ("short", "short"),
    ("open", "broken"),
    ("dry", "dry"),
)
QUALITIES: Options = (
    ("range jump stuck stale warming", "not good"),
    ("stale", "silent"),
    ("stuck", "stuck"),
    ("range", "out of its range"),
    ("good", "good"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ask:
    """One figure or choice of a condition: its key in the part, what it is called, its unit.

    `options` makes a choice of the plan's parts, `read` turns a choice into the part's value.
    """

    key: str
    label: str
    unit: str = ""
    options: Callable[[Plan], Options] | None = None
    optional: bool = False
    low: float = -1e6
    high: float = 1e6
    usual: str = ""
    note: str = ""
    of_reading: bool = False
    read: Callable[[str], Any] | None = None
    write: Callable[[Any], str] | None = None


def _readings(plan: Plan) -> Options:
    derived = tuple((signal.id, signal.name) for signal in plan.derived)
    values = tuple(
        (p.id, p.name)
        for p in plan.probes
        if p.stage == "working" and p.quantity not in CONTACT_QUANTITIES
    )
    return (*values, *derived)


def _of(*quantities: Quantity) -> Callable[[Plan], Options]:
    def probes_of(plan: Plan) -> Options:
        return tuple(
            (p.id, p.name) for p in plan.probes if p.stage == "working" and p.quantity in quantities
        )

    return probes_of


def _values(plan: Plan) -> Options:
    return tuple(
        (p.id, p.name)
        for p in plan.probes
        if p.stage == "working" and p.quantity not in CONTACT_QUANTITIES
    )


def _all_probes(plan: Plan) -> Options:
    return tuple((p.id, p.name) for p in plan.probes if p.stage == "working")


def _loads(plan: Plan) -> Options:
    return tuple((load.id, load.name) for load in plan.loads)


def _drives(plan: Plan) -> Options:
    return tuple((load.id, load.name) for load in plan.loads if load.kind == "pulse_drive")


def _lamps(plan: Plan) -> Options:
    lamps = tuple((load.id, load.name) for load in plan.loads if load.load_class == "light")
    return (("", "none"), *lamps)


def _named(key: str) -> Callable[[Plan], Options]:
    return lambda plan: tuple(
        (part.id, getattr(part, "name", "") or part.id) for part in getattr(plan, key)
    )


def _modes(plan: Plan) -> Options:
    return tuple(
        (f"{mode.id}={value}", f"{mode.name}: {value}")
        for mode in plan.modes
        for value in mode.values
    )


def _just(options: Options) -> Callable[[Plan], Options]:
    return lambda _plan: options


def _truth(text: str) -> bool:
    return text == "yes"


def _written(value: Any) -> str:
    return "yes" if value else "no"


def _words(text: str) -> tuple[str, ...]:
    return tuple(text.split())


def _joined(value: Any) -> str:
    return " ".join(value)


PROBE = Ask(key="probe", label="Reads", options=_readings)
GAP = Ask(key="hysteresis", label="Hysteresis", of_reading=True, low=0.0, usual="1")
SECONDS = {"unit": "s", "low": 0.0, "high": 604_800.0}
ON_VALUES = ("band", "above", "below", "within", "difference", "rate", "dark", "tape", "gas")
ASKS: dict[str, tuple[Ask, ...]] = {
    "band": (
        PROBE,
        Ask(key="direction", label="On", options=_just(DIRECTIONS)),
        Ask(key="on_threshold", label="On at", of_reading=True),
        Ask(key="off_threshold", label="Off at", of_reading=True),
        Ask(key="delay_on_s", label="On delay", usual="0", **SECONDS),  # type: ignore[arg-type]
        Ask(key="delay_off_s", label="Off delay", usual="0", **SECONDS),  # type: ignore[arg-type]
    ),
    "above": (PROBE, Ask(key="value", label="At or above", of_reading=True), GAP),
    "below": (PROBE, Ask(key="value", label="At or below", of_reading=True), GAP),
    "within": (
        PROBE,
        Ask(key="low", label="From", of_reading=True, optional=True, note="empty: no end"),
        Ask(key="high", label="to under", of_reading=True, optional=True, note="empty: no end"),
    ),
    "difference": (
        Ask(key="probe", label="Reads", options=_values),
        Ask(key="less", label="less", options=_values),
        Ask(key="on_threshold", label="On at", of_reading=True),
        Ask(key="off_threshold", label="Off at", of_reading=True),
    ),
    "rate": (
        Ask(key="probe", label="Reads", options=_values),
        Ask(key="over_s", label="Evaluated over", unit="s", low=1.0, high=86_400.0, usual="600"),
        Ask(key="on_threshold", label="On at, a minute", of_reading=True),
        Ask(key="off_threshold", label="Off at, a minute", of_reading=True),
    ),
    "window": (Ask(key="schedule", label="Schedule", options=_named("schedules")),),
    "sun": (
        Ask(
            key="state",
            label="While the sun is",
            options=_just((("down", "down"), ("up", "up"))),
        ),
        Ask(key="offset_min", label="Shifted by", unit="min", low=-720, high=720, usual="0"),
        Ask(
            key="when_clock_unknown",
            label="Until the clock is set the schedule",
            options=_just((("no", "is not true"), ("yes", "is true"))),
            read=_truth,
            write=_written,
        ),
    ),
    "presence": (
        Ask(key="probe", label="Seen by", options=_of("presence")),
        Ask(
            key="hold_s", label="and for", unit="s", optional=True, low=0.0, high=604_800.0,
            note="after it; empty: the probe’s own",
        ),
    ),
    "dark": (
        Ask(key="probe", label="Reads", options=_of("illuminance")),
        Ask(key="value", label="At or below", of_reading=True, low=0.0, usual="20"),
        GAP,
        Ask(key="lamp", label="Without the light of", options=_lamps, optional=True),
        Ask(
            key="lamp_lx", label="which adds", unit="lx", optional=True, low=0.0, high=200_000.0,
            note="empty: as its bench found",
        ),
    ),
    "contact": (
        Ask(key="probe", label="Contact", options=_of(*CONTACT_QUANTITIES)),
        Ask(
            key="closed",
            label="is",
            options=_just((("yes", "closed"), ("no", "open"))),
            read=_truth,
            write=_written,
        ),
    ),
    "tape": (
        Ask(key="probe", label="Tape", options=_of("leak")),
        Ask(
            key="states", label="is", options=_just(TAPE_STATES), read=_words, write=_joined
        ),
    ),
    "gas": (
        Ask(key="probe", label="Reads", options=_of("gas_hint")),
        Ask(
            key="ratio", label="From", unit="× clean air", optional=True, low=1.01, high=100.0,
            note="empty: as its bench found",
        ),
    ),
    "load": (
        Ask(key="load", label="Load", options=_loads),
        Ask(
            key="state",
            label="",
            options=_just(
                (("any_on", "is on"), ("off", "is off"), ("missed", "did not arrive"))
            ),
        ),
        Ask(
            key="level", label="in step", optional=True, low=1, high=15, note="empty: any",
            read=int, write=str,
        ),
    ),
    "position": (
        Ask(key="load", label="Drive", options=_drives),
        Ask(
            key="state",
            label="",
            options=_just(
                (
                    ("open", "is open"),
                    ("shut", "is shut"),
                    ("moving", "moves"),
                    ("unknown", "position unknown"),
                )
            ),
        ),
    ),
    "mode": (Ask(key="mode_value", label="Mode", options=_modes),),
    "count_above": (
        Ask(key="doorway", label="Doorway", options=_named("doorways")),
        Ask(
            key="value", label="More than", unit="people", low=0, high=10_000, usual="0", read=int,
            write=str,
        ),
    ),
    "quality": (
        Ask(key="probe", label="Probe", options=_all_probes),
        Ask(key="among", label="is", options=_just(QUALITIES), read=_words, write=_joined),
    ),
    "named": (Ask(key="condition", label="Condition", options=_named("conditions")),),
    "clock_known": (),
    "always": (),
}  # fmt: skip


def offered_kinds(plan: Plan, now: str = "") -> Options:
    """The kinds that this house has the parts for; and the one that is chosen."""
    choices = []
    for kind, words in KINDS:
        asks = [ask for ask in ASKS[kind] if ask.options is not None and not ask.optional]
        if kind == now or all(ask.options(plan) for ask in asks if ask.options):
            choices.append((kind, words))
    return tuple(choices)


def value_of(condition: Any, ask: Ask) -> str:
    """What a condition has for a figure, as it is typed."""
    if condition is None:
        return ask.usual
    if ask.key == "mode_value":
        return f"{condition.mode}={condition.value}"
    value = getattr(condition, ask.key)
    if value is None:
        return ""
    if ask.write is not None:
        return ask.write(value)
    return as_typed(value) if isinstance(value, float | int) else str(value)


def condition_fields(
    plan: Plan,
    kind: str,
    condition: Any,
    prefix: str,
    reading: str = "",
    *,
    typed: Mapping[str, str] = MappingProxyType({}),
    usual: Result | None = None,
) -> tuple[Field, ...]:
    """The fields of a kind; `reading` is the probe that is chosen, for the units.

    `usual` is what a rule counts as without a reading by what it wants; None outside a rule.
    """
    unit = reading_unit(plan, reading).strip() if reading else ""
    rows: list[Field] = []
    for ask in ASKS.get(kind, ()):
        value = value_of(condition, ask)
        name = f"{prefix}{ask.key}"
        if ask.options is not None:
            options = ask.options(plan)
            if not value and options and not ask.optional:
                value = options[0][0]
            rows.append(
                choice(name, ask.label, value, options, ask.note, remade=ask.key == "probe")
            )
            continue
        rows.append(
            Field(
                name=name,
                label=ask.label,
                kind="number",
                value=value,
                unit=unit if ask.of_reading else ask.unit,
                low=ask.low,
                high=ask.high,
                optional=ask.optional,
                note=ask.note,
            )
        )
    if kind in ON_VALUES:
        rows += without_fields(condition, prefix, typed, usual)
    return tuple(rows)


def read_condition(fields: Fields, plan: Plan, kind: str, prefix: str, usual: Result = KEPT) -> Any:
    """The condition that a form describes; what is wrong stands at its field, and None is given.

    `usual` is what it counts as without a reading where the form leaves that to what it wants.
    """
    if kind not in ASKS:
        fields.refuse(f"{prefix}kind", repr(kind)[:80], "one of the list")
        return None
    facts: dict[str, Any] = {"kind": kind}
    wrong = len(fields.errors)
    if kind in ON_VALUES:
        facts.update(read_without(fields, prefix, usual))
    for ask in ASKS[kind]:
        name = f"{prefix}{ask.key}"
        text = fields.sent.get(name, "").strip()
        if ask.optional and not text:
            continue
        if ask.options is not None:
            allowed = dict(ask.options(plan))
            if text not in allowed:
                nothing = not allowed
                fields.refuse(
                    name,
                    "nothing" if nothing else repr(text)[:80],
                    "one of this house; add it first" if nothing else "one of the list",
                )
                continue
            if ask.key == "mode_value":
                facts["mode"], _, facts["value"] = text.partition("=")
            else:
                facts[ask.key] = ask.read(text) if ask.read else text
            continue
        low, high = ask.low, ask.high
        value = fields.number(name, low=low, high=high, unit=ask.unit)
        facts[ask.key] = round(value) if ask.read is int and isfinite(value) else value
    if len(fields.errors) > wrong:
        return None
    try:
        return CONDITION.validate_python(facts)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        fields.refuse(f"{prefix}{first.field or 'kind'}", first.got, first.allowed)
        return None


def first_reading(plan: Plan, place: str, kind: str) -> str:
    """The reading that a new condition begins with: one of its load's place where there is one."""
    ask = next((a for a in ASKS.get(kind, ()) if a.key == "probe"), None)
    if ask is None or ask.options is None:
        return ""
    ids = [key for key, _ in ask.options(plan)]
    here = {probe.id for probe in plan.probes_in(place)}
    return next((key for key in ids if key in here), ids[0] if ids else "")
