"""Levels that a load has not, and acts that want several things: taken, freed and refused."""

import pytest

from aldea.core.base.errors import PlanError
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.compiling.wants import want_code
from aldea.core.engine.layout import WANT_LEVEL, WANT_OFF
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import Control, ControlAction, RemoteCode
from aldea.core.plan.edits import put_part, remove_part
from aldea.core.plan.levels import levels_of
from aldea.demo.mill import mill_plan

MILL = mill_plan()


def test_of_a_step_that_is_not_there_the_next_lower_is_taken():
    fan = MILL.load("extractor")
    assert fan is not None
    steps = levels_of(fan, "step")
    top = want_code(fan, "step", level=steps[-1])
    assert top > WANT_LEVEL
    assert want_code(fan, "step", level=steps[-1] + 9) == top
    assert want_code(fan, "step", level=0) == WANT_OFF
    assert want_code(fan, "pattern", level=1) == WANT_OFF, "a fan has no pattern"


def test_a_house_whose_rule_wants_too_high_a_step_still_runs():
    rules = tuple(c.model_copy(update={"level": 9}) if c.want == "step" else c for c in MILL.rules)
    compiled = compile_plan(MILL.model_copy(update={"rules": rules}))
    assert "extractor" in compiled.load_ids


def remote(*also: ControlAction) -> Control:
    code = RemoteCode(name="one", code="ab", load="store_fan", does="on", also=also)
    return Control(id="extra", name="Extra", place=MILL.places[0].id, kind="remote", codes=(code,))


def test_what_is_wanted_besides_is_checked_and_freed_with_the_load_that_goes():
    several = remote(
        ControlAction(group="all_off", does="off"), ControlAction(load="store_fan", does="off")
    )
    plan = put_part(MILL, "control", several)
    check_plan(plan)
    control = next(c for c in remove_part(plan, "group", "all_off").controls if c.id == "extra")
    assert [want.group for want in control.wants] == [None, None, None]
    wrong = put_part(MILL, "control", remote(ControlAction(load="nobody", does="off")))
    with pytest.raises(PlanError, match="/codes/0/also/0/load"):
        check_plan(wrong)
