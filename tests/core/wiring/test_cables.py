"""A probe's cable: its section is recorded, judged, mended and printed as one figure."""

import pytest

from aldea.core.plan.edits import put_part
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines
from aldea.demo.mill import mill_plan


def far(cable_m, cable_mm2=0.5):
    """The mill with its radar at the end of a cable."""
    plan = mill_plan()
    radar = next(p for p in plan.probes if p.id == "stair_radar")
    probe = radar.model_copy(update={"cable_m": cable_m, "cable_mm2": cable_mm2})
    return put_part(plan, "probe", probe)


def drop_of(plan):
    return next((f for f in findings(plan) if f.key == "drop-stair_radar"), None)


@pytest.mark.parametrize(
    ("cable_m", "enough"),
    [(40, None), (60, "0.75 mm²"), (80, "1 mm²"), (120, "1.5 mm²")],
)
def test_the_section_that_is_enough_is_named_and_taken_by_one_press(cable_m, enough):
    # 80 mA at 5 V may lose 0.25 V: 3.125 Ω, at 72, 49, 36.2 and 24.2 Ω/km of loop.
    found = drop_of(far(cable_m))
    assert (found is None) == (enough is None)
    if found is not None:
        assert found.press == f"Take {enough}"
        taken = found.apply(far(cable_m))
        assert drop_of(taken) is None
        wires = [w for w in conductors(taken) if w.owner == "probe:stair_radar"]
        assert wires
        assert {wire.section for wire in wires} == {f"{float(enough.split()[0])} mm²"}


def test_where_no_section_is_enough_it_is_said():
    found = drop_of(far(300))
    assert found.apply is None
    assert "feed it near by" in found.mend


def test_the_parts_list_buys_the_section_that_was_recorded():
    def bought(plan):
        return {line.part: line.needed for line in part_lines(plan) if line.part.startswith("wire")}

    before, after = bought(far(20)), bought(far(20, 1.0))
    assert "wire 1.0 mm²" not in before
    assert after["wire 1.0 mm²"] > 20
    assert after["wire 0.5 mm²"] < before["wire 0.5 mm²"]
