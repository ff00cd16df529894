"""The rules of Molino Alto: who asks for what of each of its ten loads."""

from typing import Any

from aldea.core.plan.conditions import (
    Always,
    Band,
    Beyond,
    ClockKnown,
    Contact,
    CountAbove,
    Dark,
    Difference,
    Edge,
    Every,
    Gas,
    InMode,
    InWindow,
    Lasting,
    Limit,
    LoadState,
    Named,
    NamedCondition,
    Position,
    Presence,
    QualityIs,
    Rate,
    Some,
    Sun,
    Tape,
    Unless,
    Within,
)
from aldea.core.plan.derived import Derived, LessThan, MoistAir, Statistic
from aldea.core.plan.document import OnSensorFault, Plan, PowerReturn, Rule
from aldea.core.plan.house_rules import Doorway, Mode, OverrideEnd
from aldea.core.plan.schedules import Day, Moments, Schedule, SunEdge, Window

WEEK: tuple[Day, ...] = ("mon", "tue", "wed", "thu", "sun")
STUDIO_DAYS: tuple[Day, ...] = ("mon", "tue", "wed", "thu", "fri")

DERIVED = (
    Derived(
        id="drying_g",
        name="Drying room vapour",
        made=MoistAir(kind="absolute_humidity", temperature="drying_temp", humidity="drying_rh"),
    ),
    Derived(
        id="courtyard_g",
        name="Courtyard vapour",
        made=MoistAir(
            kind="absolute_humidity", temperature="courtyard_temp", humidity="courtyard_rh"
        ),
    ),
    Derived(
        id="over_courtyard",
        name="Vapour over the courtyard",
        made=LessThan(probe="drying_g", less="courtyard_g"),
    ),
    Derived(
        id="rack_mean",
        name="Rack, mean of three",
        made=Statistic(kind="mean", of=("rack_top", "rack_middle", "rack_foot")),
    ),
)
SCHEDULES = (
    Schedule(
        id="night_block",
        name="Night block",
        windows=(
            Window(days=WEEK, start="22:30", end="07:00"),
            Window(days=("fri", "sat"), start="23:30", end="07:00"),
        ),
    ),
    Schedule(
        id="studio_open",
        name="Studio open",
        windows=(
            Window(days=STUDIO_DAYS, start="08:00", end="19:00"),
            Window(days=("sat",), start="09:00", end="13:00"),
        ),
        except_dates=("2025-12-08",),
    ),
    Schedule(
        id="washing_hours",
        name="Washing hours",
        windows=(Window(start="08:00", end="21:30"),),
    ),
    Schedule(
        id="dark_hours",
        name="Dark hours",
        windows=(
            Window(
                start=SunEdge(at="sunset", offset_min=-20.0),
                end=SunEdge(at="sunrise", offset_min=25.0),
            ),
        ),
        when_clock_unknown=True,
    ),
    Schedule(
        id="filling",
        name="Filling the cistern",
        moments=(Moments(at=("05:10",)),),
        for_s=1200.0,
    ),
    Schedule(
        id="pump_minutes",
        name="Booster pump",
        moments=(Moments(at=("06:30", "10:30", "18:45")),),
        for_s=600.0,
    ),
    Schedule(
        id="glue_pot",
        name="Glue pot",
        moments=(Moments(days=STUDIO_DAYS, at=("08:15",)),),
        for_s=2400.0,
    ),
)
# What a guard counts as while its probe gives no reading, and what moves or heats.
STOPS_BLIND: dict[str, Any] = {"without_reading": "true", "unchanged_for_s": 900.0}
RUNS_NOTHING_BLIND: dict[str, Any] = {"without_reading": "false", "unchanged_for_s": 60.0}
MODES = (
    Mode(id="house_mode", name="House", values=("lived in", "away")),
    Mode(id="drying_mode", name="Drying", values=("automatic", "by hand")),
)
CONDITIONS = (
    NamedCondition(
        id="washing", name="Washing hours", condition=InWindow(schedule="washing_hours")
    ),
    NamedCondition(
        id="away", name="Nobody lives here", condition=InMode(mode="house_mode", value="away")
    ),
    NamedCondition(
        id="water",
        name="Water on a tape",
        condition=Some(
            of=(
                Tape(probe="manifold_tape", states=("wet", "short"), **STOPS_BLIND),
                Tape(probe="plinth_tape", states=("wet", "short"), **STOPS_BLIND),
                Tape(probe="drain_tape", states=("wet", "short"), **STOPS_BLIND),
            )
        ),
    ),
)
DOORWAYS = (
    Doorway(
        id="hall_door",
        name="Hall door",
        outer="door_outer",
        inner="door_inner",
        reset_at=("04:00",),
    ),
)


def _rule(
    key: str, load: str, priority: str, condition: Any, want: str = "off", **more: Any
) -> Rule:
    return Rule.model_validate(
        {
            "id": key,
            "load": load,
            "priority": priority,
            "condition": condition,
            "want": want,
            **more,
        }
    )


def _lost(key: str, load: str, probe: str, after_s: float, want: str, **more: Any) -> Rule:
    return Rule.model_validate(
        {
            "id": key,
            "load": load,
            "priority": "fault",
            "probe": probe,
            "after_s": after_s,
            "want": want,
            **more,
        }
    )


RULES = (
    # the extractor
    _rule(
        "ex_hot",
        "extractor",
        "trip",
        Beyond(kind="above", probe="rack_top", value=55.0, hysteresis=5, **STOPS_BLIND),
    ),
    _rule("ex_away", "extractor", "interlock", Named(condition="away")),
    _lost("ex_lost", "extractor", "drying_rh", 900.0, "step", level=1),
    _rule("ex_night", "extractor", "schedule", InWindow(schedule="night_block")),
    _rule("ex_by_hand", "extractor", "schedule", InMode(mode="drying_mode", value="by hand")),
    _rule(
        "ex_steam",
        "extractor",
        "demand",
        Every(
            of=(
                Lasting(
                    of=Beyond(kind="above", probe="drying_rh", value=72.0, hysteresis=4.0),
                    on_s=20.0,
                ),
                Named(condition="washing"),
            )
        ),
        "step",
        level=3,
    ),
    _rule(
        "ex_damp",
        "extractor",
        "demand",
        Band(
            probe="drying_rh",
            direction="rising",
            on_threshold=66.0,
            off_threshold=62.0,
            delay_on_s=20.0,
            delay_off_s=20.0,
            limit=Limit(value=70.0, why="plaster mould"),
        ),
        "step",
        level=1,
    ),
    _rule(
        "ex_drier",
        "extractor",
        "demand",
        Beyond(kind="above", probe="over_courtyard", value=7.0, hysteresis=2.0),
        "step",
        level=2,
        disabled=True,
    ),
    # the cellar's cooler
    _rule("cc_heater", "cellar_cooler", "interlock", LoadState(load="panel_heater")),
    _lost("cc_lost", "cellar_cooler", "cellar_temp", 900.0, "off"),
    _rule(
        "cc_warm",
        "cellar_cooler",
        "demand",
        Band(
            probe="cellar_temp",
            direction="rising",
            on_threshold=11.6,
            off_threshold=10.6,
            delay_on_s=60.0,
            limit=Limit(value=13.0, why="the varnish"),
        ),
        "on",
    ),
    # the valve of the cistern
    _rule("iv_water", "inlet_valve", "trip", Named(condition="water"), "shut"),
    _rule("iv_away", "inlet_valve", "interlock", Named(condition="away"), "shut"),
    _rule(
        "iv_lost",
        "inlet_valve",
        "fault",
        Lasting(
            of=QualityIs(
                probe="manifold_tape", among=("range", "jump", "stuck", "stale", "warming")
            ),
            on_s=300.0,
        ),
        "shut",
    ),
    _rule("iv_fill", "inlet_valve", "schedule", InWindow(schedule="filling"), "open"),
    # the pump
    _rule(
        "bp_damp",
        "booster_pump",
        "interlock",
        Tape(probe="manifold_tape", states=("damp", "wet", "short"), **STOPS_BLIND),
    ),
    _rule("bp_times", "booster_pump", "schedule", InWindow(schedule="pump_minutes"), "on"),
    # the stair's lights
    _rule(
        "nl_stair",
        "night_lights",
        "demand",
        Every(
            of=(
                Presence(probe="stair_radar", hold_s=120.0),
                Dark(
                    probe="stair_light",
                    value=20.0,
                    hysteresis=8.0,
                    lamp="night_lights",
                    lamp_lx=12.0,
                ),
            )
        ),
        "on",
    ),
    _rule(
        "nl_door",
        "night_lights",
        "demand",
        Every(
            of=(
                Edge(of=CountAbove(doorway="hall_door", value=0), for_s=180.0),
                InWindow(schedule="dark_hours"),
            )
        ),
        "on",
    ),
    # the studio's heater
    _rule(
        "ph_hot",
        "panel_heater",
        "trip",
        Beyond(kind="above", probe="studio_air", value=28.0, hysteresis=1.0, **STOPS_BLIND),
    ),
    _rule("ph_solvent", "panel_heater", "interlock", Gas(probe="studio_gas", **STOPS_BLIND)),
    _rule("ph_pump", "panel_heater", "interlock", LoadState(load="booster_pump")),
    _rule(
        "ph_frost",
        "panel_heater",
        "interlock",
        Beyond(kind="below", probe="studio_temp", value=5.0, hysteresis=1.5, **RUNS_NOTHING_BLIND),
        "on",
    ),
    _lost("ph_lost", "panel_heater", "studio_temp", 30.0, "off"),
    _rule("ph_closed", "panel_heater", "schedule", Unless(of=InWindow(schedule="studio_open"))),
    _rule(
        "ph_cold",
        "panel_heater",
        "demand",
        Band(
            probe="studio_temp",
            direction="falling",
            on_threshold=17.6,
            off_threshold=18.4,
            limit=Limit(value=15.0, why="ink that does not dry"),
        ),
        "on",
    ),
    # the skylight of the loft
    _rule(
        "sk_cold",
        "skylight",
        "interlock",
        Beyond(
            kind="below", probe="courtyard_temp", value=4.0, hysteresis=2.0, **RUNS_NOTHING_BLIND
        ),
        "shut",
    ),
    _rule(
        "sk_long",
        "skylight",
        "interlock",
        Lasting(of=Position(load="skylight", state="open"), on_s=14_400.0),
        "shut",
    ),
    _lost("sk_lost", "skylight", "courtyard_temp", 1800.0, "shut"),
    _rule("sk_dark", "skylight", "schedule", Sun(state="down", offset_min=-30.0), "shut"),
    _rule(
        "sk_heat",
        "skylight",
        "demand",
        Difference(probe="rack_top", less="courtyard_temp", on_threshold=14.0, off_threshold=9.0),
        "open",
    ),
    # the store's fan
    _lost("sf_lost", "store_fan", "cellar_rh", 900.0, "off"),
    _rule(
        "sf_quick",
        "store_fan",
        "demand",
        Every(
            of=(
                Rate(probe="cellar_rh", over_s=900.0, on_threshold=0.15, off_threshold=0.02),
                Within(probe="cellar_temp", low=4.0, high=18.0),
            )
        ),
        "on",
    ),
    _rule(
        "sf_damp",
        "store_fan",
        "demand",
        Band(
            probe="cellar_rh",
            direction="rising",
            on_threshold=76.0,
            off_threshold=70.0,
            limit=Limit(value=82.0, why="paper that swells"),
        ),
        "on",
    ),
    _rule(
        "sf_door",
        "store_fan",
        "demand",
        Edge(of=Contact(probe="door_outer"), for_s=600.0),
        "on",
        disabled=True,
    ),
    # the outlet of the bench
    _rule("bo_away", "bench_outlet", "interlock", Named(condition="away")),
    _rule("bo_glue", "bench_outlet", "schedule", InWindow(schedule="glue_pot"), "on"),
    _rule("bo_closed", "bench_outlet", "schedule", Unless(of=InWindow(schedule="studio_open"))),
    _rule(
        "bo_warm",
        "bench_outlet",
        "demand",
        Every(
            of=(
                Always(),
                ClockKnown(),
                Beyond(kind="below", probe="rack_mean", value=18.0, hysteresis=1.0),
                Presence(probe="door_inner", hold_s=1800.0),
            )
        ),
        "on",
    ),
)
# What stands on each load itself: shortest and longest times, its hands, its return.
STANDING: dict[str, dict[str, Any]] = {
    "extractor": {"override": OverrideEnd(for_s=3600.0), "min_on_s": 60.0},
    "cellar_cooler": {
        "min_on_s": 180.0,
        "min_off_s": 300.0,
        "max_on_s": 14_400.0,
        "max_on_rest_s": 600.0,
        "starts_per_hour": 6,
        "power_return": PowerReturn(policy="off", delay_s=180.0),
    },
    "inlet_valve": {
        "max_on_s": 3600.0,
        "on_sensor_fault": OnSensorFault(after_s=0.0, state="keep"),
        "power_return": PowerReturn(policy="off"),
    },
    "booster_pump": {
        "min_off_s": 60.0,
        "max_on_s": 900.0,
        "max_on_rest_s": 300.0,
        "starts_per_hour": 4,
        "on_sensor_fault": OnSensorFault(after_s=0.0, state="keep"),
    },
    "night_lights": {"override": OverrideEnd(ends_by="agreement"), "min_on_s": 20.0},
    "panel_heater": {
        "override": OverrideEnd(for_s=5400.0),
        "min_off_s": 60.0,
        "max_on_s": 10_800.0,
        "max_on_rest_s": 600.0,
    },
    "skylight": {"max_on_s": 14_400.0},
    "store_fan": {"min_on_s": 60.0},
    "bench_outlet": {
        "override": OverrideEnd(ends_by="agreement"),
        "max_on_s": 14_400.0,
        "max_on_rest_s": 60.0,
    },
}


def ruled(plan: Plan) -> Plan:
    """The plan with its rules; the dehumidifier's band stands first, as it always did."""
    loads = tuple(load.model_copy(update=STANDING.get(load.id, {})) for load in plan.loads)
    copies = {copy.id for copy in plan.copies}
    probes = tuple(
        probe.model_copy(update={"stage": "planned"}) if f"probe:{probe.id}" in copies else probe
        for probe in plan.probes
    )
    return plan.model_copy(
        update={
            "loads": loads,
            "probes": probes,
            "rules": (*plan.rules, *RULES),
            "derived": DERIVED,
            "schedules": SCHEDULES,
            "modes": MODES,
            "conditions": CONDITIONS,
            "doorways": DOORWAYS,
        }
    )
