"""Random plans with rules of every kind, random people, contacts, clocks and cuts."""

import math
from functools import cache
from typing import Any, Literal

import numpy as np
from hypothesis import strategies as st
from tests.core.plans import one_band, returning

from aldea.core.devices.loads.indicator.model import Pattern
from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.loads.stepped_fan.model import FanStep, SteppedFan
from aldea.core.devices.loads.two_way.model import TwoWay
from aldea.core.devices.loads.valve.model import Valve
from aldea.core.engine.inputs import Inputs, Message, PowerCut
from aldea.core.plan import conditions as con
from aldea.core.plan.controls import (
    ButtonPress,
    Control,
    ControlAction,
    LoadGroup,
    OnlyIn,
    SelectorPosition,
)
from aldea.core.plan.derived import Derived, Statistic
from aldea.core.plan.document import Averaging, Jump, OnSensorFault, Plan, Rule, Wanted
from aldea.core.plan.house_rules import (
    BootRule,
    Doorway,
    Exclusive,
    Memory,
    Mode,
    ModeChange,
    OverrideEnd,
)
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.schedules import Moments, Schedule, Window
from aldea.core.readings.samples import Samples

START_MS = 1_762_992_000_000  # midnight UTC
LENGTHS = st.sampled_from([0.0, 1.0, 3.0, 20.0, 75.0])
SOME = st.sampled_from([1.0, 4.0, 15.0, 60.0])
FAN = SteppedFan(
    steps=(
        FanStep(name="1", closed=("a",)),
        FanStep(name="2", closed=("b",)),
        FanStep(name="3", closed=("a", "b")),
    ),
    never_together=(),
    dead_time_s=2.0,
)
PRESSES: tuple[Literal["short", "long", "double"], ...] = ("short", "long", "double")
KINDS: dict[str, dict[str, Any]] = {
    "relay": {},
    "stepped": {"stepped": FAN},
    "valve": {"valve": Valve(at_rest="open")},
    "two_way": {"two_way": TwoWay(sense="sensed", settle_s=1.0, follow_s=4.0)},
    "pulse_drive": {
        "drive": PulseDrive(
            travel_s=9.0, pulse_s=2.0, open_contact="up", shut_contact="down", tries=2
        )
    },
    "indicator": {"pattern": Pattern(on_s=2.0, off_s=3.0, others=((1.0, 1.0, 4.0, 2.0),))},
}
WANTS: dict[str, list[Any]] = {
    "relay": ["on", "off"],
    "stepped": ["on", "off", ("step", 2), ("step", 3)],
    "valve": ["open", "shut"],
    "two_way": ["on", "off"],
    "pulse_drive": ["open", "shut", "off"],
    "indicator": ["on", "off", ("pattern", 1), ("pattern", 2)],
}


@cache  # a strategy that is made anew works out anew what each condition can be made of
def simple():
    """A condition that is made of no other."""
    value = st.integers(35, 75).map(float)
    probe = st.sampled_from(["p0", "p1", "mean", "most"])
    unread = {
        "without_reading": st.sampled_from(["keep", "keep", "true", "false"]),
        "unchanged_for_s": LENGTHS,
    }
    return st.one_of(
        st.builds(con.Beyond, kind=st.sampled_from(["above", "below"]), probe=probe, value=value,
                  hysteresis=st.sampled_from([0.0, 4.0]), **unread),
        st.builds(con.Within, probe=probe, low=st.just(40.0), high=st.sampled_from([None, 60.0]),
                  **unread),
        st.builds(con.Difference, probe=st.just("p0"), less=st.just("p1"),
                  on_threshold=st.just(5.0), off_threshold=st.sampled_from([0.0, 8.0]), **unread),
        st.builds(con.Rate, probe=st.just("p0"), over_s=st.just(20.0), on_threshold=st.just(10.0),
                  off_threshold=st.just(2.0), **unread),
        st.builds(con.Contact, probe=st.sampled_from(["door", "sensed"]), closed=st.booleans()),
        st.builds(con.Presence, probe=st.just("door"), hold_s=LENGTHS),
        st.builds(con.InWindow, schedule=st.sampled_from(["s0", "s1"])),
        st.builds(con.InMode, mode=st.just("m"), value=st.sampled_from(["home", "away"])),
        st.builds(con.LoadState, load=st.sampled_from(["l0", "l1"]),
                  state=st.sampled_from(["off", "any_on", "missed"])),
        st.builds(con.QualityIs, probe=st.just("p1"), among=st.just(("stale", "range", "jump"))),
        st.builds(con.CountAbove, doorway=st.just("way"), value=st.integers(0, 1)),
        st.builds(con.Dark, probe=st.just("p0"), value=value, hysteresis=st.just(3.0),
                  lamp=st.just("l0"), lamp_lx=st.just(6.0)),
        st.just(con.ClockKnown()),
        st.just(con.Always()),
    )  # fmt: skip


@cache
def conditions():
    return st.recursive(
        simple(),
        lambda inner: st.one_of(
            st.builds(con.Lasting, of=inner, on_s=LENGTHS, off_s=LENGTHS),
            st.builds(con.Edge, of=inner, for_s=SOME),
            st.builds(con.Unless, of=inner),
            st.builds(con.Every, of=st.tuples(inner, inner)),
            st.builds(con.Some, of=st.tuples(inner, inner)),
        ),
        max_leaves=4,
    )


def reads_no_mode(condition):
    return not isinstance(condition, con.InMode)


@cache
def mode_changes():
    """What sets the mode by itself: nothing, the schedules, a condition with a name."""
    value = st.sampled_from(["home", "away"])
    return st.lists(
        st.builds(
            ModeChange,
            when=st.sampled_from(
                [con.InWindow(schedule="s0"), con.InWindow(schedule="s1"), con.Named(condition="w")]
            ),
            value=value,
            end_value=st.one_of(st.none(), value),
            after_power_cut=st.sampled_from(["keep", "set"]),
        ),
        max_size=3,
    ).map(tuple)


@st.composite
def rules(draw, load, index):
    want = draw(st.sampled_from([*WANTS[load.kind], "pulse"]))
    how: dict[str, Any] = {"want": want}
    if isinstance(want, tuple):
        how = {"want": want[0], "level": want[1]}
    if want == "pulse":
        how["pulse_s"] = draw(SOME)
    priority = draw(st.sampled_from(["trip", "interlock", "fault", "schedule", "demand", "demand"]))
    name = f"{load.id}c{index}"
    if priority == "fault" and draw(st.booleans()):
        return Rule(
            id=name, load=load.id, priority=priority, probe="p0", after_s=draw(LENGTHS), **how
        )
    return Rule(id=name, load=load.id, priority=priority, condition=draw(conditions()), **how)


@st.composite
def loads(draw, index):
    base = one_band().loads[0]
    kind = draw(st.sampled_from(sorted(KINDS)))
    maybe = draw(st.sampled_from([None, 5.0, 40.0]))
    return base.model_copy(
        update={
            "id": f"l{index}",
            "kind": kind,
            **KINDS[kind],
            "min_on_s": draw(LENGTHS),
            "min_off_s": draw(LENGTHS),
            "max_on_s": maybe,
            "max_on_rest_s": draw(LENGTHS),
            "starts_per_hour": draw(st.sampled_from([None, 2])),
            "override": OverrideEnd(
                ends_by=draw(st.sampled_from(["time", "agreement", "automatic", "position"])),
                for_s=draw(SOME),
            ),
            "on_sensor_fault": OnSensorFault(
                after_s=draw(LENGTHS),
                state=draw(st.sampled_from(["keep", "off"])),
                each=draw(st.sampled_from(["load", "rule"])),
            ),
            "power_return": returning(draw(st.sampled_from(["off", "follow_rules", "last"])), 0.0),
            "default_state": Wanted(want="off"),
            "retained": draw(st.sampled_from([None, True])),
        }
    )


ENDS: tuple[dict[str, Any], ...] = (
    {}, {"ends_by": "position"}, {"ends_by": "time", "for_s": 20.0}, {"ends_by": "automatic"},
    {"only": OnlyIn(mode="m", value="home"), "ends_with_mode": True},
    {"only": OnlyIn(mode="m", value="away")},
)  # fmt: skip


@st.composite
def acts(draw, load):
    """What an override wants of a load, of both together, or of a mode, and how that ends."""
    want = draw(st.sampled_from([*override_wants(load), {"does": "off", "group": "both"}]))
    return {**want, **draw(st.sampled_from(ENDS))}


def override_wants(load):
    does = {"pulse_drive": ["open", "close"], "valve": ["open", "close"]}
    wants: list[dict[str, Any]] = [
        {"does": word, "load": load.id}
        for word in (*does.get(load.kind, ["on", "off"]), "toggle", "automatic", "reset")
    ]
    if load.kind == "stepped":
        wants += [{"does": "up", "load": load.id}, {"does": "step", "step": 3, "load": load.id}]
    return [*wants, {"does": "mode", "mode": "m"}]


@st.composite
def rule_trials(draw):
    """A plan, its samples, what else comes in, whether the run boots, and its end."""
    base = one_band()
    own = tuple(draw(loads(index)) for index in range(2))
    probe = base.probes[0]
    probes = tuple(
        probe.model_copy(
            update={
                "id": f"p{row}",
                "stale_after_s": draw(st.sampled_from([15.0, 120.0])),
                "good_run": draw(st.integers(1, 2)),
                "warm_up_s": draw(st.sampled_from([0.0, 12.0])),
                "jump": draw(st.sampled_from([None, Jump(per_s=1.0, accept_after=2)])),
                "averaging": draw(st.sampled_from([None, Averaging(kind="median", of=3)])),
            }
        )
        for row in range(2)
    )
    relays = tuple(
        RelayOutput(id=f"{load.id}_{role}", load=load.id, role=role)
        for load in own
        for role in (("a", "b") if load.kind == "stepped" else ("on",))
    )
    plain = [r.id for r in relays if r.role == "on"]
    dead_s = draw(LENGTHS)
    groups = [Exclusive(id="x", relays=tuple(plain), dead_s=dead_s)] if len(plain) > 1 else []
    plan = Plan(
        format=base.format,
        house=base.house,
        scan_period_ms=draw(st.sampled_from([1000, 2500])),
        places=base.places,
        probes=probes,
        loads=own,
        derived=(
            Derived(id="mean", name="mean", made=Statistic(kind="mean", of=("p0", "p1"))),
            Derived(id="most", name="most", made=Statistic(kind="highest", of=("p0", "p1"))),
        ),
        rules=tuple(
            draw(rules(load, index)) for load in own for index in range(draw(st.integers(0, 3)))
        ),
        controls=(
            Control(
                id="key",
                name="Key",
                place="room",
                kind="push_button",
                double_ms=2000.0,
                long_ms=3000.0,
                debounce_ms=draw(st.sampled_from([0.0, 30.0, 900.0])),
                presses=tuple(
                    ButtonPress(press=press, **draw(acts(load)))
                    for press, load in zip(PRESSES, (*own, own[0]), strict=True)
                ),
            ),
            Control(
                id="dial",
                name="Dial",
                place="room",
                kind="selector",
                settle_ms=draw(st.sampled_from([0.0, 300.0, 2000.0])),
                positions=tuple(
                    SelectorPosition(name=str(at), pattern=format(at, "b"),
                                     **draw(acts(own[at % 2])),
                                     also=(ControlAction(**draw(acts(own[0]))),))
                    for at in range(3)
                ),
            ),
        ),
        groups=(LoadGroup(id="both", name="Both", members=("l0", "l1"),
                          stagger_s=draw(LENGTHS)),),
        modes=(Mode(id="m", name="Mode", values=("home", "away"), changes=draw(mode_changes())),),
        conditions=(con.NamedCondition(id="w", condition=draw(simple().filter(reads_no_mode))),),
        schedules=(
            Schedule(id="s0", name="s0", windows=(Window(start="00:00", end="00:01"),
                                                  Window(start="00:02", end="00:03"))),
            Schedule(id="s1", name="s1", moments=(Moments(at=("00:01", "00:04")),), for_s=30.0,
                     catch_up=draw(st.sampled_from([None, True, False]))),
        ),
        doorways=(Doorway(id="way", name="Way", outer="door", inner="sensed", within_s=9.0,
                          reset_at=("00:02",), retained=True),),
        relays=relays,
        exclusive=tuple(groups),
        memory=Memory(
            quiet_s=draw(LENGTHS),
            latest_s=draw(st.sampled_from([None, 30.0])),
            least_s=draw(LENGTHS),
        ),
        boot=BootRule(delay_s=draw(LENGTHS), stagger_s=draw(st.sampled_from([0.0, 5.0]))),
    )  # fmt: skip
    count = draw(st.integers(0, 30))
    steps = st.sampled_from([0, 700, 3000, 10_000, 31_000])
    times = START_MS + np.cumsum(draw(st.lists(steps, min_size=count, max_size=count)), dtype=int)
    values = st.one_of(st.integers(30, 80).map(float), st.just(55.0), st.just(math.nan))
    samples = Samples(
        t_ms=times.astype(np.int64),
        probe=np.array(draw(st.lists(st.integers(0, 1), min_size=count, max_size=count)), int),
        value=np.array(draw(st.lists(values, min_size=count, max_size=count)), float),
    )
    return plan, samples, draw(inputs(own)), draw(st.booleans()), START_MS + 330_000


@st.composite
def inputs(draw, own):
    at = st.integers(0, 320_000).map(lambda t: START_MS + t)
    names = ["probe:door", "probe:sensed", "probe:up", "probe:down", "control:key", "control:dial"]
    levels = []
    # Touches that are over between two scans, and levels that stay.
    lasts = st.sampled_from([None, None, 1, 40, 250, 1200])
    changes = st.tuples(at, st.sampled_from(names), st.integers(0, 2), lasts)
    for t_ms, name, level, last_ms in draw(st.lists(changes, max_size=30)):
        to = level if name == "control:dial" else level % 2
        levels.append((t_ms, name, to))
        if last_ms is not None:
            levels.append((t_ms + last_ms, name, (to + 1) % 2))
    wants = [ControlAction(**want) for load in own for want in override_wants(load)]
    messages = [
        Message(t_ms=t, author=who, wants=(want,), until_ms=until)
        for t, who, want, until in draw(
            st.lists(
                st.tuples(
                    at, st.sampled_from(["ana", "bo"]), st.sampled_from(wants),
                    st.sampled_from([None, START_MS + 200_000]),
                ),
                max_size=6,
            )
        )
    ]  # fmt: skip
    clock = draw(st.lists(st.tuples(at, st.sampled_from([None, START_MS + 90_000])), max_size=2))
    cuts, after = [], START_MS
    for _ in range(draw(st.integers(0, 2))):
        start = after + draw(st.sampled_from([500, 40_000, 110_000]))
        after = start + draw(st.sampled_from([300, 4000, 30_000]))
        boot_ms = draw(st.sampled_from([0, 1500]))
        cuts.append(
            PowerCut(from_ms=start, to_ms=after, boot_ms=boot_ms, clock_kept=draw(st.booleans()),
                     torn_after=draw(st.sampled_from([None, 0, 10])))
        )  # fmt: skip
        after += boot_ms
    levels.sort(key=lambda row: row[0])
    return Inputs(levels=levels, messages=messages, clock=clock, cuts=cuts)
