"""What rules stand on beside probes: modes, doorways, signals, named conditions, groups, memory."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.base.figures import as_typed, figure
from aldea.core.base.unfit import unfit
from aldea.core.plan.conditions import NamedCondition
from aldea.core.plan.derived import Derived
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import fresh_id
from aldea.core.plan.house_rules import BootRule, Doorway, Exclusive, Memory, Mode
from aldea.core.plan.mode_values import with_values_renamed
from aldea.core.plan.naming import reading_name, reading_unit
from aldea.core.plan.rule_parts import taken_apart
from aldea.core.plan.without_reading import KEPT
from aldea.core.rules.uncertainty import expanded_uncertainty, where_taken
from aldea.core.words.conditions import condition_words
from aldea.core.words.house_rules import exclusive_words
from aldea.core.words.modes import mode_change_words
from aldea.web.benches.rule.condition_form import YES_NO
from aldea.web.benches.rule.mode_form import mode_fields, read_mode
from aldea.web.benches.rule.named_condition import condition_form
from aldea.web.benches.rule.parts_form import read_parts
from aldea.web.shell.form_fields import Field, Options, choice, number, text
from aldea.web.shell.forms import Fields

COLLECTIONS = {
    "schedule": "schedules",
    "mode": "modes",
    "doorway": "doorways",
    "signal": "derived",
    "condition": "conditions",
    "exclusive": "exclusive",
}
KIND_NAMES = {
    "schedule": "Schedule",
    "mode": "Mode",
    "doorway": "Doorway",
    "signal": "Calculated signal",
    "condition": "Named condition",
    "exclusive": "Exclusive relays",
    "group": "Group of loads",
    "memory": "Memory and power-up",
}
SIGNAL_KINDS: Options = (
    ("mean", "mean of several"),
    ("highest", "highest of several"),
    ("lowest", "lowest of several"),
    ("difference", "difference of two"),
    ("rate", "rate of change of one"),
    ("dew_point", "dew point"),
    ("absolute_humidity", "absolute humidity, g/m³"),
    ("echo_distance", "echo distance, corrected for air temperature"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class PartRow:
    """A part as the list shows it: its key, name, what it is in words."""

    key: str
    name: str
    says: str


def parts_of(plan: Plan) -> dict[str, tuple[PartRow, ...]]:
    """Every part of the house's rules, by its kind."""
    return {
        "mode": tuple(
            PartRow(
                key=f"mode:{m.id}",
                name=m.name,
                says=". ".join(
                    (" / ".join(m.values), *(mode_change_words(plan, c) for c in m.changes))
                ),
            )
            for m in plan.modes
        ),
        "doorway": tuple(
            PartRow(
                key=f"doorway:{d.id}",
                name=d.name,
                says=f"{reading_name(plan, d.outer)}, then {reading_name(plan, d.inner)}",
            )
            for d in plan.doorways
        ),
        "signal": tuple(
            PartRow(key=f"signal:{s.id}", name=s.name, says=_signal_words(plan, s))
            for s in plan.derived
        ),
        "condition": tuple(
            PartRow(
                key=f"condition:{c.id}",
                name=c.name or c.id,
                says=condition_words(plan, c.condition),
            )
            for c in plan.conditions
        ),
        "exclusive": tuple(
            PartRow(
                key=f"exclusive:{e.id}",
                name=", ".join(relay.upper() for relay in e.relays),
                says=exclusive_words(e),
            )
            for e in plan.exclusive
        ),
        "group": tuple(
            PartRow(
                key=f"group:{g.id}",
                name=g.name,
                says=", ".join(load.name for m in g.members if (load := plan.load(m))),
            )
            for g in plan.groups
        ),
    }


def part_asked(plan: Plan, key: str) -> tuple[str, Any]:
    """Kind and part of a key such as `mode:house`; the part is None for a new one."""
    kind, _, part_id = key.partition(":")
    if kind == "memory":
        return kind, plan.memory
    if kind not in COLLECTIONS:
        raise NotFoundError("part", got=repr(key)[:80], allowed="one of " + ", ".join(COLLECTIONS))
    if not part_id:
        return kind, None
    part = next((p for p in getattr(plan, COLLECTIONS[kind]) if p.id == part_id), None)
    if part is None:
        raise NotFoundError(kind, got=repr(part_id)[:80], allowed=f"a {kind} of this house")
    return kind, part


def fields_of(plan: Plan, kind: str, part: Any, typed: dict[str, str]) -> tuple[Field, ...]:
    """The form of a part that is no schedule."""
    readers: dict[str, Callable[[Plan, Any, dict[str, str]], tuple[Field, ...]]] = {
        "mode": mode_fields,
        "doorway": _doorway,
        "signal": _signal,
        "condition": condition_form,
        "exclusive": _exclusive,
        "memory": _memory,
    }
    return readers[kind](plan, part, typed)


def _doorway(plan: Plan, door: Doorway | None, _typed: dict[str, str]) -> tuple[Field, ...]:
    lines = tuple((p.id, p.name) for p in plan.probes if p.quantity in ("presence", "position"))
    way = door or Doorway.model_construct(
        id="", name="", outer="", inner="", within_s=3.0, reset_at=(), retained=False
    )
    return (
        text("name", "Name", way.name),
        choice("outer", "Outside", way.outer, lines),
        choice("inner", "Inside", way.inner, lines),
        number(way, "within_s", "Both within", "s"),
        text(
            "reset_at", "Set the count to 0 at", ", ".join(way.reset_at), "times, a comma between"
        ),
        choice("retained", "Retained over a power cut", _yes(way.retained), YES_NO),
    )


def _exclusive(_plan: Plan, group: Exclusive | None, _typed: dict[str, str]) -> tuple[Field, ...]:
    now = group or Exclusive.model_construct(id="", relays=(), dead_s=0.5, why="")
    relays = ", ".join(relay.upper() for relay in now.relays)
    return (
        text("relays", "Relays", relays, "as K1, K2; two or more"),
        number(now, "dead_s", "Dead time", "s"),
        text("why", "because", now.why),
    )


def _yes(value: bool) -> str:
    return "yes" if value else "no"


def _readings(plan: Plan, mine: str = "") -> Options:
    return (
        *((p.id, p.name) for p in plan.probes if p.stage == "working"),
        *((s.id, s.name) for s in plan.derived if s.id != mine),
    )


def _signal_words(plan: Plan, signal: Derived) -> str:
    """What it is, and how well it is known where its members are independent."""
    kind = dict(SIGNAL_KINDS).get(signal.made.kind, "")
    expanded = expanded_uncertainty(plan, signal.id)
    if expanded is None:
        return kind
    where = where_taken(signal)
    return (
        f"{kind}, ±{figure(expanded)}{reading_unit(plan, signal.id)}{' ' + where if where else ''}"
    )


def _signal(plan: Plan, signal: Derived | None, typed: dict[str, str]) -> tuple[Field, ...]:
    kind = typed.get("made", signal.made.kind if signal else "mean")
    source = signal.made if signal and signal.made.kind == kind else None
    readings = _readings(plan, signal.id if signal else "")
    probes = tuple((p.id, p.name) for p in plan.probes if p.stage == "working")

    def pick(key: str, label: str, options: Options) -> Field:
        return choice(key, label, getattr(source, key, ""), options)

    rows = [
        text("name", "Name", signal.name if signal else ""),
        choice("made", "Kind", kind, SIGNAL_KINDS, remade=True),
    ]
    if kind in ("mean", "highest", "lowest"):
        of = ", ".join(reading_name(plan, name) for name in source.of) if source else ""  # type: ignore[union-attr]
        rows.append(text("of", "of", of, "names, a comma between"))
    elif kind == "difference":
        rows += [pick("probe", "Reads", readings), pick("less", "less", readings)]
    elif kind == "rate":
        over = as_typed(source.over_s) if source else "600"  # type: ignore[union-attr]
        rows += [
            pick("probe", "Reads", probes),
            Field(name="over_s", label="over", kind="number", value=over, unit="s", low=1.0,
                  high=86_400.0),
        ]  # fmt: skip
    elif kind == "echo_distance":
        assumed = as_typed(source.assumed_degc) if source else "20"  # type: ignore[union-attr]
        rows += [
            pick("echo", "Echo", readings),
            pick("temperature", "Air at", readings),
            Field(name="assumed_degc", label="Echo was worked out for", kind="number",
                  value=assumed, unit="°C", low=-40.0, high=80.0),
        ]  # fmt: skip
    else:
        rows += [
            pick("temperature", "Temperature", readings),
            pick("humidity", "Relative humidity", readings),
        ]
    return tuple(rows)


def _memory(plan: Plan, memory: Memory, _typed: dict[str, str]) -> tuple[Field, ...]:
    return (
        number(memory, "quiet_s", "Write when unchanged for", "s"),
        number(memory, "latest_s", "Write at the latest after", "s", note="empty: no latest"),
        number(memory, "least_s", "Minimum interval", "s"),
        number(memory, "record_bytes", "Record size", "bytes"),
        text(
            "fields",
            "Retained over a power cut",
            ", ".join(memory.fields or ()),
            "as load:fan, mode:house; empty: what is usual",
        ),
        number(plan.boot, "delay_s", "Delay after a power cut", "s"),
        number(plan.boot, "stagger_s", "Stagger between loads", "s"),
    )


def deep(part: Any) -> bool:
    """Whether a named condition is nested more deeply than its form, and stands only in words."""
    return isinstance(part, NamedCondition) and taken_apart(part.condition) is None


def with_part(fields: Fields, plan: Plan, kind: str, part: Any) -> Plan:
    """The plan with what a form says of a part; `InputError` where a field is refused."""
    if kind == "memory":
        return _with_memory(fields, plan)
    facts = _read(fields, plan, kind, part)
    fields.check()
    key = COLLECTIONS[kind]
    rows = getattr(plan, key)
    called = facts.get("name") or kind
    facts["id"] = part.id if part else fresh_id(called, {row.id for row in rows})
    models: dict[str, Any] = {
        "mode": Mode,
        "doorway": Doorway,
        "signal": Derived,
        "condition": NamedCondition,
        "exclusive": Exclusive,
    }
    if kind == "mode" and part is not None:
        plan = with_values_renamed(plan, part, facts["values"])
        rows = getattr(plan, key)
    try:
        new = models[kind].model_validate(facts)
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        raise InputError(first.field, got=first.got, allowed=first.allowed) from exc
    if part is None:
        return plan.model_copy(update={key: (*rows, new)})
    return plan.model_copy(update={key: tuple(new if row.id == new.id else row for row in rows)})


def _listed(fields: Fields, name: str) -> tuple[str, ...]:
    return tuple(one.strip() for one in fields.text(name, most=4000).split(",") if one.strip())


def _by_name(fields: Fields, name: str, known: dict[str, str]) -> tuple[str, ...]:
    """Parts that are typed by their names."""
    rows = []
    for word in _listed(fields, name):
        key = known.get(word.casefold())
        if key is None:
            fields.refuse(name, repr(word)[:80], "names of this house, a comma between")
        else:
            rows.append(key)
    if not rows and not fields.errors:
        fields.refuse(name, "nothing", "at least one name")
    return tuple(rows)


def _read(fields: Fields, plan: Plan, kind: str, part: Any) -> dict[str, Any]:
    if kind == "exclusive":
        return _read_exclusive(fields, plan)
    facts: dict[str, Any] = {"name": fields.text("name", most=80)}
    if not facts["name"]:
        fields.refuse("name", "nothing", "a name")
    if kind == "mode":
        facts |= read_mode(fields, plan, part)
    elif kind == "doorway":
        lines = {p.id: p for p in plan.probes}
        facts["outer"] = fields.choice("outer", lines)
        facts["inner"] = fields.choice("inner", lines)
        facts["within_s"] = fields.number("within_s", low=0.1, high=60.0, unit="s")
        facts["reset_at"] = _listed(fields, "reset_at")
        facts["retained"] = fields.sent.get("retained") == "yes"
    elif kind == "signal":
        facts["made"] = _read_signal(fields, plan, part)
    elif deep(part):
        facts["condition"] = part.condition
    else:
        facts["condition"] = read_parts(fields, plan, part.condition if part else None, KEPT)
    return facts


def _read_exclusive(fields: Fields, plan: Plan) -> dict[str, Any]:
    known = {relay.id.casefold(): relay.id for relay in plan.relays}
    relays = _by_name(fields, "relays", known)
    if len(relays) < 2 and not fields.errors:
        fields.refuse("relays", "one relay", "two or more")
    return {
        "relays": tuple(dict.fromkeys(relays)),
        "dead_s": fields.number("dead_s", low=0.0, high=60.0, unit="s"),
        "why": fields.text("why", most=400),
    }


def _read_signal(fields: Fields, plan: Plan, part: Derived | None) -> dict[str, Any]:
    kind = fields.choice("made", dict(SIGNAL_KINDS))
    readings = dict(_readings(plan, part.id if part else ""))
    facts: dict[str, Any] = {"kind": kind}
    if kind in ("mean", "highest", "lowest"):
        names = {name.casefold(): key for key, name in readings.items()}
        facts["of"] = _by_name(fields, "of", names)
    elif kind == "difference":
        facts["probe"] = fields.choice("probe", readings)
        facts["less"] = fields.choice("less", readings)
    elif kind == "rate":
        facts["probe"] = fields.choice("probe", readings)
        facts["over_s"] = fields.number("over_s", low=1.0, high=86_400.0, unit="s")
    else:
        other = "echo" if kind == "echo_distance" else "humidity"
        facts["temperature"] = fields.choice("temperature", readings)
        facts[other] = fields.choice(other, readings)
        if "assumed_degc" in fields.sent and kind == "echo_distance":
            facts["assumed_degc"] = fields.number("assumed_degc", low=-40.0, high=80.0, unit="°C")
    return facts


def _with_memory(fields: Fields, plan: Plan) -> Plan:
    quiet_s = fields.number("quiet_s", low=0.0, high=604_800.0, unit="s")
    least_s = fields.number("least_s", low=0.0, high=604_800.0, unit="s")
    latest = fields.sent.get("latest_s", "").strip()
    latest_s = fields.number("latest_s", low=0.0, high=604_800.0, unit="s") if latest else None
    delay_s = fields.number("delay_s", low=0.0, high=604_800.0, unit="s")
    stagger_s = fields.number("stagger_s", low=0.0, high=604_800.0, unit="s")
    fields.check()
    update: dict[str, Any] = {"quiet_s": quiet_s, "least_s": least_s, "latest_s": latest_s}
    if "record_bytes" in fields.sent:
        record_bytes = fields.number("record_bytes", low=16.0, high=4096.0, unit="bytes")
        fields.check()
        update["record_bytes"] = round(record_bytes)
    if "fields" in fields.sent:
        update["fields"] = _listed(fields, "fields") or None
    fields.check()
    try:
        memory = Memory.model_validate({**plan.memory.model_dump(), **update})
    except ValidationError as exc:
        first, *_ = unfit(exc.errors(include_url=False))
        raise InputError("fields", got=first.got, allowed=first.allowed) from exc
    boot = BootRule(delay_s=delay_s, stagger_s=stagger_s)
    return plan.model_copy(update={"memory": memory, "boot": boot})


def without_part(plan: Plan, kind: str, part_id: str) -> Plan:
    """The plan without a part; what stands on it refuses at the check of the plan."""
    key = COLLECTIONS[kind]
    rows = tuple(row for row in getattr(plan, key) if row.id != part_id)
    changed: dict[str, Any] = {key: rows}
    if plan.memory.fields is not None:
        gone = {f"mode:{part_id}", f"count:{part_id}", f"moments:{part_id}"}
        kept = tuple(field for field in plan.memory.fields if field not in gone)
        changed["memory"] = plan.memory.model_copy(update={"fields": kept})
    return plan.model_copy(update=changed)
