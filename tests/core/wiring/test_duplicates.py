"""A second probe, load or rule: the settings are the same, what is one's own is not."""

import pytest

from aldea.core.base.errors import InputError, NotFoundError, PlanError
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.plan.check import check_plan
from aldea.core.plan.edits import part_of, put_part
from aldea.core.wiring.duplicates import duplicated, rule_copied
from aldea.demo.mill import mill_plan

PLAN = mill_plan()


@pytest.mark.parametrize("kind", ["probe", "load"])
def test_every_part_of_the_mill_can_be_had_again_and_the_plan_still_fits(kind):
    for part in getattr(PLAN, f"{kind}s"):
        plan, key = duplicated(PLAN, kind, part.id)
        check_plan(plan)
        compile_plan(plan)
        new = part_of(plan, *key.split(":"))
        assert new.name == f"{part.name} 2"
        assert (new.place, new.stage) == (part.place, "planned")
        assert plan.assignments == PLAN.assignments
        assert plan.relays == PLAN.relays
        assert plan.rules == PLAN.rules


def test_a_probe_keeps_its_settings_and_loses_what_was_measured_on_it():
    tape = part_of(PLAN, "probe", "manifold_tape")
    old = tape.model_copy(
        update={"sensor": tape.sensor.model_copy(update={"baseline_counts": 1960})}
    )
    plan, key = duplicated(put_part(PLAN, "probe", old), "probe", "manifold_tape")
    new = part_of(plan, *key.split(":"))
    assert new.sensor == tape.sensor.model_copy(update={"baseline_counts": None})
    same = ("range", "stale_after_s", "stuck", "quantity", "cable_m", "smoothing")
    assert [getattr(new, name) for name in same] == [getattr(old, name) for name in same]
    certified = PLAN.model_copy(update={"probes": tuple(
        p.model_copy(update={"calibration": p.calibration.model_copy(
            update={"basis": "certificate", "certificate": "1", "slope": 1.08})})
        for p in PLAN.probes)})  # fmt: skip
    plan, key = duplicated(certified, "probe", "drying_rh")
    new = part_of(plan, *key.split(":"))
    assert (new.calibration.basis, new.calibration.certificate, new.calibration.slope) == (
        "entered", None, 1.0,
    )  # fmt: skip


def test_all_quantities_of_one_sensor_are_copied_together():
    second = next(p for p in PLAN.probes if p.part_with)
    plan, key = duplicated(PLAN, "probe", second.id)
    new = part_of(plan, *key.split(":"))
    lead = part_of(plan, "probe", new.part_with)
    assert lead.id not in {p.id for p in PLAN.probes}
    group = [p for p in PLAN.probes if second.part_with in (p.id, p.part_with)]
    assert len(plan.probes) == len(PLAN.probes) + len(group)


def test_names_count_on_and_stay_short():
    plan, _ = duplicated(PLAN, "load", "store_fan")
    plan, key = duplicated(plan, "load", "store_fan")
    assert part_of(plan, *key.split(":")).name == "Store fan 3"
    long = PLAN.loads[0].model_copy(update={"name": "x" * 80})
    plan = PLAN.model_copy(update={"loads": (long, *PLAN.loads[1:])})
    plan, key = duplicated(plan, "load", long.id)
    assert len(part_of(plan, *key.split(":")).name) <= 80


def test_a_rule_is_the_last_of_the_load_it_is_copied_to():
    rule = next(r for r in PLAN.rules if r.load == "dehumidifier" and r.priority == "demand")
    plan, new_id = rule_copied(PLAN, rule.id, "store_fan")
    rows = plan.rules_of("store_fan")
    assert rows[-1] == rule.model_copy(update={"id": new_id, "load": "store_fan"})
    check_plan(plan)
    compile_plan(plan)


def test_what_is_not_there_is_refused():
    with pytest.raises(InputError, match="one of probe, load"):
        duplicated(PLAN, "board", "board_a")
    for call in (
        lambda: duplicated(PLAN, "probe", "none"),
        lambda: rule_copied(PLAN, PLAN.rules[0].id, "none"),
    ):
        with pytest.raises(NotFoundError):
            call()
    with pytest.raises((NotFoundError, PlanError, InputError)):
        rule_copied(PLAN, "none", "store_fan")
