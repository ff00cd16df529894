"""A wall switch thrown in a replay: the lamp is its relay and its switch, and the rules see it."""

import numpy as np
import pytest
from tests.core.plans import one_band

from aldea.core.base.errors import InputError
from aldea.core.devices.loads.two_way.model import TwoWay
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.engine.scans import in_python
from aldea.core.plan.conditions import Contact
from aldea.core.plan.document import Load, Probe, Rule
from aldea.core.plan.house_rules import OverrideEnd
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.faults import Faults, as_brought, as_sampled
from aldea.core.rehearse.rehearsal import rehearse, replay_faulty

HOUR = 3_600_000
DAY_0 = 1_762_992_000_000  # midnight UTC
END = DAY_0 + 12 * HOUR


def _contact(probe_id: str) -> Probe:
    base = one_band().probes[0].model_dump()
    facts = {"id": probe_id, "quantity": "position", "range": {"low": 0, "high": 1}}
    return Probe.model_validate({**base, **facts})


def plan(*, sensed: bool = True):
    """A stair lamp that burns while the door is open; a hand has it for half an hour."""
    base = one_band()
    lamp = Load(
        id="lamp", name="Lamp", place="room", load_class="light", kind="two_way",
        two_way=TwoWay(sense="lit" if sensed else None, settle_s=1.0, follow_s=5.0),
        override=OverrideEnd(for_s=1800.0),
    )  # fmt: skip
    rule = Rule(
        id="door", load="lamp", priority="demand", want="on",
        condition=Contact(probe="door", closed=False),
    )  # fmt: skip
    return base.model_copy(
        update={
            "probes": (*base.probes, _contact("door"), _contact("lit")),
            "loads": (*base.loads, lamp),
            "rules": (*base.rules, rule),
        }
    )


def doors(*changes: tuple[float, float]) -> dict[str, Trace]:
    """The door as it stands: (hours, 1 shut or 0 open); it is shut at first."""
    rows = [(DAY_0, 1.0), *((DAY_0 + round(h * HOUR), now) for h, now in changes)]
    t_ms = np.array([t for t, _ in rows], dtype=np.int64)
    return {"door": Trace(t_ms=t_ms, raw=np.array([now for _, now in rows]))}


def changes(run, load: str = "lamp") -> list[tuple[float, int, str]]:
    """Hours, state, and who decides then, at each change of a load's state."""
    index = run.compiled.load_index(load)
    rows = [
        (row.t_ms, row.state_to, lay.PRIORITY_NAMES[run.compiled.rule_rows[row.rule].priority])
        for row in run.events()
        if row.event_type == lay.EVENT_LOAD and row.who == index and row.state_from != row.state_to
    ]
    return [((t_ms - DAY_0) / 1000, state, priority) for t_ms, state, priority in rows]


def thrown(*seconds: float, traces=None, **wanted):
    throws = tuple(("lamp", DAY_0 + round(s * 1000)) for s in seconds)
    return replay_faulty(
        compile_plan(plan(**wanted)), traces or doors(), Faults(throws=throws),
        start_ms=DAY_0, end_ms=END,
    )  # fmt: skip


def test_a_throw_while_dark_lights_it_by_hand_and_the_hand_ends():
    # On at the throw by the wall, off half an hour later: the relay changes over and, when it
    # has settled (1 s), the lamp is off though the switch still stands thrown.
    assert changes(thrown(3600.0)) == [(3600.0, 1, "override"), (5401.0, 0, "default_state")]


def test_two_throws_are_none_to_the_lamp_but_two_hands():
    found = changes(thrown(3600.0, 3660.0))
    assert found == [(3600.0, 1, "override"), (3660.0, 0, "override")]


def test_after_a_throw_the_rules_still_get_what_they_want():
    """The relay's position means the opposite from then on; what is sensed says so."""
    open_shut = doors((2.0, 0.0), (2.5, 1.0))
    found = changes(thrown(3600.0, traces=open_shut))
    assert found == [
        (3600.0, 1, "override"), (5401.0, 0, "default_state"),
        (7201.0, 1, "demand"), (9001.0, 0, "default_state"),
    ]  # fmt: skip
    assert not [e for e in thrown(3600.0, traces=open_shut).events()
                if e.event_type == lay.EVENT_MISSED]  # fmt: skip


def test_thrown_while_the_relay_changes_over_the_lamp_is_missed():
    # The door opens at 7200 s and the relay changes over; the switch is thrown half a second later,
    # so at 7201 s both have: the lamp is as it was, and 5 s after the relay that is said.
    run = thrown(7200.5, traces=doors((2.0, 0.0)))
    assert changes(run) == []
    missed = [e.t_ms for e in run.events() if e.event_type == lay.EVENT_MISSED]
    assert missed == [DAY_0 + 7_205_000]


def test_in_pieces_all_other_loads_do_what_they_do_in_one():
    """With a throw after the end of all else the lamp's own days are those without a wall."""
    traces = doors(*((h / 4, float(h % 2)) for h in range(4, 40)))
    t_ms = np.arange(DAY_0, END, 60_000, dtype=np.int64)
    swing = 60 + 20 * np.sin(2 * np.pi * (t_ms - DAY_0) / (4 * HOUR))
    traces["rh"] = Trace(t_ms=t_ms, raw=swing)
    compiled = compile_plan(plan())
    cuts = Faults(cuts=((DAY_0 + 5 * HOUR, DAY_0 + 5 * HOUR + 60_000),))
    whole = run_replay(
        compiled, as_sampled(compiled, traces, cuts), start_ms=DAY_0, end_ms=END,
        inputs=as_brought(compiled, traces, cuts),
    )  # fmt: skip
    late = Faults(cuts=cuts.cuts, throws=(("lamp", END - 1000),))
    pieces = replay_faulty(compiled, traces, late, start_ms=DAY_0, end_ms=END)
    assert changes(pieces, "fan") == changes(whole, "fan")
    assert len(changes(whole, "fan")) > 4
    assert changes(pieces)[:-1] == changes(whole)
    assert len(changes(whole)) > 20


@pytest.mark.parametrize("load", ["fan", "nobody"])
def test_where_no_wall_switch_can_be_known_of_it_is_refused(load):
    faults = Faults(throws=((load, DAY_0 + 1000),))
    with pytest.raises(InputError, match="two-way circuit whose output is sensed"):
        rehearse(plan(), doors(), start_ms=DAY_0, end_ms=END, faults=faults)
    with pytest.raises(InputError, match="sensed"):
        rehearse(
            plan(sensed=False), doors(), start_ms=DAY_0, end_ms=END,
            faults=Faults(throws=(("lamp", DAY_0 + 1000),)),
        )  # fmt: skip


def test_by_the_interpreter_it_is_the_same():
    compiled = compile_plan(plan())
    faults = Faults(throws=(("lamp", DAY_0 + 600_000),))
    one, two = (
        replay_faulty(compiled, doors(), faults, start_ms=DAY_0, end_ms=DAY_0 + HOUR, scans=scans)
        for scans in (None, in_python)
    )
    assert one.rows.tolist() == two.rows.tolist()
    assert len(one.rows)
