"""Plan documents: one canonical text, refused whole with the path of what is wrong."""

import json

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.errors import PlanError
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.changes import plan_changes
from aldea.core.plan.edits import put_part
from aldea.core.plan.text import plan_schema, plan_sha256, plan_text, read_plan
from aldea.core.plan.tuning import Tuning, calibrated, tuned
from aldea.demo.mill import mill_plan


def changed(path: str, value: object) -> str:
    """The demo plan's text with one place changed; a path that ends in + adds a key."""
    document = json.loads(plan_text(mill_plan()))
    *steps, last = path.strip("/").split("/")
    place = document
    for step in steps:
        place = place[int(step)] if isinstance(place, list) else place[step]
    place[last.rstrip("+")] = value
    return json.dumps(document)


def test_the_text_of_a_plan_is_canonical():
    text = plan_text(mill_plan())
    assert plan_text(read_plan(text)) == text
    assert plan_text(read_plan(json.dumps(json.loads(text)))) == text
    assert plan_sha256(text) == plan_sha256(plan_text(mill_plan()))


@given(
    off=st.floats(1, 49, allow_nan=False),
    on=st.floats(50, 99, allow_nan=False),
    min_on_s=st.floats(0, 86_400),
)
def test_every_number_survives_the_round_trip(off, on, min_on_s):
    plan = mill_plan(on=on, off=off, min_on_s=min_on_s)
    assert read_plan(plan_text(plan)) == plan


def test_the_schema_accepts_what_we_write_and_refuses_what_we_refuse():
    schema = plan_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(json.loads(plan_text(mill_plan())), schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(json.loads(changed("/loads/1/power_kw+", 1)), schema)


@pytest.mark.parametrize(
    ("path", "value", "where"),
    [
        ("/format", "aldea-plan/9", "/format"),
        ("/loads/1/power_kw+", 0.3, "/loads/1/power_kw"),
        ("/loads/1/min_on_s", "5 min", "/loads/1/min_on_s"),
        ("/loads/1/min_on_s", -1, "/loads/1/min_on_s"),
        ("/loads/1/place", "attic", "/loads/1/place"),
        ("/loads/1/id", "extractor", "/loads/1/id"),
        ("/rules/0/condition/off_threshold", 60.0, "/rules/0/condition/off_threshold"),
        ("/rules/0/condition/on_threshold", 140.0, "/rules/0/condition/on_threshold"),
        ("/rules/0/condition/probe", "drying", "/rules/0/condition/probe"),
        ("/house/time_zone", "Mill/Time", "/house/time_zone"),
        ("/loads/1/power_return/policy", "last", "/loads/1/power_return/reason"),
        ("/loads/6/on_sensor_fault/state", "on", "/loads/6/on_sensor_fault/state"),
        ("/places/1/to_m", -3.0, "/places/1/to_m"),
    ],
)
def test_a_wrong_plan_is_refused_whole_with_the_path_inside(path, value, where):
    with pytest.raises(PlanError) as refused:
        read_plan(changed(path, value))
    assert refused.value.where == where
    assert refused.value.allowed


@pytest.mark.parametrize(
    "raw", [b"", b"[]", b"{", b"\xff\xfe", b'{"format": "aldea-plan/2"}', b"[" * 100_000, b"1e999"]
)
def test_what_is_no_plan_is_refused(raw):
    with pytest.raises(PlanError):
        read_plan(raw)


def test_a_missing_key_is_named():
    document = json.loads(plan_text(mill_plan()))
    del document["loads"][1]["power_return"]["policy"]
    with pytest.raises(PlanError, match="/loads/1/power_return/policy"):
        read_plan(json.dumps(document))


def test_last_is_taken_with_a_reason():
    text = changed(
        "/loads/1/power_return", {"policy": "last", "delay_s": 0.0, "reason": "tank has a float"}
    )
    load = read_plan(text).load("dehumidifier")
    assert load is not None
    assert load.power_return.policy == "last"


def test_edits_change_one_thing_and_differences_name_it():
    plan = mill_plan()
    rule = plan.rules[0]
    assert tuned(plan, rule, Tuning.of(plan, rule)) == plan
    moved = calibrated(plan, "drying_rh", Calibration(expanded_uncertainty=1.0, intercept=-2.0))
    assert {d.path for d in plan_changes(plan, moved)} == {
        "/probes/drying_rh/calibration/expanded_uncertainty",
        "/probes/drying_rh/calibration/intercept",
    }


def test_changes_are_told_in_words_and_a_part_that_went_is_one():
    plan = mill_plan(on=60.0, off=59.5)
    moved = mill_plan(on=60.0, off=56.0)
    told = {(row.what, row.was, row.now) for row in plan_changes(plan, moved)}
    assert ("Dehumidifier, demand: off threshold", "59.5", "56") in told
    heavier = put_part(plan, "load", plan.loads[0].model_copy(update={"power_w": 45.0}))
    (row,) = plan_changes(plan, heavier)
    assert row.what == f"load {plan.loads[0].name}: power, W"
    fewer = plan.model_copy(update={"controls": plan.controls[1:]})
    (gone,) = plan_changes(plan, fewer)
    assert (gone.what, gone.was, gone.now) == (f"control {plan.controls[0].name}", "there", "gone")
    (back,) = plan_changes(fewer, plan)
    assert (back.was, back.now) == ("not there", "put in")
    assert not [row for row in plan_changes(plan, moved) if "/" in row.what]
