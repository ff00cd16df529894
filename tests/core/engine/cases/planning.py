"""A case as a plan: its parts, then the figures that a plan's limits would not take."""

from typing import Any

from tests.core.engine.cases.rules import Rules, pattern_level, s
from tests.core.engine.cases.words import ENDS, FIELDS, RETURNS

from aldea.core.devices.loads.indicator.model import Pattern
from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.loads.stepped_fan.model import FanStep, SteppedFan
from aldea.core.devices.loads.two_way.model import TwoWay
from aldea.core.devices.loads.valve.model import Valve
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan import derived
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.conditions import NamedCondition
from aldea.core.plan.controls import (
    ButtonPress,
    Control,
    ControlAction,
    LoadGroup,
    RemoteCode,
    SelectorPosition,
)
from aldea.core.plan.document import (
    Averaging,
    House,
    Jump,
    Load,
    OnSensorFault,
    Place,
    Plan,
    PowerReturn,
    Probe,
    Range,
    Smoothing,
    Stuck,
    Wanted,
)
from aldea.core.plan.house_rules import BootRule, Doorway, Exclusive, Memory, Mode, OverrideEnd
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.schedules import Moments, Schedule

FAR = 1e12
EVERY_HOUR = tuple(f"{hour:02}:00" for hour in range(24))
KINDS = {
    "relay": "relay",
    "indicator": "indicator",
    "stepped": "stepped",
    "valve": "valve",
    "drive": "pulse_drive",
    "two-way": "two_way",
}


def probe_of(names, name, d):
    kind = d.get("filter", {"kind": "none"})
    low, high = d.get("range", (-FAR, FAR))
    extra: dict[str, Any] = {}
    if kind["kind"] == "exponential":
        extra["smoothing"] = Smoothing(tau_s=s(kind["tau_ms"]))
    elif kind["kind"] != "none" and kind["n"] > 1:
        extra["averaging"] = Averaging(kind=kind["kind"], of=kind["n"])
    if "stuck" in d:
        extra["stuck"] = Stuck(after_s=s(d["stuck"]["ms"]), band=float(d["stuck"]["band"]))
    if "jump" in d:
        extra["jump"] = Jump(
            per_s=float(d["jump"]["per_s"]), accept_after=d["jump"]["accept_after"]
        )
    return Probe(
        id=names.give("probe", name),
        name=name,
        place="room",
        quantity="relative_humidity",
        range=Range(low=float(low), high=float(high)),
        good_run=d.get("good_run", 1),
        warm_up_s=s(d.get("warm_up_ms", 0)),
        calibration=Calibration(expanded_uncertainty=1.0),
        **extra,
    )


def signal_of(names, name, d):
    if d["is"] == "rate":
        made = derived.RateOf(probe=names.give("probe", d["probe"]), over_s=s(d["over_ms"]))
    else:
        of = tuple(names.give("probe", p) for p in d["of"])
        made = derived.Statistic(kind=d["is"], of=of)
    return derived.Derived(id=names.give("signal", name), name=name, made=made)


def load_of(names, name, d):
    extra: dict[str, Any] = {}
    if d["kind"] == "stepped":
        most = max(int(n) for n in d["steps"])
        steps = tuple(
            FanStep(
                name=str(n),
                closed=tuple(names.give("relay", r) for r in d["steps"].get(str(n), ())),
            )
            for n in range(1, most + 1)
        )
        extra["stepped"] = SteppedFan(steps=steps, never_together=())
    elif d["kind"] == "indicator":
        others = tuple(tuple(s(part) for part in parts) for parts in d.get("patterns", {}).values())
        extra["pattern"] = Pattern(others=others)
    elif d["kind"] == "valve":
        extra["valve"] = Valve(at_rest="open" if d.get("unpowered") == "open" else "shut")
    elif d["kind"] == "drive":
        if "position" in d:
            extra["drive"] = PulseDrive(
                position="distance",
                distance_probe=names.reading(d["position"]["probe"]),
                open_at_m=1.0,
                shut_at_m=0.0,
                tries=d.get("tries"),
            )
        else:
            extra["drive"] = PulseDrive(
                open_contact=names.give("input", d["at_open"]),
                shut_contact=names.give("input", d["at_closed"]),
                tries=d.get("tries"),
            )
    elif d["kind"] == "two-way":
        extra["two_way"] = TwoWay(sense=names.give("input", d["sense"]))
    for key, field in (
        ("min_off_ms", "min_off_s"),
        ("min_on_ms", "min_on_s"),
        ("max_on_ms", "max_on_s"),
        ("max_on_rest_ms", "max_on_rest_s"),
    ):
        if key in d:
            extra[field] = s(d[key])
    for key in ("starts_per_hour", "stagger_place"):
        if key in d:
            extra[key] = d[key]
    override = d.get("hand", {})
    rule = {"ends_by": ENDS[override.get("school", "time")]}
    if "for_ms" in override:
        rule["for_s"] = s(override["for_ms"])
    rest = d.get("rest", "off")
    wanted = Wanted(want="off")
    if rest.startswith("step"):
        wanted = Wanted(want="step", level=int(rest.split()[1]))
    elif rest.startswith("pattern"):
        wanted = Wanted(want="pattern", level=pattern_level(d, rest.split()[1]))
    elif rest != "off":
        wanted = Wanted(want="shut" if rest == "close" else rest)
    return Load(
        id=names.give("load", name),
        name=name,
        place="room",
        kind=KINDS[d["kind"]],
        load_class="water",
        on_sensor_fault=OnSensorFault(after_s=0.0, state="keep"),
        power_return=PowerReturn(policy=RETURNS[d.get("return", "decide")], reason="a case"),
        override=OverrideEnd(**rule),
        default_state=wanted,
        **extra,
    )


def relays_of(case, names):
    used: dict[str, tuple[str, str]] = {}
    for name, d in case.get("loads", {}).items():
        own = (
            d["steps"].values()
            if d["kind"] == "stepped"
            else [[d["relay"]]]
            if "relay" in d
            else []
        )
        for relay in [r for step in own for r in step]:
            role = names.give("relay", relay) if d["kind"] == "stepped" else "on"
            used.setdefault(relay, (names.give("load", name), role))
    return tuple(
        RelayOutput(
            id=names.give("relay", name),
            load=used[name][0],
            role=used[name][1],
            active=d.get("active", "high"),
            contact=d.get("contact", "NO").lower(),
        )
        for name, d in case.get("relays", {}).items()
        if name in used
    )


def controls_of(case, names, rules):
    found = []
    for name, d in case.get("buttons", {}).items():
        presses = tuple(
            ButtonPress(press=press, **want)
            for press in ("short", "long", "double")
            if press in d
            for want in rules.wants(d[press])
        )
        found.append(
            Control(
                id=names.give("button", name),
                name=name,
                place="room",
                kind="push_button",
                presses=presses,
            )
        )
    for name, d in case.get("selectors", {}).items():
        positions = tuple(
            SelectorPosition(
                name=position, pattern=format(index + 1, "b"), **several(rules.wants(action))
            )
            for index, (position, action) in enumerate(d["positions"].items())
        )
        found.append(
            Control(
                id=names.give("selector", name),
                name=name,
                place="room",
                kind="selector",
                positions=positions,
                settle_ms=float(d.get("settle_ms", 0)),
            )
        )
    for name, d in case.get("codes", {}).items():
        code = RemoteCode(name="code", code="ab", **several(rules.wants(d["action"])))
        found.append(
            Control(
                id=names.give("code", name),
                name=name,
                place="room",
                kind="remote",
                codes=(code,),
                lockout_ms=float(d.get("lockout_ms", 0)),
            )
        )
    return tuple(found)


def several(wants):
    """The first want of an act, with those besides."""
    if not wants:
        return {}
    first, *others = wants
    return {**first, "also": tuple(ControlAction(**want) for want in others)}


def memory_of(case, names):
    d = case.get("memory", {})
    kinds = {
        "load": "load",
        "mode": "mode",
        "count": "doorway",
        "hand": "load",
        "lock_out": "load",
        "moments": "schedule",
        "group": "group",
    }
    fields = []
    for field in d.get("fields", ()):
        kind, _, name = field.partition(":")
        if kind == "band":
            fields.append(f"band:{retained_band(case, names, name)}")
        else:
            fields.append(f"{FIELDS.get(kind, kind)}:{names.give(kinds[kind], name)}")
    latest = {"latest_s": s(d["latest_ms"])} if "latest_ms" in d else {}
    return Memory(
        fields=tuple(fields),
        quiet_s=s(d.get("quiet_ms") or 0),
        least_s=s(d.get("min_interval_ms", 0)),
        record_bytes=d.get("record_bytes", 64),
        **latest,
    )


def retained_band(case, names, name):
    """The condition or claim whose band goes by a field's name."""
    for condition, d in case.get("conditions", {}).items():
        if d.get("retain") == name:
            return names.give("condition", condition)
    for load, row in case.get("loads", {}).items():
        for rule in row.get("claims", ()):
            if isinstance(rule.get("when"), dict) and rule["when"].get("retain") == name:
                return names.give("claim", (load, rule["id"]))
    return names.give("condition", name)


def groups_of(case, names):
    """The groups of a case."""
    return tuple(
        LoadGroup(
            id=names.give("group", name),
            name=name,
            members=tuple(names.give("load", load) for load in d["members"]),
            stagger_s=s(d.get("stagger_ms", 0)),
        )
        for name, d in case.get("groups", {}).items()
    )


def plan_of(case, names):
    """The plan of a case, with the rules that it was made by."""
    maker = Rules(case, names)
    rules = tuple(
        maker.rule(load, rule)
        for load, row in case.get("loads", {}).items()
        for rule in row.get("claims", ())
    )
    conditions = tuple(
        NamedCondition(id=names.give("condition", name), condition=maker.condition(d))
        for name, d in case.get("conditions", {}).items()
    )
    controls = controls_of(case, names, maker)
    maker.said = [
        maker.wants(message[3]) if message[1] == "page" else []
        for message in case.get("messages", ())
    ]
    boot = case.get("boot", {})
    return (
        Plan(
            format="aldea-plan/2",
            house=House(name="case", time_zone="UTC"),
            scan_period_ms=case["scan_ms"],
            places=(Place(id="room", name="Room", kind="room", level=0, from_m=0.0, to_m=4.0),),
            probes=tuple(probe_of(names, n, d) for n, d in case.get("probes", {}).items()),
            derived=tuple(signal_of(names, n, d) for n, d in case.get("signals", {}).items()),
            loads=tuple(load_of(names, n, d) for n, d in case.get("loads", {}).items()),
            rules=rules,
            conditions=(*conditions, *case.get("_suns", ())),
            modes=tuple(
                Mode(
                    id=names.give("mode", n),
                    name=n,
                    values=tuple(str(v) for v in d["values"]),
                    start=str(d["start"]) if "start" in d else None,
                )
                for n, d in case.get("modes", {}).items()
            ),
            schedules=tuple(
                Schedule(
                    id=names.give("schedule", n),
                    name=n,
                    for_s=s(d.get("for_ms", 1000)),
                    moments=(Moments(at=EVERY_HOUR),),  # room to keep begun ones; none is used
                    when_clock_unknown=d.get("when_clock_unknown", False),
                    catch_up=d.get("catch_up"),
                )
                for n, d in case.get("schedules", {}).items()
            ),
            doorways=tuple(
                Doorway(
                    id=names.give("doorway", n),
                    name=n,
                    outer=names.give("input", d["outer"]),
                    inner=names.give("input", d["inner"]),
                    within_s=min(s(d["within_ms"]), 60.0),
                )
                for n, d in case.get("doorways", {}).items()
            ),
            controls=controls,
            groups=(*maker.groups, *groups_of(case, names)),
            relays=relays_of(case, names),
            exclusive=tuple(
                Exclusive(
                    id=f"group_{i}",
                    relays=tuple(names.give("relay", r) for r in group["relays"]),
                    dead_s=s(group.get("dead_ms", 0)),
                )
                for i, group in enumerate(case.get("exclusive", ()))
            ),
            memory=memory_of(case, names),
            boot=BootRule(
                delay_s=s(boot.get("delay_ms", 0)), stagger_s=s(boot.get("stagger_ms", 0))
            ),
        ),
        maker,
    )


def debounce_of(case, names, input_id):
    """The debounce time of a line, by the input that reads it."""
    kind, _, key = input_id.partition(":")
    line = names.names[key]
    if kind == "control":
        line = {**case.get("buttons", {}), **case.get("selectors", {})}[line]["input"]
    line = line[0] if isinstance(line, tuple) else line
    own = case.get("inputs", {}).get(line, {}).get("debounce_ms")
    of_buttons = [
        d.get("debounce_ms", 0) for d in case.get("buttons", {}).values() if d["input"] == line
    ]
    return own if own is not None else max(of_buttons, default=0)


def compiled_of(case, names):
    """The case compiled; what a plan's limits would not take is set in the tables."""
    plan, rules = plan_of(case, names)
    compiled = compile_plan(plan, every_probe=True)
    tables = compiled.tables
    for row, (_, d) in enumerate(case.get("probes", {}).items()):
        probe = tables.probes[row]
        probe.slope, probe.intercept = d.get("gain", 1), d.get("offset", 0)
        probe.stale_ms = d.get("stale_ms", -1)
    for row, (_, d) in enumerate(case.get("loads", {}).items()):
        load = tables.loads[row]
        load.dead_ms = d.get("dead_ms", 0)
        if d["kind"] == "stepped":
            load.lowest = min(int(n) for n in d["steps"])
        if d["kind"] == "drive":
            load.pulse_ms, load.travel_ms = d["pulse_ms"], d["travel_ms"]
            if "position" in d:
                load.open_at, load.shut_at = d["position"]["open_at"], d["position"]["shut_at"]
        if d["kind"] == "two-way":
            load.travel_ms = d.get("follow_ms", 1000)
    for row, name in enumerate(compiled.line_names):
        if name.relay is not None:
            d = case["relays"][names.names[name.relay]]
            tables.lines[row].boot = d.get("boot_level", 0)
    for row, (_, d) in enumerate(case.get("buttons", {}).items()):
        button = tables.buttons[row]
        button.long_ms = d.get("long_ms", 0)
        button.double_ms = d.get("double_ms", 0)
        button.lockout_ms = d.get("lockout_ms", 0)
    for row, (_, d) in enumerate(case.get("doorways", {}).items()):
        tables.doorways[row].within_ms = d["within_ms"]
    for row, name in enumerate(compiled.input_ids):
        tables.inputs[row].debounce_ms = debounce_of(case, names, name)
    for row, d in enumerate(rules.suns):
        node = tables.conditions[compiled.conditions[f"sun_{row}"]]
        node.a, node.on_ms = row, d.get("offset_ms", 0)
    tables.policy.on = int("memory" in case)
    return compiled, rules
