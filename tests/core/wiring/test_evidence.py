"""A certificate is void when its circuit changes, and holds again when that is taken back."""

import pytest

from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.board_types import generic_types
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import move_part, part_of, put_part
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.evidence import circuit_digest, is_void
from aldea.core.wiring.findings import severe
from aldea.demo.mill import mill_plan

PROBE = "cellar_temp"


def certified() -> Plan:
    plan = mill_plan()
    probe = part_of(plan, "probe", PROBE)
    calibration = probe.calibration.model_copy(
        update={
            "basis": "certificate",
            "certificate": 4,
            "circuit": circuit_digest(plan, probe),
        }
    )
    return put_part(plan, "probe", probe.model_copy(update={"calibration": calibration}))


def changed(plan: Plan, what: str) -> Plan:
    probe = part_of(plan, "probe", PROBE)
    if what in ("cable_m", "cable_mm2"):
        return put_part(plan, "probe", probe.model_copy(update={what: 1.5}))
    if what == "pin":
        rows = tuple(
            row.model_copy(update={"pin": "A40"}) if row.signal == f"probe:{PROBE}.sense" else row
            for row in plan.assignments
        )
        return plan.model_copy(update={"assignments": rows})
    if what == "bits":
        board = part_of(plan, "board", "board_a")
        own = generic_types()["terminal_24v"]
        other = own.model_copy(update={"id": "own", "converter_bits": 16})
        plan = plan.model_copy(update={"board_types": (*plan.board_types, other)})
        return put_part(plan, "board", board.model_copy(update={"board_type": "own"}))
    sensor = probe.sensor.model_copy(update={what: {"fixed_ohm": 9_100.0, "supply_v": 5.0}[what]})
    return put_part(plan, "probe", probe.model_copy(update={"sensor": sensor}))


@pytest.mark.parametrize("what", ["fixed_ohm", "supply_v", "cable_m", "cable_mm2", "pin", "bits"])
def test_each_figure_that_a_certificate_rests_on_makes_it_void(what):
    plan = certified()
    assert f"void-{PROBE}" not in {f.key for f in severe(plan)}
    broken = changed(plan, what)
    assert is_void(broken, part_of(broken, "probe", PROBE))
    assert f"void-{PROBE}" in {f.key for f in severe(broken)}


def test_what_it_does_not_rest_on_leaves_it_as_it_is():
    plan = certified()
    for kept in (
        move_part(plan, "probe", PROBE, "loft"),
        put_part(plan, "probe", part_of(plan, "probe", PROBE).model_copy(update={"name": "X"})),
        put_part(
            plan,
            "probe",
            part_of(plan, "probe", PROBE).model_copy(
                update={"sensor": Thermistor(curve=(1e-3, 2e-4, 1e-7))}
            ),
        ),
        read_plan(plan_text(plan)),
    ):
        assert not is_void(kept, part_of(kept, "probe", PROBE))


def test_the_second_probe_of_a_part_rests_on_the_circuit_of_the_first():
    plan = mill_plan()
    lead, rh = part_of(plan, "probe", "cellar_temp"), part_of(plan, "probe", "cellar_rh")
    joined = put_part(
        plan,
        "probe",
        rh.model_copy(update={"sensor": None, "part_with": None, "quantity": lead.quantity}),
    )
    assert circuit_digest(joined, part_of(joined, "probe", "cellar_rh")) != circuit_digest(plan, rh)
