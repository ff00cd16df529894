"""The parts list."""

import pytest

from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.parts import part_lines, total_price
from aldea.core.wiring.signals import signals
from aldea.demo.mill import mill_plan


def test_every_pull_up_that_the_schedule_names_is_on_the_parts_list():
    plan = mill_plan()
    lines = {(row.board, row.pin) for row in plan.assignments if row.signal in
             {s.id for s in signals(plan) if s.share}}  # fmt: skip
    noted = [w for w in conductors(plan) if "4.7 kΩ pull-up" in w.note]
    assert noted
    assert {line.part: line.needed for line in part_lines(plan)}["resistor 4.7 kΩ"] == len(
        lines
    ) + sum(r.pull_ohm == 4700.0 or r.transistor is not None for r in plan.relays)


def test_parts_are_counted_in_whole_packs_less_the_drawer():
    lines = {line.part: line for line in part_lines(mill_plan())}
    module = lines["relay module, 5 V, 10 A, active low"]
    assert (module.needed, module.missing, module.packs, module.price) == (4, 5, 2, 23.0)
    assert lines["resistor 10 kΩ"].packs == 0
    assert lines["resistor 470 kΩ"].needed == 5, "three in dividers, two at far ends"
    assert total_price(tuple(lines.values())) == pytest.approx(23 + 1.2 + 76)
