"""Hands: codes that tell positions apart, steps in reach, names that cannot be confused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.houses import built

from aldea.core.base.errors import InputError, PlanError
from aldea.core.physics.steps import percent_of_step, step_of_percent
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import (
    ButtonPress,
    Control,
    ControlAction,
    LoadGroup,
    RemoteCode,
    SelectorPosition,
)
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part, remove_part
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.controls import (
    out_of_reach,
    patterns,
    read_codes,
)
from aldea.core.wiring.findings import findings
from aldea.core.wiring.names import alike_names
from aldea.core.wiring.signals import signals
from aldea.core.wiring.supply_budget import supply_budget
from aldea.demo.mill import mill_plan


@given(steps=st.integers(1, 100), data=st.data())
def test_a_step_becomes_percent_and_the_same_step_again(steps, data):
    step = data.draw(st.integers(0, steps))
    assert step_of_percent(percent_of_step(step, steps), steps) == step
    assert step_of_percent(0.4, steps) >= 1, "a little is not nothing"


@given(contacts=st.integers(1, 8), data=st.data())
def test_positions_of_a_usual_code_can_be_told_apart(contacts, data):
    scheme = data.draw(st.sampled_from(("one_of_n", "binary")))
    most = contacts + 1 if scheme == "one_of_n" else 2**contacts
    count = data.draw(st.integers(1, most))
    made = patterns(scheme, count, contacts)
    assert len(set(made)) == count
    assert {len(pattern) for pattern in made} == {contacts}
    assert made[0] == "0" * contacts
    with pytest.raises(InputError):
        patterns(scheme, most + 1, contacts)


def test_binary_counts_and_one_of_n_closes_one():
    assert patterns("binary", 5, 3) == ("000", "100", "010", "110", "001")
    assert patterns("one_of_n", 4, 3) == ("000", "100", "010", "001")


def with_selector(*steps: int, **facts: object) -> Plan:
    """The mill with a dial of these steps for the extractor, which has four."""
    positions = tuple(
        SelectorPosition(name=str(n), pattern=f"{n:03b}", load="extractor", does="step", step=n)
        for n in steps
    )
    control = Control.model_validate(
        {
            "id": "dial",
            "name": "Dial",
            "place": "loft",
            "kind": "selector",
            "contacts": 3,
            "positions": positions,
            **facts,
        }
    )
    return put_part(mill_plan(), "control", control)


def test_steps_that_a_dial_cannot_reach_are_shown_beside_it_and_those_that_are_not_there_found():
    plan = with_selector(1, 2, 4)
    dial = plan.control("dial")
    assert dial is not None
    assert [(row.load, row.steps) for row in out_of_reach(plan, dial)] == [
        ("Drying extractor", (3,))
    ]
    remote = plan.control("drying_remote")
    assert remote is not None
    assert out_of_reach(plan, remote) == (), "up and down reach all"
    keys = {f.key for f in findings(with_selector(1, 5))}
    assert "beyond-dial-extractor-5" in keys
    idle = Control(id="idle", name="Idle", place="loft", kind="push_button")
    assert "nothing-idle" in {f.key for f in findings(put_part(plan, "control", idle))}


@pytest.mark.parametrize(
    ("update", "where"),
    [
        ({"presses": (ButtonPress(load="nobody"),)}, "load"),
        ({"presses": (ButtonPress(group="nobody"),)}, "group"),
        ({"presses": (ButtonPress(group="lights", load="skylight"),)}, "group"),
        ({"codes": (RemoteCode(name="x", code="ab", does="step"),)}, "step"),
        ({"codes": (RemoteCode(name="x", code="ab", does="on", step=2),)}, "step"),
    ],
)
def test_what_a_hand_cannot_want_is_refused_where_it_stands(update, where):
    lights = LoadGroup(id="lights", name="Lights", members=("night_lights",))
    plan = mill_plan().model_copy(update={"groups": (*mill_plan().groups, lights)})
    button = plan.controls[0].model_copy(update=update)
    with pytest.raises(PlanError) as refused:
        check_plan(put_part(plan, "control", button))
    assert refused.value.where.rsplit("/", 1)[-1] == where


def test_a_group_and_a_load_that_go_leave_hands_that_want_nothing():
    group = LoadGroup(id="all", name="All", members=("extractor", "skylight"), stagger_s=1.0)
    plan = mill_plan().model_copy(update={"groups": (group,), "controls": ()})
    button = (
        mill_plan()
        .controls[0]
        .model_copy(update={"presses": (ButtonPress(press="long", group="all", does="off"),)})
    )
    plan = put_part(plan, "control", button)
    assert read_plan(plan_text(plan)) == plan
    less = remove_part(plan, "load", "skylight")
    check_plan(less)
    assert less.groups[0].members == ("extractor",)
    gone = remove_part(plan, "group", "all")
    check_plan(gone)
    assert gone.controls[0].presses[0].group is None


def test_codes_as_pasted_one_a_line():
    made = read_codes("a3f1c0 faster up\n\n0xA3F1C4, slower, down\nb0b0\tall off\n")
    assert [(c.code, c.name, c.does) for c in made] == [
        ("a3f1c0", "faster", "up"),
        ("a3f1c4", "slower", "down"),
        ("b0b0", "all", "off"),
    ]
    for wrong in ("zz name", "a3f1c0", "a3f1 x\na3f1 y"):
        with pytest.raises(InputError, match="line"):
            read_codes(wrong)


@pytest.mark.parametrize(
    ("first", "second", "how"),
    [
        ("Lamp one", "Lamp 1", "are the same when they are said"),
        ("Lamp", "Lamp 1", "differ by a number that one of them lacks"),
        ("lamp", "Lamp", "are the same word"),
        ("Lamp 1", "Lamp 2", ""),
        ("Lamp", "Stair", ""),
    ],
)
def test_names_that_are_heard_as_one(first, second, how):
    assert [two.how for two in alike_names([first, second])] == ([how] if how else [])


def test_a_load_is_said_as_it_is_to_be_said():
    plan = mill_plan()
    load = plan.loads[0].model_copy(update={"spoken": "Dehumidifyer"})
    assert [f for f in findings(put_part(plan, "load", load)) if f.key.startswith("names-")]


@pytest.mark.parametrize(("output", "pull"), [("high", False), ("open_collector", True)])
def test_a_touch_pad_is_fed_and_read_and_pulled_only_where_it_must_be(output, pull):
    pad = Control.model_validate(
        {"id": "pad", "name": "Pad", "place": "room", "kind": "touch_pad", "output": output}
    )
    plan = built([], 0, ["wifi_38"], controls=(pad,))
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    (signal,) = signals(plan)
    assert (signal.wants_pull, signal.volts) == (pull, 0.0 if pull else 3.3)
    ends = {(w.start.split(":")[1], w.end) for w in conductors(plan)}
    assert {("+3.3 V", "Pad:+"), ("0 V", "Pad:back")} <= ends
    assert pad.meaning == "toggle"
    assert ControlAction().does == "toggle"
    assert supply_budget(mill_plan(), mill_plan().supplies[0]).sum_ma > 0
