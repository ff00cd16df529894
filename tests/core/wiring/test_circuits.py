"""Special circuits, computed."""

import pytest
from tests.core.houses import fixed

from aldea.core.devices.loads.ratings import load_current_a
from aldea.core.devices.loads.stepped_fan.model import FanStep
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.wiring.circuits import circuits
from aldea.demo.mill import mill_plan


def changed(kind: str, part_id: str, **update: object) -> Plan:
    plan = fixed(mill_plan())
    key = {"relay": "relays", "load": "loads", "probe": "probes", "supply": "supplies",
           "control": "controls", "board": "boards"}[kind]  # fmt: skip
    part = next(p for p in getattr(plan, key) if p.id == part_id)
    return put_part(plan, kind, part.model_copy(update=update))


def fan_with(**update: object) -> Plan:
    fan = fixed(mill_plan()).load("extractor").stepped  # type: ignore[union-attr]
    assert fan is not None
    return changed("load", "extractor", stepped=fan.model_copy(update=update))


def test_a_step_that_closes_nothing_draws_nothing():
    fan = fixed(mill_plan()).load("extractor").stepped  # type: ignore[union-attr]
    assert fan is not None
    plan = fan_with(steps=(FanStep(name="pause", closed=()), *fan.steps))
    rows = next(c for c in circuits(plan) if c.owner == "load:extractor").rows
    assert rows[0] == ("pause", "none", "–", "–", "off")
    only = fan_with(steps=(FanStep(name="pause", closed=()),))
    load = only.load("extractor")
    assert load is not None
    assert load_current_a(load, only) == pytest.approx(load.power_w / (230 * 0.8))


def test_circuits_say_what_an_instrument_should_show():
    found = {c.owner: c for c in circuits(mill_plan())}
    assert dict(found["probe:manifold_tape"].facts)["An ohmmeter shows, dry"] == "365 to 494 kΩ"
    assert "unplugged" in dict(found["probe:drain_tape"].facts)["An ohmmeter shows, dry"]
    assert dict(found["probe:studio_temp"].facts)["Unplugged"] == "4095 counts: open"
    assert len(found["load:night_lights"].rows) == 4
    assert found["load:extractor"].caution
