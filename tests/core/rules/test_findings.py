"""Each check of the rules provoked once, and its fix fixes; the mill house's own findings."""

from datetime import date

import pytest
from tests.core.plans import one_band

from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.sensors.light_resistor.model import LightResistor
from aldea.core.plan.conditions import (
    Always,
    Band,
    Beyond,
    Dark,
    Difference,
    Every,
    InWindow,
    LoadState,
    Rate,
    Tape,
    Unless,
    Within,
)
from aldea.core.plan.defaults import new_load
from aldea.core.plan.document import Load, OnSensorFault, Plan, PowerReturn, Probe, Rule
from aldea.core.plan.edits import put_part
from aldea.core.plan.house_rules import Memory
from aldea.core.plan.invariants import Invariant, NeverTogether
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.schedules import DateSpan, Moments, Schedule, SunEdge, Window
from aldea.core.rules.checks.times import clock_changes
from aldea.core.rules.findings import gathered, load_of, offered_for, rule_findings, unresolved
from aldea.core.wiring.findings import findings
from aldea.demo.mill import mill_plan

SAFE = {"max_on_s": 3600.0}


def a_plan(**changed) -> Plan:
    """One fan on one humidity, that nothing can be said against."""
    plan = one_band(on_threshold=60.0, off_threshold=57.0)
    load = plan.loads[0].model_copy(update=SAFE)
    return plan.model_copy(update={"loads": (load,), **changed})


def a_rule(key: str, condition, priority: str = "demand", want: str = "on", **more) -> Rule:
    return Rule.model_validate(
        {"id": key, "load": "fan", "priority": priority, "want": want, "condition": condition}
        | more
    )


def load(**changed) -> tuple[Load, ...]:
    return (a_plan().loads[0].model_copy(update=changed),)


def band(on: float, off: float, direction: str = "rising", probe: str = "rh") -> Band:
    return Band(probe=probe, direction=direction, on_threshold=on, off_threshold=off)  # type: ignore[arg-type]


def warm(key: str, name: str, rule: Band, **changed) -> tuple[Load, Rule]:
    made = a_plan().loads[0].model_copy(update={"id": key, "name": name, **changed})
    return made, Rule(id=f"{key}_band", load=key, condition=rule)


def two_loads(**changed) -> Plan:
    temp = Probe.model_validate(
        {**a_plan().probes[0].model_dump(), "id": "t", "quantity": "air_temperature",
         "range": {"low": -30, "high": 60}, "calibration": {"expanded_uncertainty": 0.2}}
    )  # fmt: skip
    heater, up = warm("heater", "Heater", band(18, 22, "falling", "t"))
    cooler, down = warm("cooler", "Cooler", band(24, 20, "rising", "t"))
    relays = tuple(RelayOutput(id=f"k{n}", load=key, role="on") for n, key in
                   enumerate(("heater", "cooler"), 1))  # fmt: skip
    facts = {"probes": (temp,), "loads": (heater, cooler), "rules": (up, down), "relays": relays}
    return a_plan(**{**facts, **changed})


NEVER = Invariant(id="never", rule=NeverTogether(loads=("heater", "cooler")), why="one fuse")
APART = Rule(
    id="apart", load="cooler", priority="interlock", want="off", condition=LoadState(load="heater")
)
DARK_SENSOR = Probe.model_validate(
    {**a_plan().probes[0].model_dump(), "id": "lux", "quantity": "illuminance",
     "range": {"low": 0, "high": 2000}, "sensor": LightResistor(own_lamp_lux=15.0).model_dump()}
)  # fmt: skip
TAPE = Probe.model_validate(
    {**a_plan().probes[0].model_dump(), "id": "tape", "quantity": "leak",
     "range": {"low": 0, "high": 4095}}
)  # fmt: skip
NIGHT = Schedule(id="night", name="Night", windows=(Window(start="22:00", end="06:00"),))
FILL = Schedule(id="fill", name="Filling", moments=(Moments(at=("02:30",)),))
NORTH = a_plan().house.model_copy(
    update={"time_zone": "Europe/Oslo", "latitude_deg": 71.0, "longitude_deg": 25.8}
)


def driven() -> Load:
    """The fan as a drive by pulses."""
    made = new_load(load_id="fan", name="Fan", place="room", kind="pulse_drive")
    return made.model_copy(update={**SAFE, "stage": "working", "drive": PulseDrive(tries=3)})


def shut_valve() -> Load:
    """The fan as a valve that rests shut."""
    made = new_load(load_id="fan", name="Fan", place="room", kind="valve")
    return made.model_copy(update={**SAFE, "stage": "working"})


MADRID = a_plan().house.model_copy(update={"time_zone": "Europe/Madrid"})
EVERY_TEN_MINUTES = Schedule(
    id="often",
    name="Often",
    moments=tuple(Moments(at=tuple(f"{h:02d}:{m}0" for m in range(6))) for h in range(12)),
)
CASES = [
    ("reversed-band", a_plan(rules=(a_rule("band", band(50, 60)),))),
    ("close-band", a_plan(rules=(a_rule("band", band(60, 59.5)),))),
    ("against-heater_band-cooler_band", two_loads()),
    (
        "close-row-0",
        a_plan(rules=(a_rule("row", Every(of=(band(60, 59.5), InWindow(schedule="night")))),),
               schedules=(NIGHT,)),
    ),
    ("close-edge-0", a_plan(rules=(a_rule("edge", Beyond(kind="above", probe="rh", value=70,
                                                           hysteresis=0.1)),))),
    ("close-rate-0", a_plan(rules=(a_rule("rate", Rate(probe="rh", over_s=60, on_threshold=0.1,
                                                         off_threshold=0.09)),))),
    (
        "close-apart-0",
        two_loads(rules=(a_rule("apart", Difference(
            probe="t", less="t2", on_threshold=5, off_threshold=5),
                                  load="heater"),),
                  probes=(*two_loads().probes, two_loads().probes[0].model_copy(
                      update={"id": "t2", "name": "T2"}))),
    ),
    (
        "unheard-high",
        a_plan(rules=(a_rule("low", Beyond(kind="above", probe="rh", value=60, hysteresis=3)),
                       a_rule("high", Beyond(kind="above", probe="rh", value=70, hysteresis=3),
                               want="off"))),
    ),
    (
        "unheard-kettle",
        a_plan(rules=(a_rule("quiet", InWindow(schedule="night"), "schedule", "off"),
                       a_rule("kettle", InWindow(schedule="fill"), "schedule")),
               schedules=(NIGHT, FILL.model_copy(update={"for_s": 600.0}))),
    ),
    (
        "ways-beam-wind",
        a_plan(loads=(driven(),),
               rules=(a_rule("beam", Beyond(kind="above", probe="rh", value=70, hysteresis=3,
                                              without_reading="false", unchanged_for_s=60),
                               "interlock", "open"),
                       a_rule("wind", Beyond(kind="below", probe="rh", value=20, hysteresis=3,
                                              without_reading="false", unchanged_for_s=60),
                               "interlock", "shut"))),
    ),
    ("shut-fan", a_plan(loads=(shut_valve(),), rules=(
        a_rule("wet", Beyond(
            kind="above", probe="rh", value=90, hysteresis=3, without_reading="true"),
                "trip", "shut"),))),
    (
        "sun-dusk-sunset",
        a_plan(house=NORTH, schedules=(Schedule(
            id="dusk", name="Dusk", windows=(Window(start=SunEdge(at="sunset"), end="23:00"),)),)),
    ),
    (
        "ranges-one-two",
        a_plan(rules=(a_rule("one", Within(probe="rh", low=40, high=50)),
                       a_rule("two", Within(probe="rh", low=55, high=60)))),
    ),
    (
        "ranges-one-two",
        a_plan(rules=(a_rule("one", Within(probe="rh", low=40, high=56)),
                       a_rule("two", Within(probe="rh", low=55, high=60)))),
    ),
    (
        "unheard-band",
        a_plan(rules=(a_rule("all", Always(), "schedule", "off"), *a_plan().rules)),
    ),
    (
        "both-band-low",
        a_plan(rules=(*a_plan().rules,
                       a_rule("low", Beyond(kind="above", probe="rh", value=70), want="off"))),
    ),
    ("together-never", two_loads(rules=(*two_loads().rules, APART), invariants=(NEVER,))),
    ("basis-band", a_plan(rules=(a_rule("band", band(60, 55), basis="trial"),))),
    ("basis-band", a_plan(rules=(a_rule("band", band(60, 55), basis="estimated"),))),
    ("off-band", a_plan(rules=(a_rule("band", band(60, 55), disabled=True),))),
    ("fallback-fan", a_plan(loads=load(on_sensor_fault=OnSensorFault(after_s=0.0, state="keep")))),
    ("no-end-fan", a_plan(loads=load(max_on_s=None), rules=(a_rule("all", Always()),))),
    ("longest-fan", a_plan(loads=load(max_on_s=None))),
    ("return-fan", a_plan(loads=load(power_return=PowerReturn(policy="last")))),
    (
        "lights-dark",
        a_plan(probes=(DARK_SENSOR,),
               rules=(a_rule("dark", Dark(probe="lux", value=20.0, hysteresis=8.0)),)),
    ),
    ("clock-fill", a_plan(house=MADRID, schedules=(FILL,))),
    (
        "memory-wears",
        a_plan(loads=load(power_return=PowerReturn(policy="last"), starts_per_hour=6)),
    ),
    ("memory-wears", a_plan(schedules=(EVERY_TEN_MINUTES,))),
    (
        "unread-guard",
        a_plan(rules=(*a_plan().rules,
                       a_rule("guard", Beyond(kind="above", probe="rh", value=80),
                               "trip", "off"))),
    ),
    (
        "unread-frost",
        a_plan(rules=(a_rule("frost", Unless(of=Beyond(kind="above", probe="rh", value=20)),
                               "interlock"),)),
    ),
    ("untold-tape", a_plan(probes=(TAPE,), rules=(
        a_rule("tape", Tape(probe="tape", states=("wet",), without_reading="true"), "trip",
                "off"),))),
    ("level-band", a_plan(rules=(a_rule("band", band(60, 55), want="step", level=7),))),
    ("empty-none", a_plan(schedules=(Schedule(id="none", name="None"),))),
]  # fmt: skip


@pytest.mark.parametrize(("key", "plan"), CASES, ids=[f"{n} {key}" for n, (key, _) in
                                                      enumerate(CASES)])  # fmt: skip
def test_each_finding_is_found_and_a_fix_that_is_offered_fixes(key, plan):
    finding = next(finding for finding in rule_findings(plan) if finding.key == key)
    finding = next(f for f in offered_for(plan, load_of(plan, finding)) if f.key == key)
    assert finding.head.endswith(".")
    assert finding.why
    assert finding.fix
    if finding.apply is not None:
        after = finding.apply(plan)
        assert key not in {other.key for other in rule_findings(after)}


def unseen_drive() -> Plan:
    """The mill's skylight without its contacts."""
    plan = mill_plan()
    skylight = plan.load("skylight")
    assert skylight is not None
    assert skylight.drive is not None
    drive = skylight.drive.model_copy(update={"open_contact": None, "shut_contact": None})
    return put_part(plan, "load", skylight.model_copy(update={"drive": drive}))


def two_lamps(first: str, second: str) -> Plan:
    plan = two_loads()
    names = zip(plan.loads, (first, second), strict=True)
    named = tuple(load.model_copy(update={"name": name}) for load, name in names)
    return plan.model_copy(update={"loads": named})


EVERYWHERE = [
    *((key, plan, load_of(plan, next(f for f in rule_findings(plan) if f.key == key)))
      for key, plan in CASES),
    ("network-extractor", mill_plan(), "extractor"),
    ("position-skylight", unseen_drive(), "skylight"),
    ("names-Lamp one-Lamp 1", two_lamps("Lamp one", "Lamp 1"), "heater"),
    ("names-Lamp one-Lamp 1", two_lamps("Lamp one", "Lamp 1"), "cooler"),
    ("twitch-k11", mill_plan(), "skylight"),
]  # fmt: skip


@pytest.mark.parametrize(("key", "plan", "about"), EVERYWHERE,
                         ids=[f"{n} {row[0]}" for n, row in enumerate(EVERYWHERE)])  # fmt: skip
def test_each_finding_is_told_at_rule_on_house_and_before_publishing(key, plan, about):
    """At its load, or of no load alone; the severe ones have to be answered for."""
    finding = next(f for f in offered_for(plan, about) if f.key == key)
    row = next(
        row for row in gathered(plan)
        if row.finding.key.split("-")[0] == key.split("-")[0]
        and row.finding.weight == finding.weight
    )  # fmt: skip
    assert row.head.startswith(row.finding.head)
    told = [f.key for f in (*findings(plan), *rule_findings(plan)) if f.weight == finding.weight]
    assert row.more == sum(k.split("-")[0] == key.split("-")[0] for k in told) - 1
    left = key in {f.key for f in unresolved(plan)}
    assert left == (finding.weight == "severe" and not key.startswith("basis-"))


def test_the_fix_of_a_drive_that_nobody_sees_is_offered_where_its_rules_are():
    plan = unseen_drive()
    finding = next(f for f in offered_for(plan, "skylight") if f.key == "position-skylight")
    assert finding.press == "Add two end contacts"
    assert finding.apply is not None
    after = finding.apply(plan)
    assert "position-skylight" not in {f.key for f in findings(after)}
    assert all(f.key != "position-skylight" for f in offered_for(plan, "extractor"))


def test_names_of_controls_and_places_that_are_alike_are_told_of_no_load_alone():
    plan = a_plan()
    first = plan.places[0].model_copy(update={"id": "far", "name": "Hall one"})
    named = plan.places[0].model_copy(update={"name": "Hall 1"})
    plan = plan.model_copy(update={"places": (named, first)})
    assert [f.key for f in offered_for(plan, None)] == ["names-Hall 1-Hall one"]


def test_nothing_is_said_against_rules_that_are_in_order():
    assert rule_findings(a_plan()) == ()
    split = a_plan(
        rules=(
            a_rule("one", Within(probe="rh", low=40, high=50)),
            a_rule("two", Within(probe="rh", low=50, high=60)),
        )
    )
    assert rule_findings(split) == ()


def test_what_excludes_itself_does_not_contradict():
    night = InWindow(schedule="night")
    rules = (
        a_rule("on", night, "schedule"),
        a_rule("off", Unless(of=night), "schedule", "off"),
    )
    assert rule_findings(a_plan(rules=rules, schedules=(NIGHT,))) == ()
    both = (a_rule("on", night, "schedule"), a_rule("off", night, "schedule", "off"))
    found = {f.key for f in rule_findings(a_plan(rules=both, schedules=(NIGHT,)))}
    assert found == {"both-on-off", "unheard-off"}


def test_the_hour_that_is_skipped_and_the_one_that_comes_twice():
    """Madrid: 02:00 to 03:00 on 29 March 2026 is missing, 02:00 to 03:00 on 25 October is twice."""
    rows = {(day.isoformat(), minute, shift) for day, minute, shift in
            clock_changes("Europe/Madrid")}  # fmt: skip
    assert ("2026-03-29", 120, 60) in rows
    assert ("2026-10-25", 120, -60) in rows
    assert clock_changes("UTC") == ()
    at_three = FILL.model_copy(update={"moments": (Moments(at=("03:00",)),)})
    assert rule_findings(a_plan(house=MADRID, schedules=(at_three,))) == ()


def test_the_clock_change_that_is_named_is_the_one_that_comes():
    plan = a_plan(house=MADRID, schedules=(FILL,))
    for today, told in ((date(2026, 12, 1), "28 Mar 2027"), (date(2027, 3, 29), "31 Oct 2027")):
        found = next(f for f in rule_findings(plan, today) if f.key == "clock-fill")
        assert told in found.head


def test_a_window_that_a_clock_change_leaves_out_is_told_as_left_out():
    """Begun at 02:30, a minute that 28 March 2027 has not, it would begin after its own end."""
    today = date(2026, 12, 1)
    for end, lost in (("03:10", True), ("03:30", True), ("03:40", False), ("02:20", False)):
        window = Window(start="02:30", end=end)
        schedule = Schedule(id="gap", name="Gap", windows=(window,))
        plan = a_plan(house=MADRID, schedules=(schedule,))
        finding = next(f for f in rule_findings(plan, today) if f.key == "clock-gap")
        assert (f"02:30–{end} is left out" in finding.why) == lost
        assert finding.weight == ("warning" if lost else "open")


def test_a_schedule_whose_last_date_is_over_is_never_on_again():
    once = Schedule(
        id="once", name="Once", dates=(DateSpan(start="2020-05-01T08:00", end="2020-05-01T10:00"),)
    )
    plan = a_plan(schedules=(once,))
    assert "over-once" in {f.key for f in rule_findings(plan, date(2026, 12, 1))}
    assert "over-once" not in {f.key for f in rule_findings(plan, date(2020, 5, 1))}
    assert "over-once" in {row.finding.key for row in gathered(plan, date(2026, 12, 1))}


def test_edges_that_readings_can_tell_are_not_called_close():
    wide = Beyond(kind="above", probe="rh", value=70, hysteresis=3)
    assert rule_findings(a_plan(rules=(a_rule("edge", wide),))) == ()


def test_a_marked_trial_is_severe_and_an_assumption_is_not():
    weights = {
        basis: rule_findings(a_plan(rules=(a_rule("band", band(60, 55), basis=basis),)))[0].weight
        for basis in ("trial", "estimated")
    }
    assert weights == {"trial": "severe", "estimated": "open"}


def test_the_mill_house_has_the_findings_that_its_builder_left():
    plan = mill_plan()
    found = {finding.key: finding for finding in rule_findings(plan)}
    assert {"close-drying_band", "longest-dehumidifier", "together-never_both"} <= set(found)
    assert not [f for f in found.values() if f.weight == "severe"]
    assert load_of(plan, found["close-drying_band"]) == "dehumidifier"
    assert load_of(plan, found["longest-dehumidifier"]) == "dehumidifier"


def test_a_memory_is_told_what_it_bears_by_hand():
    """100,000 writes in two slots over ten years: 200,000 / 3,652.5 = 54.76 a day."""

    def told(of: dict[str, float] | None = None, **memory: object) -> list[str]:
        kept = load(power_return=PowerReturn(policy="last"), **(of or {}))
        plan = a_plan(loads=kept, memory=Memory.model_validate(memory))
        return [f.head for f in rule_findings(plan) if f.key == "memory-wears"]

    assert told(of={"starts_per_hour": 1}) == [], "48 a day"
    assert "up to 96 times a day" in told(of={"starts_per_hour": 2})[0]
    assert "at every change" in told()[0]
    assert told(least_s=1578.0) == [], "54.75 a day"
    assert "up to 54.8 times" in told(least_s=1577.0)[0]
    assert "up to 60 times" in told(of={"min_on_s": 1800.0, "min_off_s": 1080.0})[0]
    assert told(quiet_s=1800.0) == []
    assert told(quiet_s=1800.0, latest_s=60.0) != []
    assert told(fields=()) == []
