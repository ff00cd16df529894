"""From wanted states to contacts: no two exclusive relays ever conduct in one scan."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.plans import one_band, samples_of

from aldea.core.base.errors import PlanError
from aldea.core.base.jit import plain
from aldea.core.devices.loads.pulse_drive.model import PulseDrive
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.loads.stepped_fan.model import Capacitor, FanStep, SteppedFan
from aldea.core.devices.loads.two_way.model import TwoWay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.contacts.compiled import compile_contacts
from aldea.core.engine.contacts.run import conducting_at, run_contacts
from aldea.core.engine.contacts.scan import ContactState, step_contacts
from aldea.core.engine.replay import run_replay
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import Assignment, Board, RelayOutput

ROLES = ("c1", "c2", "c3", "direct")


def fan_plan(fan: SteppedFan, **relay_facts: object) -> Plan:
    base = one_band()
    load = base.loads[0].model_copy(update={"kind": "stepped", "stepped": fan})
    relays = tuple(
        RelayOutput.model_validate({"id": f"k{i}", "load": "fan", "role": role, **relay_facts})
        for i, role in enumerate(fan.roles)
    )
    return base.model_copy(update={"loads": (load,), "relays": relays})


@st.composite
def fans(draw: st.DrawFn) -> SteppedFan:
    """Any steps over four relays, any forbidden pairs, any dead time."""
    combos = draw(
        st.lists(
            st.sets(st.sampled_from(ROLES), min_size=1), min_size=1, max_size=6, unique_by=tuple
        )
    )
    pairs = draw(
        st.lists(
            st.tuples(st.sampled_from(ROLES), st.sampled_from(ROLES)).filter(
                lambda p: p[0] != p[1]
            ),
            max_size=5,
        )
    )
    return SteppedFan(
        capacitors=(Capacitor(role="c1", capacitance_uf=1.0),),
        steps=tuple(
            FanStep(name=str(i + 1), closed=tuple(sorted(combo))) for i, combo in enumerate(combos)
        ),
        never_together=tuple(pairs),
        dead_time_s=draw(st.sampled_from((0.02, 0.5, 3.0))),
    )


@pytest.mark.parametrize("kernel", [step_contacts, plain(step_contacts)], ids=["compiled", "plain"])
@settings(max_examples=60)
@given(fan=fans(), wishes=st.lists(st.tuples(st.integers(0, 7), st.integers(1, 4000)), max_size=30))
def test_no_two_exclusive_relays_ever_conduct_in_one_scan(kernel, fan, wishes):
    """Boot included; and what conducts belongs to the old combination or to the new one."""
    plan = fan_plan(fan)
    lines = compile_contacts(plan)
    state = ContactState.at_boot(lines, 0)
    wanted, sensed = np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64)
    t_ms = 0
    pairs = lines.exclusive.tolist()
    assert not any(lines.boot[a] and lines.boot[b] for a, b in pairs)
    for wish, gap_ms in wishes:
        wanted[0] = wish
        for at in (t_ms, t_ms + gap_ms // 2):
            before = state.conducts.copy()
            kernel(
                lines.di, lines.combos, lines.exclusive, wanted, sensed,
                state.conducts, state.timers, at,
            )  # fmt: skip
            assert not any(state.conducts[a] and state.conducts[b] for a, b in pairs)
            row = lines.combos[min(wish, len(lines.combos) - 1)]
            assert not (state.conducts & ~row & 1).any(), "what is not wanted opens at once"
            opened, closed = (before > state.conducts).any(), (before < state.conducts).any()
            assert not (opened and closed), "break before make: never both in one scan"
        t_ms += gap_ms


@settings(max_examples=40)
@given(fan=fans())
def test_every_reachable_step_is_reached_after_the_dead_time(fan):
    lines = compile_contacts(fan_plan(fan))
    states = load_device(fan_plan(fan).loads[0]).states(fan_plan(fan).loads[0])
    state = ContactState.at_boot(lines, 0)
    sensed = np.zeros(1, dtype=np.int64)
    t_ms = 0
    for index in (*range(len(states)), 0):
        wanted = np.array([index])
        for at in (t_ms, t_ms + 5000):
            step_contacts(
                lines.di, lines.combos, lines.exclusive, wanted, sensed,
                state.conducts, state.timers, at,
            )  # fmt: skip
        assert state.conducts.tolist() == lines.combos[index].tolist()
        t_ms += 10_000


def test_an_unreachable_step_is_left_out():
    fan = SteppedFan(
        steps=(FanStep(name="1", closed=("c1",)), FanStep(name="2", closed=("c1", "direct"))),
        never_together=(("c1", "direct"),),
    )
    assert load_device(fan_plan(fan).loads[0]).states(fan_plan(fan).loads[0]) == ((), ("c1",))


def test_exclusive_contacts_that_conduct_at_boot_are_refused():
    with pytest.raises(PlanError, match="before the program runs"):
        compile_contacts(fan_plan(SteppedFan(), contact="nc"))


def test_a_missing_relay_is_named():
    plan = fan_plan(SteppedFan())
    with pytest.raises(PlanError, match="direct"):
        compile_contacts(plan.model_copy(update={"relays": plan.relays[:2]}))


@pytest.mark.parametrize(
    ("active", "contact", "conducts", "high"),
    [
        ("high", "no", 1, True),
        ("low", "no", 1, False),
        ("high", "nc", 1, False),
        ("low", "nc", 1, True),
        ("high", "nc", 0, True),
    ],
)
def test_the_level_follows_contact_kind_and_polarity(active, contact, conducts, high):
    fan = SteppedFan(steps=(FanStep(name="1", closed=("c1",)),), never_together=())
    lines = compile_contacts(fan_plan(fan, active=active, contact=contact))
    assert lines.level(0, conducts) is high


@pytest.mark.parametrize(
    ("pin", "active", "pull", "boots"),
    [
        ("DO11", "high", None, True),
        ("DO11", "high", 4700.0, True),  # a resistor does not hold a pin that is driven
        ("DO11", "low", None, False),
        ("DO5", "high", None, False),
    ],
)
def test_a_pin_that_is_high_before_the_start_makes_the_relay_twitch(pin, active, pull, boots):
    fan = SteppedFan(steps=(FanStep(name="1", closed=("c1",)),), never_together=())
    plan = fan_plan(fan, active=active, pull_ohm=pull)
    plan = plan.model_copy(
        update={
            "boards": (Board(id="a", name="A", place="room", board_type="terminal_24v"),),
            "assignments": (Assignment(signal="relay:k0.coil", board="a", pin=pin),),
        }
    )
    assert bool(compile_contacts(plan).boot[0]) is boots


def stepped(lines, state, wanted, sensed, t_ms):
    step_contacts(
        lines.di, lines.combos, lines.exclusive, np.array([wanted]), np.array([sensed]),
        state.conducts, state.timers, t_ms,
    )  # fmt: skip
    return int(state.conducts[0])


def one_relay(load: Load) -> Plan:
    base = one_band()
    return base.model_copy(
        update={"loads": (load,), "relays": (RelayOutput(id="k1", load=load.id),)}
    )


def test_a_two_way_relay_toggles_on_what_is_sensed_not_on_what_it_is():
    load = one_band().loads[0].model_copy(update={"kind": "two_way", "two_way": TwoWay()})
    lines = compile_contacts(one_relay(load))
    state = ContactState.at_boot(lines, 0, first_start=True)
    assert stepped(lines, state, 1, 0, 1000) == 1
    assert stepped(lines, state, 1, 0, 1200) == 1, "it waits for the lamp to be seen"
    assert stepped(lines, state, 1, 1, 2000) == 1
    assert stepped(lines, state, 1, 0, 3000) == 0, "somebody used the wall switch: toggle back"
    assert stepped(lines, state, 0, -1, 9000) == 0, "what nobody senses moves nothing"


def test_a_drive_gets_one_pulse_and_no_other_before_it_arrived():
    drive = PulseDrive(pulse_s=0.5, travel_s=20)
    load = one_band().loads[0].model_copy(update={"kind": "pulse_drive", "drive": drive})
    lines = compile_contacts(one_relay(load))
    state = ContactState.at_boot(lines, 0, first_start=True)
    assert stepped(lines, state, 1, 0, 1000) == 1
    assert stepped(lines, state, 1, 0, 1400) == 1
    assert stepped(lines, state, 1, 0, 1500) == 0
    assert stepped(lines, state, 1, 0, 15_000) == 0, "still on its way"
    assert stepped(lines, state, 1, 1, 21_000) == 0
    assert stepped(lines, state, 0, 1, 60_000) == 1, "back again"


def moved(load: Load, readings, *, end_s: float, cuts=()) -> list[tuple[float, int]]:
    """When the one relay of a load changed, and to what, in a replay of bands at 60 and 50."""
    plan = one_relay(load)
    run = run_replay(
        compile_plan(plan), samples_of(readings), start_ms=0, end_ms=round(end_s * 1000), cuts=cuts
    )
    return [(e.t_ms / 1000, int(e.conducts)) for e in run_contacts(compile_contacts(plan), run)]


def test_a_drive_turned_back_on_its_way_is_pulsed_again_when_it_has_arrived():
    """Open at 0, shut at 10, open at 60 with 25 s of travel: three pulses, at 0, 25 and 60."""
    drive = PulseDrive(pulse_s=1.0, travel_s=25)
    load = one_band().loads[0].model_copy(update={"kind": "pulse_drive", "drive": drive})
    got = moved(load, [(0, 70), (10, 40), (60, 70)], end_s=120)
    assert got == [(0.0, 1), (1.0, 0), (25.0, 1), (26.0, 0), (60.0, 1), (61.0, 0)]


def test_a_wish_that_came_and_went_during_the_travel_moves_nothing():
    drive = PulseDrive(pulse_s=1.0, travel_s=25)
    load = one_band().loads[0].model_copy(update={"kind": "pulse_drive", "drive": drive})
    assert moved(load, [(0, 70), (5, 40), (12, 70)], end_s=120) == [(0.0, 1), (1.0, 0)]


def test_a_two_way_lamp_turned_back_at_once_is_toggled_when_it_is_sensed():
    """On at 0, off at 2 with 5 s of settling: the relay changes back at 5, not never."""
    two_way = TwoWay(settle_s=5.0)
    load = one_band().loads[0].model_copy(update={"kind": "two_way", "two_way": two_way})
    assert moved(load, [(0, 70), (2, 40)], end_s=60) == [(0.0, 1), (5.0, 0)]


def test_contacts_change_at_scans_only():
    """A dead time of 2.5 s is over in the scan at 3 s."""
    fan = SteppedFan(
        capacitors=(),
        steps=(FanStep(name="1", closed=("direct",)),),
        never_together=(),
        dead_time_s=2.5,
    )
    plan = replayed_plan(fan)
    run = run_replay(
        compile_plan(plan), samples_of([(0, 70), (10, 40), (11, 70)]), start_ms=0, end_ms=60_000
    )
    got = [(e.t_ms / 1000, e.conducts) for e in run_contacts(compile_contacts(plan), run)]
    assert got == [(0.0, True), (10.0, False), (13.0, True)]


def replayed_plan(fan: SteppedFan | None = None):
    fan = fan or SteppedFan(
        capacitors=(),
        steps=(FanStep(name="1", closed=("direct",)),),
        never_together=(),
        dead_time_s=2.0,
    )
    base = fan_plan(fan)
    return base.model_copy(
        update={"relays": (RelayOutput(id="k1", load="fan", role="direct", contact="no"),)}
    )


def test_a_replay_moves_the_contacts_and_a_power_cut_drops_them():
    plan = replayed_plan()
    run = run_replay(
        compile_plan(plan),
        samples_of([(0, 40), (10, 70), (100, 70), (200, 40), (400, 70)]),
        start_ms=0,
        end_ms=600_000,
        cuts=[(50_000, 80_000)],
    )
    lines = compile_contacts(plan)
    events = run_contacts(lines, run)
    assert [(e.t_ms, e.conducts) for e in events][:3] == [
        (10_000, True),
        (50_000, False),
        (100_000, True),
    ]
    for t_ms in range(1000, 600_000, 7000):
        part = run_contacts(lines, run, since_ms=max(0, t_ms - 60_000), until_ms=t_ms + 1)
        assert conducting_at(lines, part, t_ms) == conducting_at(lines, events, t_ms), t_ms


@pytest.mark.parametrize("kernel", [step_contacts, plain(step_contacts)], ids=["compiled", "plain"])
def test_a_contact_closes_at_the_end_of_the_dead_time_and_not_a_millisecond_before(kernel):
    fan = SteppedFan(
        steps=(FanStep(name="1", closed=("c1",)), FanStep(name="2", closed=("c2",))),
        never_together=(("c1", "c2"),),
        dead_time_s=0.5,
    )
    lines = compile_contacts(fan_plan(fan))
    state = ContactState.at_boot(lines, 0)
    sensed = np.zeros(1, dtype=np.int64)

    def conducts(step: int, at_ms: int) -> list[int]:
        kernel(
            lines.di, lines.combos, lines.exclusive, np.array([step]), sensed,
            state.conducts, state.timers, at_ms,
        )  # fmt: skip
        return [int(state.conducts[line]) for line in range(2)]

    assert conducts(1, 10_000) == [1, 0]
    assert conducts(2, 20_000) == [0, 0]
    assert conducts(2, 20_499) == [0, 0]
    assert conducts(2, 20_500) == [0, 1]


@pytest.mark.parametrize("kernel", [step_contacts, plain(step_contacts)], ids=["compiled", "plain"])
def test_exclusive_contacts_never_close_together_even_if_a_step_asked_for_both(kernel):
    """The last guard before the relays: it trusts no table of steps."""
    fan = SteppedFan(
        steps=(FanStep(name="1", closed=("c1",)), FanStep(name="2", closed=("c2",))),
        never_together=(("c1", "c2"),),
    )
    lines = compile_contacts(fan_plan(fan))
    both = lines.combos.copy()
    both[1, :2] = 1
    state = ContactState.at_boot(lines, 0)
    for at_ms in (10_000, 20_000, 30_000):
        kernel(
            lines.di, both, lines.exclusive, np.array([1]), np.zeros(1, dtype=np.int64),
            state.conducts, state.timers, at_ms,
        )  # fmt: skip
        assert state.conducts[:2].tolist() == [1, 0]
