"""Houses begun from a problem: whole, wired, with rules that do what is promised."""

from typing import Any

import pytest

from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import House
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.rules.findings import unresolved
from aldea.core.wiring.beginnings import STARTING_PROBLEMS, begun_from, starting_problem
from aldea.core.wiring.findings import findings, severe
from aldea.core.wiring.signals import signals

HOUSE = House(name="Begun", time_zone="Europe/Madrid")


@pytest.mark.parametrize("problem", STARTING_PROBLEMS, ids=lambda row: row.key)
def test_each_problem_makes_a_whole_draft(problem):
    """Valid, compiled, every line on a pin, nothing severe; a rule and a must-never at least."""
    plan = begun_from(problem, HOUSE)
    check_plan(plan)
    assert read_plan(plan_text(plan).encode()) == plan
    compile_plan(plan)
    assert {row.signal for row in plan.assignments} == {signal.id for signal in signals(plan)}
    assert severe(plan) == ()
    assert unresolved(plan) == ()
    assert plan.rules
    assert plan.invariants
    assert all(load.stage == "working" for load in plan.loads)
    assert all(rule.basis == "estimated" for rule in plan.rules), "each says that it is assumed"
    assert not [f for f in findings(plan) if f.key.startswith("never-")]


def made(key: str) -> Any:
    problem = starting_problem(key)
    assert problem is not None
    return begun_from(problem, HOUSE)


def test_what_is_promised_stands_in_the_plan():
    """The figures of the page are those of the draft."""
    told = {row.key: dict(row.gives) for row in STARTING_PROBLEMS}
    damp = made("damp")
    band, drier = damp.rules[0].condition.of
    assert (band.on_threshold, band.off_threshold, drier.on_threshold) == (65.0, 60.0, 1.0)
    assert "on at 65, off at 60 %RH, while the outside is drier by 1 g/m³" in told["damp"].values()
    assert damp.loads[0].on_sensor_fault.after_s == 30.0
    beyond = next(c.condition for c in made("hot").rules if c.priority == "demand")
    assert (beyond.value, beyond.value - beyond.hysteresis) == (38.0, 34.0)
    kettle = made("kettle").schedules[0]
    assert (kettle.moments[0].at, kettle.for_s) == (("07:00",), 600.0)
    assert starting_problem("ghost") is None
