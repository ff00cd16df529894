"""Starting points: the usual rules of a load of its kind, put in at once, each figure assumed.

What is assumed is marked so on its rule, until a person or a log bears it out.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from aldea.core.base.errors import InputError
from aldea.core.base.quantities import QUANTITIES, Quantity
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.plan.conditions import (
    Band,
    Beyond,
    Dark,
    Every,
    Gas,
    InWindow,
    Lasting,
    Position,
    Presence,
    Some,
    Tape,
)
from aldea.core.plan.document import Load, OnSensorFault, Plan, PowerReturn, Probe, Rule, Wanted
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.plan.house_rules import OverrideEnd
from aldea.core.plan.rule_edits import fresh_rule_id, put_rule
from aldea.core.plan.schedules import Moments, Schedule, SunEdge, Window
from aldea.core.plan.without_reading import with_usual_result

HOUR_S = 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class StartingPoint:
    """The usual rules of one kind of load: what it is called, what it fits, what it puts in."""

    key: str
    name: str
    says: str
    fits: Callable[[Load], bool]
    put: Callable[[Plan, Load], Plan]


def starting_points(load: Load) -> tuple[StartingPoint, ...]:
    """Those that fit a load, the most likely first."""
    return tuple(point for point in POINTS if point.fits(load))


def with_starting_point(plan: Plan, load_id: str, key: str) -> Plan:
    """The plan with a starting point put in; `InputError` where it lacks a probe."""
    load = plan.load(load_id)
    point = next((p for p in POINTS if p.key == key), None)
    if load is None or point is None or not point.fits(load):
        raise InputError(
            "starting point", got=repr(key)[:80], allowed="one that is offered for this load"
        )
    return point.put(plan, load)


def _probe(plan: Plan, load: Load, quantity: Quantity) -> Probe:
    """The probe of a quantity in the load's own place, else the first of the house."""
    fits = [p for p in plan.probes if p.quantity == quantity and p.stage == "working"]
    here = [probe for probe in fits if probe.place == load.place]
    if not fits:
        raise InputError(
            "starting point",
            got=f"no working probe of {QUANTITIES[quantity].name}",
            allowed="a house that has one",
            fix=f"Put a probe of {QUANTITIES[quantity].name} in at Lay out, and set it to work.",
        )
    return (here or fits)[0]


def _rule(plan: Plan, load: Load, priority: str, condition: Any, note: str, **more: Any) -> Plan:
    rule = Rule.model_validate(
        {
            "id": fresh_rule_id(plan, load.id, priority),
            "load": load.id,
            "priority": priority,
            "condition": condition,
            "want": "off",
            "basis": "estimated",
            "note": note,
            **more,
        }
    )
    return put_rule(plan, with_usual_result(load, rule))


def _lost(plan: Plan, load: Load, probe: Probe, after_s: float, want: str, **more: Any) -> Plan:
    return _rule(
        plan, load, "fault", None, "how long a reading may be missing", probe=probe.id,
        after_s=after_s, want=want, **more,
    )  # fmt: skip


def _standing(plan: Plan, load: Load, **facts: Any) -> Plan:
    return put_part(plan, "load", load.model_copy(update={"stage": "working", **facts}))


def _drier(plan: Plan, load: Load) -> Plan:
    rh = _probe(plan, load, "relative_humidity")
    plan = _standing(
        plan, load, min_on_s=300.0, min_off_s=300.0, max_on_s=12 * HOUR_S,
        max_on_rest_s=1800.0,
        on_sensor_fault=OnSensorFault(after_s=900.0, state="off", each="rule"),
        power_return=PowerReturn(policy="follow_rules", delay_s=60.0),
    )  # fmt: skip
    band = Band(probe=rh.id, direction="rising", on_threshold=62.0, off_threshold=56.0)
    return _rule(plan, load, "demand", band, "thresholds of a lived-in stone house", want="on")


def _heater(plan: Plan, load: Load) -> Plan:
    air = _probe(plan, load, "air_temperature")
    plan = _standing(
        plan, load, min_off_s=60.0, max_on_s=3 * HOUR_S, max_on_rest_s=600.0,
        power_return=PowerReturn(policy="off"), override=OverrideEnd(for_s=1.5 * HOUR_S),
        on_sensor_fault=OnSensorFault(after_s=60.0, state="off", each="rule"),
    )  # fmt: skip
    hot = Beyond(kind="above", probe=air.id, value=28.0, hysteresis=1.0)
    plan = _rule(plan, load, "trip", hot, "above any wanted room temperature")
    plan = _lost(plan, load, air, 60.0, "off")
    band = Band(probe=air.id, direction="falling", on_threshold=18.0, off_threshold=19.0)
    return _rule(plan, load, "demand", band, "a room in which people sit", want="on")


def _steps(plan: Plan, load: Load) -> Plan:
    rh = _probe(plan, load, "relative_humidity")
    most = len(load.stepped.steps) if load.stepped else 1
    plan = _standing(
        plan, load, min_on_s=60.0, override=OverrideEnd(for_s=HOUR_S),
        on_sensor_fault=OnSensorFault(after_s=900.0, state="off", each="rule"),
        power_return=PowerReturn(policy="follow_rules"),
    )  # fmt: skip
    plan = _lost(plan, load, rh, 900.0, "step", level=1)
    steam = Lasting(of=Beyond(kind="above", probe=rh.id, value=72.0, hysteresis=4.0), on_s=20.0)
    plan = _rule(
        plan, load, "demand", steam, "how high a shower or a wash drives it", want="step",
        level=min(3, most),
    )  # fmt: skip
    band = Band(
        probe=rh.id, direction="rising", on_threshold=66.0, off_threshold=62.0, delay_on_s=20.0
    )
    return _rule(plan, load, "demand", band, "damp that stays", want="step", level=1)


def _stair(plan: Plan, load: Load) -> Plan:
    seen, light = _probe(plan, load, "presence"), _probe(plan, load, "illuminance")
    plan = _standing(
        plan, load, min_on_s=20.0, max_on_s=HOUR_S, override=OverrideEnd(ends_by="agreement"),
        power_return=PowerReturn(policy="follow_rules"),
        on_sensor_fault=OnSensorFault(after_s=300.0, state="off", each="rule"),
    )  # fmt: skip
    dark = Dark(probe=light.id, value=20.0, hysteresis=10.0, lamp=load.id)
    both = Every(of=(Presence(probe=seen.id, hold_s=120.0), dark))
    return _rule(plan, load, "demand", both, "two minutes to climb, 20 lx to see", want="on")


def _leak(plan: Plan, load: Load) -> Plan:
    _probe(plan, load, "leak")
    tapes = [p for p in plan.probes if p.quantity == "leak" and p.stage == "working"]
    here = [probe for probe in tapes if probe.place == load.place] or tapes
    plan = _standing(
        plan, load, max_on_s=None, default_state=Wanted(want="open"),
        power_return=PowerReturn(policy="off", delay_s=60.0),
        on_sensor_fault=OnSensorFault(after_s=0.0, state="keep"),
    )  # fmt: skip
    wet = tuple(Tape(probe=tape.id, states=("wet", "short")) for tape in here)
    condition = wet[0] if len(wet) == 1 else Some(of=wet)
    plan = _rule(plan, load, "trip", condition, "which tapes lie under this pipe", want="shut")
    for tape in here:
        plan = _lost(plan, load, tape, 300.0, "shut")
    return plan


def _drive(plan: Plan, load: Load) -> Plan:
    plan = _standing(
        plan, load, power_return=PowerReturn(policy="off"), max_on_s=8 * HOUR_S,
        override=OverrideEnd(for_s=2 * HOUR_S),
    )  # fmt: skip
    left = Lasting(of=Position(load=load.id, state="open"), on_s=2 * HOUR_S)
    plan = _rule(plan, load, "interlock", left, "how long it may be left open", want="shut")
    plan, night = _schedule(
        plan,
        Schedule(id="night", name="Night", windows=(Window(start="22:00", end="07:00"),)),
    )
    return _rule(
        plan, load, "schedule", InWindow(schedule=night), "when the house sleeps", want="shut"
    )


def _dusk(plan: Plan, load: Load) -> Plan:
    plan = _standing(
        plan, load, max_on_s=16 * HOUR_S, power_return=PowerReturn(policy="follow_rules"),
        override=OverrideEnd(ends_by="agreement"),
    )  # fmt: skip
    evening = Schedule(
        id="evening",
        name="Evening",
        windows=(Window(start=SunEdge(at="sunset"), end="23:00"),),
    )
    plan, key = _schedule(plan, evening)
    return _rule(
        plan, load, "schedule", InWindow(schedule=key), "from sunset until people sleep", want="on"
    )


def _minute(plan: Plan, load: Load) -> Plan:
    plan = _standing(
        plan, load, max_on_s=900.0, max_on_rest_s=60.0, power_return=PowerReturn(policy="off"),
        override=OverrideEnd(for_s=600.0),
    )  # fmt: skip
    morning = Schedule(
        id="at_the_minute", name="At the minute", moments=(Moments(at=("07:00",)),), for_s=600.0
    )
    plan, key = _schedule(plan, morning)
    return _rule(
        plan, load, "schedule", InWindow(schedule=key), "which minute, and for how long", want="on"
    )


def _airing(plan: Plan, load: Load) -> Plan:
    hint = _probe(plan, load, "gas_hint")
    if not isinstance(hint.sensor, GasSensor) or hint.sensor.clean_air_v is None:
        raise InputError(
            "starting point",
            got=f"{hint.name} without volts in clean air",
            allowed="a gas sensor whose clean air was recorded",
            fix="Record its clean air at Calibrate, Gas.",
        )
    plan = _standing(
        plan, load, max_on_s=2 * HOUR_S, max_on_rest_s=300.0,
        power_return=PowerReturn(policy="follow_rules"),
        on_sensor_fault=OnSensorFault(after_s=300.0, state="off", each="rule"),
    )  # fmt: skip
    want: dict[str, Any] = {"want": "on"}
    if load.stepped is not None:
        want = {"want": "step", "level": len(load.stepped.steps)}
    return _rule(
        plan, load, "demand", Lasting(of=Gas(probe=hint.id), off_s=600.0),
        "ten minutes after the hint; no safety device", **want,
    )  # fmt: skip


def _schedule(plan: Plan, schedule: Schedule) -> tuple[Plan, str]:
    """The plan with a schedule under an id and a name that are not taken; and the id."""
    key = fresh_id(schedule.id, {one.id for one in plan.schedules})
    number = key.removeprefix(schedule.id).removeprefix("_")
    name = f"{schedule.name} {number}" if number else schedule.name
    copy = schedule.model_copy(update={"id": key, "name": name})
    return plan.model_copy(update={"schedules": (*plan.schedules, copy)}), key


def _steady(load: Load) -> bool:
    return load.kind in ("relay", "outlet", "two_way")


def _blows(load: Load) -> bool:
    return load.load_class in ("air", "motion")


POINTS: tuple[StartingPoint, ...] = (
    StartingPoint(
        key="steps", name="A fan in steps", says="step 1 at 66 %RH, step 3 at 72",
        fits=lambda load: load.kind == "stepped", put=_steps,
    ),
    StartingPoint(
        key="leak", name="A valve at a leak", says="open at rest, shut by a wet tape until reset",
        fits=lambda load: load.kind == "valve", put=_leak,
    ),
    StartingPoint(
        key="drive", name="A drive", says="shut at night, never left open",
        fits=lambda load: load.kind == "pulse_drive", put=_drive,
    ),
    StartingPoint(
        key="drier", name="A dehumidifier", says="on at 62 %RH, off at 56",
        fits=lambda load: _steady(load) and load.load_class in ("water", "air"), put=_drier,
    ),
    StartingPoint(
        key="heater", name="A heater", says="on at 18 °C, off at 19, never above 28",
        fits=lambda load: _steady(load) and load.load_class == "heat", put=_heater,
    ),
    StartingPoint(
        key="stair", name="A stair light", says="two minutes while somebody is there in the dark",
        fits=lambda load: _steady(load) and load.load_class == "light", put=_stair,
    ),
    StartingPoint(
        key="dusk", name="A lamp at dusk", says="from sunset to 23:00",
        fits=lambda load: _steady(load) and load.load_class == "light", put=_dusk,
    ),
    StartingPoint(
        key="minute", name="At a minute, for a time", says="at 07:00 for 10 min",
        fits=_steady, put=_minute,
    ),
    StartingPoint(
        key="airing", name="Airing on a gas hint", says="while it smells, and 10 min after",
        fits=lambda load: load.kind == "stepped" or (load.kind == "relay" and _blows(load)),
        put=_airing,
    ),
)  # fmt: skip
