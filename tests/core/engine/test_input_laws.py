"""Laws of the input layer: every press counts, whenever it comes between two scans."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.engine.runs import ENGINES
from tests.core.plans import one_band

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.inputs import Inputs, PowerCut
from aldea.core.engine.replay import run_replay
from aldea.core.engine.session import NO_SAMPLES
from aldea.core.plan import conditions as con
from aldea.core.plan.conditions import NamedCondition
from aldea.core.plan.controls import ButtonPress, Control, SelectorPosition
from aldea.core.plan.house_rules import Doorway, Mode
from aldea.demo.mill import mill_plan

MODES = ("short", "long", "double", "first", "second")


@pytest.fixture(params=list(ENGINES.values()), ids=list(ENGINES))
def engine(request):
    return request.param


def house(*, period_ms=1000, presses=("short",), settle_ms=0.0, **key):
    """A button and a dial whose acts move modes on, a doorway, a contact that is watched."""
    return one_band().model_copy(
        update={
            "scan_period_ms": period_ms,
            "modes": tuple(Mode(id=name, name=name, values=("a", "b", "c")) for name in MODES),
            "controls": (
                Control(
                    id="key",
                    name="Key",
                    place="room",
                    kind="push_button",
                    presses=tuple(
                        ButtonPress(press=press, does="mode", mode=press) for press in presses
                    ),
                    **key,
                ),
                Control(
                    id="dial",
                    name="Dial",
                    place="room",
                    kind="selector",
                    settle_ms=settle_ms,
                    positions=(
                        SelectorPosition(name="0", pattern="0"),
                        SelectorPosition(name="1", pattern="1", does="mode", mode="first"),
                        SelectorPosition(name="2", pattern="10", does="mode", mode="second"),
                    ),
                ),
            ),
            "doorways": (
                Doorway(id="way", name="Way", outer="outer", inner="inner", within_s=2.0),
            ),
            "conditions": (
                NamedCondition(id="open", condition=con.Contact(probe="door", closed=True)),
                NamedCondition(id="one_in", condition=con.CountAbove(doorway="way", value=0)),
            ),
        }
    )


def ran(plan, levels, *, end_ms=60_000, cuts=(), **engine):
    return run_replay(
        compile_plan(plan),
        NO_SAMPLES,
        start_ms=0,
        end_ms=end_ms,
        inputs=Inputs(levels=levels, cuts=cuts),
        **engine,
    )


def acts(run):
    """The acts that were taken, in order."""
    return [MODES[e.who] for e in run.events() if e.event_type == lay.EVENT_MODE]


def changes(run, name):
    """Seconds at which a named condition changed, and to what."""
    row = run.compiled.conditions[name]
    return [
        (e.t_ms / 1000, bool(e.state_to))
        for e in run.events()
        if e.event_type == lay.EVENT_CONDITION and e.who == row and e.state_from >= 0
    ]


def pressed(name, *spans):
    return [row for a, b in spans for row in ((a, name, 1), (b, name, 0))]


def test_every_short_press_counts_wherever_it_falls_between_two_scans(engine):
    """Twenty presses of 0.25 s, each at another place in the second; the scan is once a second."""
    spans = [(2000 * n + 50 * n, 2000 * n + 50 * n + 250) for n in range(1, 21)]
    run = ran(house(), pressed("control:key", *spans), **engine)
    assert acts(run) == ["short"] * 20


def test_a_person_who_walks_through_a_doorway_is_counted(engine):
    """Beam to beam in 0.3 s, each broken for 0.2 s, all between two scans; out again the same."""
    way_in = [*pressed("probe:outer", (5100, 5300)), *pressed("probe:inner", (5400, 5600))]
    way_out = [*pressed("probe:inner", (9100, 9300)), *pressed("probe:outer", (9400, 9600))]
    run = ran(house(), [*way_in, *way_out], **engine)
    assert changes(run, "one_in") == [(6.0, True), (10.0, False)]


def test_a_bounce_is_no_press_and_a_touch_that_stands_is_one(engine):
    bounces = pressed("control:key", (5000, 5010), (5015, 5040), (8000, 8030), (9000, 9031))
    run = ran(house(debounce_ms=30.0), bounces, **engine)
    assert acts(run) == ["short"], "only what stood longer than 30 ms"


def test_what_a_contact_was_between_two_scans_holds_in_one_of_them(engine):
    run = ran(house(), pressed("probe:door", (5100, 5200), (8900, 12_100)), **engine)
    assert changes(run, "open") == [(6.0, True), (7.0, False), (9.0, True), (13.0, False)]


def test_what_is_found_at_a_boot_is_no_press_and_one_after_it_is(engine):
    """Held over a cut from 10 s to 20 s and released at 25.3 s; pressed again at 30.4 s."""
    levels = [(9900, "control:key", 1), (25_300, "control:key", 0), (30_400, "control:key", 1)]
    cut = PowerCut(from_ms=10_000, to_ms=20_000, boot_ms=500)
    run = ran(house(), levels, cuts=[cut], **engine)
    assert acts(run) == ["short"], "the press that no scan took before the cut is lost"


def test_a_dial_acts_for_each_position_that_it_stood_at_and_for_none_that_it_passed(engine):
    levels = [(5050, "control:dial", 1), (5150, "control:dial", 2), (5700, "control:dial", 1)]
    assert acts(ran(house(settle_ms=300.0), levels, **engine)) == ["second", "first"]
    assert acts(ran(house(settle_ms=0.0), levels, **engine)) == ["first", "second", "first"]


def test_a_group_whose_members_are_only_planned_has_nothing_to_keep(engine):
    """Its field is kept in memory all the same: there is no load to look at."""
    plan = mill_plan()
    planned = tuple(load.model_copy(update={"stage": "planned"}) for load in plan.loads)
    compiled = compile_plan(plan.model_copy(update={"loads": planned}))
    assert "group:all_off" in compiled.field_names
    run = run_replay(compiled, NO_SAMPLES, start_ms=0, end_ms=5000, **engine)
    assert not [e for e in run.events() if e.event_type == lay.EVENT_LOAD]


@settings(max_examples=60)
@given(
    st.lists(st.tuples(st.integers(40, 1500), st.integers(40, 1500)), min_size=1, max_size=12),
    st.sampled_from([100, 1000, 2500]),
)
def test_what_is_heard_does_not_depend_on_the_scan_period(steps, period_ms):
    """Short, long and double presses by their instants, against a scan of ten milliseconds."""
    at, spans = 1000, []
    for wait_ms, hold_ms in steps:
        spans.append((at + wait_ms, at + wait_ms + hold_ms))
        at += wait_ms + hold_ms
    how = {"presses": ("short", "long", "double"), "long_ms": 600.0, "double_ms": 400.0}
    levels = pressed("control:key", *spans)
    fine, coarse = (acts(ran(house(period_ms=period, **how), levels)) for period in (10, period_ms))
    assert fine == coarse
